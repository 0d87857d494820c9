// A level of a cube as a square, with a border of one texel that repeats what is across the fold.
import { unfolded } from './probes.wgsl';

struct Square {
  /// Pixels of a side.
  size: f32,
  level: f32,
  unused: vec2f,
}

@group(1) @binding(0) var<uniform> square: Square;
@group(1) @binding(1) var cube: texture_cube<f32>;
@group(1) @binding(2) var cubeSampler: sampler;

@vertex fn octahedralVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn octahedralFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  var p = ((at.xy - 1) / (square.size - 2)) * 2 - 1;
  // Beyond an edge one comes back in on the same edge, mirrored about its middle.
  if abs(p.x) > 1 { p = vec2f(sign(p.x) * 2 - p.x, -p.y); }
  if abs(p.y) > 1 { p = vec2f(-p.x, sign(p.y) * 2 - p.y); }
  return vec4f(textureSampleLevel(cube, cubeSampler, unfolded(p), square.level).rgb, 1);
}
