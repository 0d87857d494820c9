// Meshes in colour. The entry points `meshVertex` and `meshFragment`.
import { meshVertex } from 'umber/vertex-stage.wgsl';
import { frame } from 'umber/frame.wgsl';
import { MeshVarying } from 'umber/hooks.wgsl';
import { fragmentOf, materialWord, takeMaterial } from 'umber/fragment-of.wgsl';
import { shade, surfaceOf } from 'umber/shade.wgsl';
#if ownVaryings
import { takeVaryings } from 'umber/hooks.wgsl';
#endif
#if hookMarch
import { marched } from 'umber/hooks.wgsl';
import { objectOf } from 'umber/fragment-of.wgsl';
import { depthOf, rayInObject, rayThrough } from 'umber/ray.wgsl';
#endif
#if fullStage
import { coverage } from 'umber/material.wgsl';
import { isClipped, isCutAway } from 'umber/clipping.wgsl';
import { isPointed, pointed } from 'umber/pointed.wgsl';
import { shownPixel } from 'umber/openness.wgsl';
import { ownBits, thingBits, useThingBits } from 'umber/things.wgsl';
#if !hookMarch
import { isOfOtherLevel, isSwarm } from 'umber/swarm.wgsl';
import { isElsewhere } from 'umber/peel.wgsl';
#endif

override isGathered = false;
#endif

#if hookMarch
/// The geometry only says which pixels are asked.
struct Marched {
  @location(0) color: vec4f,
  @builtin(frag_depth) depth: f32,
}

@fragment fn meshFragment(i: MeshVarying) -> Marched {
  takeMaterial(i);
#if ownVaryings
  takeVaryings(i);
#endif
  let m = objectOf(i);
#if fullStage
  let at = i.clip.xy + frame.origin;
  shownPixel = at;
  if useThingBits { ownBits = thingBits(u32(i.node.z)); }
#else
  let at = i.clip.xy;
#endif
  let hit = marched(rayInObject(m, rayThrough(at + frame.whole.xy)));
  if !hit.isHit { discard; }
  var p = fragmentOf(m, hit);
  let depth = depthOf(p.position);
#if screenSpace
  p.screenPosition = at + frame.whole.xy;
  p.screenSize = frame.whole.zw;
  p.depth = depth;
#endif
#if fullStage
  if isClipped && isCutAway(p.position, materialWord(i)) { discard; }
  let seen = shade(p, i.node);
  if isPointed {
    if seen.a < 0.002 { discard; }
    return Marched(pointed(p.position, p.normal, p.texcoord0, p.isFront, i.node.z, i.copy.z), depth);
  }
  return Marched(seen, depth);
#else
  return Marched(shade(p), depth);
#endif
}
#else
#if fullStage
/// A colour, or in three targets what a surface is made of.
struct Seen {
  @location(0) color: vec4f,
  @location(1) normal: vec4f,
  @location(2) emissive: vec4f,
}

@fragment fn meshFragment(i: MeshVarying, @builtin(front_facing) isFront: bool) -> Seen {
#else
@fragment fn meshFragment(i: MeshVarying, @builtin(front_facing) isFront: bool) -> @location(0) vec4f {
#endif
  takeMaterial(i);
#if ownVaryings
  takeVaryings(i);
#endif
  var p = fragmentOf(i, isFront);
#if fullStage
  let at = vec4f(i.clip.xy + frame.origin, i.clip.zw);
  shownPixel = at.xy;
  if useThingBits { ownBits = thingBits(u32(i.node.z)); }
#else
  let at = i.clip;
#endif
#if screenSpace
  p.screenPosition = at.xy + frame.whole.xy;
  p.screenSize = frame.whole.zw;
  p.depth = at.z;
#endif
#if fullStage
  if isClipped && isCutAway(p.position, materialWord(i)) { discard; }
  // For light that is added later: see deferred.wgsl.
  if isGathered {
    let s = surfaceOf(p);
    if coverage(s.alpha) < 0 { discard; }
    if isSwarm && isOfOtherLevel(at.xy + frame.whole.xy, i.copy.xy, i.copy.z) { discard; }
    return Seen(vec4f(s.baseColor, s.occlusion), vec4f(s.normal, s.roughness), vec4f(s.emissive, s.metallic + 2 * (1 - i.node.x)));
  }
  let seen = shade(p, i.node);
  if isElsewhere(at) { discard; }
  if isSwarm && isOfOtherLevel(at.xy + frame.whole.xy, i.copy.xy, i.copy.z) { discard; }
  // In place of the colour, where whatever covers a pixel is asked what it is.
  if isPointed {
    if seen.a < 0.002 { discard; }
    return Seen(pointed(p.position, p.normal, p.texcoord0, p.isFront, i.node.z, i.copy.z), vec4f(), vec4f());
  }
  return Seen(seen, vec4f(), vec4f());
#else
  return shade(p);
#endif
}
#endif
