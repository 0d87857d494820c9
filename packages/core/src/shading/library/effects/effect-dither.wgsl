// Noise of a step of what screens show, before the steps are made: two sums of chance, so that neither the mean nor the spread depends on
// where between two steps a colour lies (Lipshitz et al., "Quantization and Dither: A Theoretical Survey", 1992).
import { decodeSrgb, encodeSrgb } from './color.wgsl';
import { screenCorner } from './screen.wgsl';

struct Dither {
  /// Of 0 to 1.
  step: f32,
  /// Counts frames.
  frame: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> dither: Dither;

/// Whole numbers without a pattern, 0 to 1 (PCG in three dimensions: Jarzynski and Olano, "Hash Functions for GPU Rendering", 2020).
fn chance(at: vec3u) -> vec3f {
  var v = at * 1664525u + 1013904223u;
  v.x += v.y * v.z;
  v.y += v.z * v.x;
  v.z += v.x * v.y;
  v = v ^ (v >> vec3u(16u));
  v.x += v.y * v.z;
  v.y += v.z * v.x;
  v.z += v.x * v.y;
  return vec3f(v >> vec3u(8u)) / 16777216;
}

@vertex fn ditherVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn ditherFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let own = textureLoad(picture, vec2i(at.xy), 0);
  if own.a <= 0 { return own; }
  let pixel = vec2u(at.xy);
  let time = u32(dither.frame);
  let noise = chance(vec3u(pixel, time)) + chance(vec3u(pixel.yx + 4096u, time)) - 1;
  // Black and white stay: noise there has one side alone.
  let c = encodeSrgb(saturate(own.rgb / own.a));
  let room = min(min(c, 1 - c), vec3f(dither.step));
  return vec4f(decodeSrgb(c + noise * room) * own.a, own.a);
}
