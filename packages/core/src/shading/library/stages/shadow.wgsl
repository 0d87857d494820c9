// Meshes as a light sees them: depth alone. The entry points `meshVertex` and `meshFragment`.
import { meshVertex } from 'umber/vertex-stage.wgsl';
import { frame } from 'umber/frame.wgsl';
import { MeshVarying } from 'umber/hooks.wgsl';
import { fragmentOf, materialWord, takeMaterial } from 'umber/fragment-of.wgsl';
import { isClipped, isCutAway } from 'umber/clipping.wgsl';
#if ownVaryings
import { takeVaryings } from 'umber/hooks.wgsl';
#endif
#if hookMarch
import { marched } from 'umber/hooks.wgsl';
import { objectOf } from 'umber/fragment-of.wgsl';
import { depthOf, rayInObject, rayThrough } from 'umber/ray.wgsl';

@fragment fn meshFragment(i: MeshVarying) -> @builtin(frag_depth) f32 {
  takeMaterial(i);
#if ownVaryings
  takeVaryings(i);
#endif
  let m = objectOf(i);
  let hit = marched(rayInObject(m, rayThrough(i.clip.xy)));
  if !hit.isHit { discard; }
  let place = m * vec4f(hit.position, 1);
  if isClipped && isCutAway(place, materialWord(i)) { discard; }
  return depthOf(place);
}
#else
import { coverage, isMask, surfaceDefaults } from 'umber/material.wgsl';
#if hookSurface
import { surfaceAnswer } from 'umber/hooks.wgsl';
#endif

@fragment fn meshFragment(i: MeshVarying, @builtin(front_facing) isFront: bool) {
  takeMaterial(i);
#if ownVaryings
  takeVaryings(i);
#endif
  var p = fragmentOf(i, isFront);
#if screenSpace
  p.screenPosition = i.clip.xy;
  p.screenSize = frame.whole.zw;
  p.depth = i.clip.z;
#endif
  if isClipped && isCutAway(p.position, materialWord(i)) { discard; }
  if isMask {
#if hookSurface
    let s = surfaceAnswer(p);
#else
    let s = surfaceDefaults(p);
#endif
    if coverage(s.alpha) < 0 { discard; }
  }
}
#endif
