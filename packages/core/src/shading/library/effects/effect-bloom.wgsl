// The picture with a share of its light spread around: as much as a lens scatters is gone from where it was.
import { Bloom } from './bloom.wgsl';
import { lightOf, shownOf } from './expose.wgsl';
import { screenCorner } from './screen.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> bloom: Bloom;
/// Half as large.
@group(0) @binding(2) var spreadLight: texture_2d<f32>;
@group(0) @binding(3) var between: sampler;

@vertex fn bloomVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn bloomFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let c = textureLoad(picture, vec2i(at.xy), 0);
  let around = textureSampleLevel(spreadLight, between, at.xy * 0.5 / vec2f(textureDimensions(spreadLight)), 0);
  var own = vec3f();
  if c.a > 0 { own = lightOf(c.rgb / c.a) * c.a; }
  let most = max(own.r, max(own.g, own.b));
  // What lies below the threshold stays.
  let given = own * (saturate((most - bloom.threshold) / max(most, 1e-4)) * bloom.amount);
  let light = own - given + around.rgb * bloom.amount;
  // Light beyond the edges of things covers what it lights.
  let alpha = max(c.a, saturate(max(light.r, max(light.g, light.b))));
  let shownLight = shownOf(light / max(alpha, 1e-6)) * alpha;
  return vec4f(shownLight, alpha);
}
