// A rim that glows by the angle between the surface and the camera.
import { fresnel } from './light.wgsl';

struct Settings {
  edge: f32,   // 0.5..6 = 2.5   how fast the rim falls off
  glow: vec3f, // color = #ffb46a   colour of the rim
}

@group(0) @binding(0) var<uniform> settings: Settings;

fn rim(normal: vec3f, toCamera: vec3f) -> vec3f {
  let facing = saturate(dot(normal, toCamera));
  let strength = fresnel(facing, settings.edge);
  return settings.glow * strength;
}

// A glass float seen head-on, drawn over the whole picture.
@fragment fn ball(@location(0) uv: vec2f) -> @location(0) vec4f {
  // A pixel's own size tells the picture's shape: without it the ball is as wide as the picture.
  let pixel = fwidth(uv);
  let p = (uv * 2 - 1) * vec2f(pixel.y / pixel.x, 1);
  let r2 = dot(p, p);
  if r2 > 0.9 { return vec4f(0.02, 0.05, 0.07, 1); }
  let normal = vec3f(p.x, -p.y, sqrt(0.9 - r2)) / sqrt(0.9);
  let body = vec3f(0.03, 0.14, 0.12) * (0.4 + 0.6 * saturate(normal.y));
  return vec4f(sqrt(body + rim(normal, vec3f(0, 0, 1))), 1);
}
