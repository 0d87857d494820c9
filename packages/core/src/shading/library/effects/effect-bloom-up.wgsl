// A level with what the wider one gives it: eight samples between texels (Bjørge, "Bandwidth-efficient rendering", SIGGRAPH 2015).
import { Bloom } from './bloom.wgsl';
import { screenCorner } from './screen.wgsl';

/// The level itself, and the next wider one.
@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> bloom: Bloom;
@group(0) @binding(2) var wider: texture_2d<f32>;
@group(0) @binding(3) var between: sampler;

@vertex fn bloomUpVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

fn widerAt(place: vec2f, x: f32, y: f32) -> vec4f {
  return textureSampleLevel(wider, between, place + vec2f(x, y) / vec2f(textureDimensions(wider)), 0);
}

@fragment fn bloomUpFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let own = textureLoad(picture, vec2i(at.xy), 0);
  let place = at.xy * 0.5 / vec2f(textureDimensions(wider));
  let wide = (widerAt(place, -1, 0) + widerAt(place, 1, 0) + widerAt(place, 0, -1) + widerAt(place, 0, 1)
    + (widerAt(place, -0.5, 0.5) + widerAt(place, 0.5, 0.5) + widerAt(place, -0.5, -0.5) + widerAt(place, 0.5, -0.5)) * 2) / 12;
  return mix(own, wide, bloom.spread);
}
