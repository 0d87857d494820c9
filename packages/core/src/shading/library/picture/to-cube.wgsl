// One side of a cube out of a panorama.
import { directionOfSide, placeInPanorama } from './panorama.wgsl';

struct Side {
  number: u32,
  /// Pixels.
  size: f32,
  /// Level of the panorama that has as many pixels.
  level: f32,
  unused: f32,
}

@group(0) @binding(0) var<uniform> side: Side;
@group(0) @binding(1) var panorama: texture_2d<f32>;
@group(0) @binding(2) var panoramaSampler: sampler;

@vertex fn toCubeVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn toCubeFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let way = normalize(directionOfSide(side.number, at.xy / side.size * 2 - 1));
  return vec4f(textureSampleLevel(panorama, panoramaSampler, placeInPanorama(way), side.level).rgb, 1);
}
