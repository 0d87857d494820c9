// The colour of a place: the author's hooks, and light.
import { frame } from 'umber/frame.wgsl';
import { Fragment, Surface } from 'umber/surface.wgsl';
import { baseColorAt, coverage, surfaceDefaults } from 'umber/material.wgsl';
#if hookSurface
import { surfaceAnswer } from 'umber/hooks.wgsl';
#endif
#if hookOutputColor
import { colorAnswer } from 'umber/hooks.wgsl';
#endif
#if fullStage
import { allAround, layeredOf, ownLight } from 'umber/layered.wgsl';
import { withLights } from 'umber/lit.wgsl';
import { throughFog, fogOverGiven } from 'umber/fog.wgsl';
import { present, presentGiven } from 'umber/tone.wgsl';
import { inspected, isInspected, marked, showsQuantity } from 'umber/inspect.wgsl';
#else
import { shadingOf, shine, ambient } from 'umber/lighting.wgsl';
import { lightAt } from 'umber/lights.wgsl';
import { toneMap } from 'umber/color.wgsl';
#if hookLight
import { lightAnswer } from 'umber/hooks.wgsl';
#endif
#endif

/// True where the base color is shown as it is, whatever the light.
override isUnlit = false;

/// What the surface is made of.
fn surfaceOf(p: Fragment) -> Surface {
#if hookSurface
  return surfaceAnswer(p);
#else
  return surfaceDefaults(p);
#endif
}

/// A colour that is shown as it was given: only the air before it changes it.
fn shown(color: vec3f, alpha: f32, p: Fragment) -> vec4f {
#if fullStage
  if isInspected { return marked(color, alpha); }
  return presentGiven(fogOverGiven(color, p.position, p.toCamera), alpha);
#else
  return vec4f(color * alpha, alpha);
#endif
}

#if fullStage
/// @param node 1 when shadows fall on it; how much it is larger than its geometry; its slot; its material
fn shade(p: Fragment, node: vec4f) -> vec4f {
  // By itself: compilers leave out what a constant alone keeps from being reached.
  if isInspected {
    if showsQuantity() {
      let seen = surfaceOf(p);
      return presentGiven(inspected(seen, p), max(coverage(seen.alpha), 1));
    }
  }
#else
fn shade(p: Fragment) -> vec4f {
#endif
#if hookOutputAlone
  // A final colour that takes no lit colour needs no light at all.
#if hookOutputSurface
  let s = surfaceOf(p);
#else
  let s = Surface();
#endif
  let given = colorAnswer(vec4f(), s, p);
  return shown(given.rgb, coverage(given.a), p);
#else
#if hookOutputColor
  let s = surfaceOf(p);
  // The last hook has its say whether there is light or not.
  if isUnlit {
    let given = colorAnswer(vec4f(s.baseColor, coverage(s.alpha)), s, p);
    return shown(given.rgb, coverage(given.a), p);
  }
#else
#if hookSurface
  let s = surfaceOf(p);
  if isUnlit { return shown(s.baseColor, coverage(s.alpha), p); }
#else
  if isUnlit {
    let base = baseColorAt(p);
    return shown(base.rgb, coverage(base.a), p);
  }
  let s = surfaceOf(p);
#endif
#endif
  var alpha = coverage(s.alpha);
#if fullStage
  let layered = layeredOf(s, p);
  var color = withLights(allAround(layered, s, p, node.y), layered, s, p, node.x);
  color += ownLight(layered, s);
#else
  let shading = shadingOf(s, p);
  var color = ambient(shading) * s.occlusion;
  for (var k = 0u; k < frame.lightCount; k++) {
    let l = lightAt(k, p.position);
#if hookLight
    color += lightAnswer(s, l, p);
#else
    color += shine(shading, l);
#endif
  }
  color += s.emissive;
#endif
#if hookOutputColor
  let given = colorAnswer(vec4f(color, alpha), s, p);
  color = given.rgb;
  alpha = coverage(given.a);
#endif
#if fullStage
  if isInspected { return marked(color, alpha); }
  return present(throughFog(color, p.position, p.toCamera), alpha);
#else
  return vec4f(toneMap(color * frame.exposure) * alpha, alpha);
#endif
#endif
}
