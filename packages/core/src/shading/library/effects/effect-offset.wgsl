// A picture moved by pixels and parts of them.
import { given, isOutside, screenCorner, taken } from './screen.wgsl';

struct Offset {
  by: vec2f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> moved: Offset;

fn colorAt(at: vec2i, size: vec2i) -> vec4f {
  if isOutside(at, size) { return vec4f(); }
  return taken(textureLoad(picture, at, 0));
}

@vertex fn offsetVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn offsetFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = vec2i(textureDimensions(picture));
  let place = at.xy - moved.by - 0.5;
  let low = vec2i(floor(place));
  let t = place - floor(place);
  let above = mix(colorAt(low, size), colorAt(low + vec2i(1, 0), size), t.x);
  let below = mix(colorAt(low + vec2i(0, 1), size), colorAt(low + vec2i(1, 1), size), t.x);
  return given(mix(above, below, t.y));
}
