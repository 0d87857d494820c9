// One direction of eroding or dilating: the least or the greatest of each channel, colours multiplied by alpha.
import { given, isOutside, screenCorner, taken } from './screen.wgsl';

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
  let radius = i32(morphology.radius);
  let isErode = morphology.isErode > 0.5;
  var found = vec4f(select(0.0, 1.0, isErode));
  for (var i = -radius; i <= radius; i++) {
    let source = pixel + way * i;
    var c = vec4f();
    if !isOutside(source, size) { c = taken(textureLoad(picture, source, 0)); }
    found = select(max(found, c), min(found, c), isErode);
  }
  return given(found);
}
