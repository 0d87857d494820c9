// The longest way of each tile of 32 by 32 pixels.
import { screenCorner } from './screen.wgsl';
import { EffectMotion, movedBy } from './velocity.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> motion: EffectMotion;
@group(0) @binding(7) var velocities: texture_2d<f32>;

@vertex fn motionTilesVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn motionTilesFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let last = vec2i(textureDimensions(picture)) - 1;
  let size = vec2f(textureDimensions(picture));
  let corner = vec2i(at.xy) * 32;
  var longest = vec2f();
  for (var y = 0; y < 32; y++) {
    for (var x = 0; x < 32; x++) {
      let pixel = min(corner + vec2i(x, y), last);
      let way = movedBy(textureLoad(velocities, pixel, 0), (vec2f(pixel) + 0.5) / size, motion) * size;
      if dot(way, way) > dot(longest, longest) { longest = way; }
    }
  }
  return vec4f(longest, 0, 1);
}
