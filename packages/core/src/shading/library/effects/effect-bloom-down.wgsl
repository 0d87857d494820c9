// Half the size, blurred: five samples between texels (Bjørge, "Bandwidth-efficient rendering", SIGGRAPH 2015).
import { Bloom } from './bloom.wgsl';
import { lightOf } from './expose.wgsl';
import { screenCorner } from './screen.wgsl';

/// Whether it reads the picture, and not what a pass before it made.
override isFirst = false;

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> bloom: Bloom;
@group(0) @binding(3) var between: sampler;

// Light of a pixel of the picture that is spread, and how much of it there is.
fn lightAt(wanted: vec2i) -> vec4f {
  let at = clamp(wanted, vec2i(), vec2i(textureDimensions(picture)) - 1);
  let c = textureLoad(picture, at, 0);
  if c.a <= 0 { return vec4f(); }
  let light = lightOf(c.rgb / c.a) * c.a;
  let most = max(light.r, max(light.g, light.b));
  return vec4f(light * saturate((most - bloom.threshold) / max(most, 1e-4)), c.a);
}

// The same five samples of light, pixel by pixel: between pixels what is shown is no measure of it.
fn firstOf(corner: vec2i) -> vec4f {
  var sum = vec4f();
  for (var y = -1; y <= 2; y++) {
    for (var x = -1; x <= 2; x++) {
      let isInner = x >= 0 && x <= 1 && y >= 0 && y <= 1;
      sum += lightAt(corner + vec2i(x, y)) * select(0.03125, 0.15625, isInner);
    }
  }
  return sum;
}

fn between4(place: vec2f) -> vec4f { return textureSampleLevel(picture, between, place, 0); }

@vertex fn bloomDownVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn bloomDownFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  if isFirst { return firstOf(vec2i(at.xy) * 2); }
  let texel = 1 / vec2f(textureDimensions(picture));
  // Targets may be half a pixel wider than half.
  let place = at.xy * 2 * texel;
  return between4(place) * 0.5
    + (between4(place + texel * vec2f(1, 1)) + between4(place + texel * vec2f(-1, 1))
    + between4(place + texel * vec2f(1, -1)) + between4(place + texel * vec2f(-1, -1))) * 0.125;
}
