// Light shafts, put into the picture.
import { lightOf, shownOf } from './expose.wgsl';
import { screenCorner } from './screen.wgsl';
import { Shafts } from './shafts.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> shafts: Shafts;
@group(0) @binding(2) var found: texture_2d<f32>;
@group(0) @binding(3) var between: sampler;

@vertex fn addShaftsVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn addShaftsFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let own = textureLoad(picture, vec2i(at.xy), 0);
  let texel = 1 / vec2f(textureDimensions(found));
  let place = at.xy * 0.5 * texel;
  // Its grain repeats over four pixels at most.
  var sum = 0.0;
  for (var k = 0; k < 9; k++) {
    let offset = vec2f(f32(k % 3), f32(k / 3)) * 1.5 - 1.5;
    sum += textureSampleLevel(found, between, place + offset * texel, 0).r;
  }
  // Where nothing is drawn there is air as well.
  let light = shafts.color * (sum / 9);
  let most = max(light.r, max(light.g, light.b));
  let alpha = max(own.a, saturate(most));
  let below = lightOf(own.rgb / max(own.a, 1e-6)) * own.a;
  return vec4f(shownOf((below + light) / max(alpha, 1e-6)) * alpha, alpha);
}
