// A colour everywhere.
import { screenCorner } from './screen.wgsl';

struct Flood {
  /// As screens have it, multiplied by alpha.
  color: vec4f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> flood: Flood;

@vertex fn floodVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn floodFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  // The picture is bound as for all effects.
  return flood.color + textureLoad(picture, vec2i(at.xy), 0) * 0;
}
