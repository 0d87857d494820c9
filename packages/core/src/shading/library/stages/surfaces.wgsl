// Meshes by what their surfaces are: for effects that ask which way they face, how they mirror and how they move. The entry points
// `meshVertex` and `meshFragment`.
import { meshVertex } from 'umber/vertex-stage.wgsl';
import { frame, frameNow } from 'umber/frame.wgsl';
import { MeshVarying } from 'umber/hooks.wgsl';
import { Fragment, Surface } from 'umber/surface.wgsl';
import { shadingOf } from 'umber/lighting.wgsl';
import { fragmentOf, materialWord, takeMaterial } from 'umber/fragment-of.wgsl';
import { coverage, surfaceDefaults } from 'umber/material.wgsl';
import { isClipped, isCutAway } from 'umber/clipping.wgsl';
import { isMoving, motion, velocityOf } from 'umber/motion.wgsl';
import { thingBits, useThingBits } from 'umber/things.wgsl';
#if hookSurface
import { surfaceAnswer } from 'umber/hooks.wgsl';
#endif
#if ownVaryings
import { takeVaryings } from 'umber/hooks.wgsl';
#endif
#if hookMarch
import { marched } from 'umber/hooks.wgsl';
import { objectOf } from 'umber/fragment-of.wgsl';
import { depthOf, rayInObject, rayThrough } from 'umber/ray.wgsl';
#else
import { isOfOtherLevel, isSwarm } from 'umber/swarm.wgsl';
#endif

override isUnlit = false;

/// A pipeline writes as many of them as it has targets.
struct Seen {
  /// In the world; and how rough it is: 2 where no light counts.
  @location(0) normal: vec4f,
  /// What it mirrors straight on; and how much of the light from all around arrives.
  @location(1) mirror: vec4f,
  /// See `velocityOf`; which depth it had in the frame before; and that something is there.
  @location(2) velocity: vec4f,
  /// Bits of the thing, eight in each: see things.wgsl.
  @location(3) bits: vec4f,
#if hookMarch
  @builtin(frag_depth) depth: f32,
#endif
}

fn surfaceAt(p: Fragment) -> Surface {
#if hookSurface
  return surfaceAnswer(p);
#else
  return surfaceDefaults(p);
#endif
}

fn bitsOf(i: MeshVarying) -> vec4f {
  if !useThingBits { return vec4f(1); }
  return vec4f((vec4u(thingBits(u32(i.slot))) >> vec4u(0, 8, 16, 24)) & vec4u(255)) / 255;
}

#if hookMarch
@fragment fn meshFragment(i: MeshVarying) -> Seen {
  frame = frameNow;
  takeMaterial(i);
#if ownVaryings
  takeVaryings(i);
#endif
  let m = objectOf(i);
  let hit = marched(rayInObject(m, rayThrough(i.clip.xy + frame.whole.xy)));
  if !hit.isHit { discard; }
  var p = fragmentOf(m, hit);
#if screenSpace
  p.screenPosition = i.clip.xy + frame.whole.xy;
  p.screenSize = frame.whole.zw;
  p.depth = depthOf(p.position);
#endif
  if isClipped && isCutAway(p.position, materialWord(i)) { discard; }
  let s = surfaceAt(p);
  // The camera alone is asked where it was.
  let now = (motion.now * vec4f(p.position, 1)).xyw;
  let before = motion.before * vec4f(p.position, 1);
  return Seen(
    vec4f(s.normal, select(s.roughness, 2, isUnlit)),
    vec4f(shadingOf(s, p).f0, s.occlusion),
    vec4f(velocityOf(now, before.xyw), before.z / before.w, 1),
    bitsOf(i),
    depthOf(p.position),
  );
}
#else
@fragment fn meshFragment(i: MeshVarying, @builtin(front_facing) isFront: bool) -> Seen {
  frame = frameNow;
  takeMaterial(i);
#if ownVaryings
  takeVaryings(i);
#endif
  var p = fragmentOf(i, isFront);
#if screenSpace
  p.screenPosition = i.clip.xy + frame.whole.xy;
  p.screenSize = frame.whole.zw;
  p.depth = i.clip.z;
#endif
  if isClipped && isCutAway(p.position, materialWord(i)) { discard; }
  let s = surfaceAt(p);
  if coverage(s.alpha) < 0 { discard; }
  if isSwarm && isOfOtherLevel(i.clip.xy + frame.whole.xy, i.copy.xy, i.copy.z) { discard; }
  var velocity = vec3f();
  if isMoving { velocity = vec3f(velocityOf(i.now, i.before.xyw), i.before.z / i.before.w); }
  return Seen(
    vec4f(s.normal, select(s.roughness, 2, isUnlit)),
    vec4f(shadingOf(s, p).f0, s.occlusion),
    vec4f(velocity, 1),
    bitsOf(i),
  );
}
#endif
