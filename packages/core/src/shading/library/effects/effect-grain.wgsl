// Grain of a film: strongest in what is neither dark nor bright, another one in each frame.
import { screenCorner } from './screen.wgsl';

struct Grain {
  corner: vec2f,
  amount: f32,
  /// Pixels of a grain.
  size: f32,
  /// Another number in each frame.
  frame: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> grain: Grain;

// PCG (O'Neill, 2014), as Jarzynski and Olano ("Hash Functions for GPU Rendering", 2020) have it.
fn pcg(given: u32) -> u32 {
  let state = given * 747796405 + 2891336453;
  let word = ((state >> ((state >> 28) + 4)) ^ state) * 277803737;
  return (word >> 22) ^ word;
}

fn chance(at: vec2u) -> f32 {
  return f32(pcg(at.x + pcg(at.y + pcg(u32(grain.frame))))) / 4294967295.0;
}

@vertex fn grainVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn grainFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let c = textureLoad(picture, vec2i(at.xy), 0);
  if c.a <= 0 { return vec4f(); }
  let cell = vec2u(vec2i(floor((at.xy - grain.corner) / grain.size)) + 65536);
  // Of two, the sum is most often in the middle.
  let noise = chance(cell) + chance(cell + vec2u(7919, 104729)) - 1;
  let straight = c.rgb / c.a;
  let light = dot(straight, vec3f(0.2126, 0.7152, 0.0722));
  let weight = sqrt(saturate(light * (1 - light) * 4));
  return vec4f(saturate(straight + noise * grain.amount * weight) * c.a, c.a);
}
