// What is seen through a surface: the opaque scene behind it, bent, absorbed and blurred.
import { environmentSampler } from './air.wgsl';
import { Fragment, Surface } from './surface.wgsl';
import { frame } from './frame.wgsl';

/// Radiance of the opaque scene, weighted: see `present` in tone.wgsl.
@group(0) @binding(7) var sceneRadiance: texture_2d<f32>;

// Where the picture shows a place of the world: 0..1 from the upper left.
fn onScreen(position: vec3f) -> vec2f {
  let clip = frame.viewProjection * vec4f(position, 1);
  let at = clip.xy / max(clip.w, 1e-6);
  return vec2f(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5);
}

fn radianceOnScreen(at: vec2f, level: f32) -> vec3f {
  let weighted = textureSampleLevel(sceneRadiance, environmentSampler, at, level);
  return weighted.rgb / max(weighted.a, 1e-4);
}

// The way through the body for one index of refraction.
fn wayThrough(s: Surface, p: Fragment, ior: f32, scale: f32) -> vec3f {
  return refract(-p.toCamera, s.normal, 1 / max(ior, 1)) * (s.thickness * scale);
}

/// Radiance that arrives through the surface. `scale` is the node's: thickness is in the geometry's own metres.
fn behindSurface(s: Surface, p: Fragment, scale: f32) -> vec3f {
  let ior = max(s.ior, 1);
  // A surface that hardly bends light hardly blurs it either.
  let blur = s.roughness * saturate(ior * 2 - 2);
  let level = log2(max(frame.whole.z, 1)) * blur;
  let way = wayThrough(s, p, ior, scale);
  var color: vec3f;
  if s.dispersion > 0 {
    let spread = (ior - 1) * 0.025 * s.dispersion;
    color.r = radianceOnScreen(onScreen(p.position + wayThrough(s, p, ior - spread, scale)), level).r;
    color.g = radianceOnScreen(onScreen(p.position + way), level).g;
    color.b = radianceOnScreen(onScreen(p.position + wayThrough(s, p, ior + spread, scale)), level).b;
  } else {
    color = radianceOnScreen(onScreen(p.position + way), level);
  }
  // Lambert and Beer.
  return color * pow(max(s.attenuationColor, vec3f(1e-6)), vec3f(length(way) / max(s.attenuationDistance, 1e-6)));
}
