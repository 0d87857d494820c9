// One direction of eroding or dilating: the least or the greatest of each channel, colours multiplied by alpha.
import { given, screenCorner, taken } from './screen.wgsl';

struct Morphology {
  direction: vec2f,
  radius: f32,
  /// 1 for the least, 0 for the greatest.
  isErode: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> morphology: Morphology;

@vertex fn morphologyVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn morphologyFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let size = vec2i(textureDimensions(picture));
  let way = vec2i(morphology.direction);
  let radius = i32(min(morphology.radius, 65536));
  let isErode = morphology.isErode > 0.5;
  let along = dot(pixel, way);
  let low = max(-radius, -along);
  let high = min(radius, dot(size, way) - 1 - along);
  var found = vec4f(select(0.0, 1.0, isErode));
  // Outside of the picture is nothing.
  if isErode && (low > -radius || high < radius) { found = vec4f(); }
  for (var i = low; i <= high; i++) {
    let c = taken(textureLoad(picture, pixel + way * i, 0));
    found = select(max(found, c), min(found, c), isErode);
  }
  return given(found);
}
