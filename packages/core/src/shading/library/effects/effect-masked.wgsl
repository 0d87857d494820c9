// An effect on some things alone: elsewhere the picture stays as it was.
import { screenCorner } from './screen.wgsl';
import { bitsAt } from './seen-things.wgsl';

struct Masked {
  /// Bits of the things that it treats.
  sees: u32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> masked: Masked;
@group(0) @binding(2) var treated: texture_2d<f32>;
@group(0) @binding(8) var things: texture_2d<f32>;

@vertex fn maskedVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn maskedFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  // It may be drawn with fewer pixels than the picture has.
  let drawn = vec2i(at.xy * vec2f(textureDimensions(things)) / vec2f(textureDimensions(picture)));
  if (bitsAt(things, drawn) & masked.sees) == 0 { return textureLoad(picture, pixel, 0); }
  return textureLoad(treated, pixel, 0);
}
