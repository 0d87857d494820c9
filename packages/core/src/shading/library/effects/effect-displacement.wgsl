// Each pixel from elsewhere, by as much as the colours of a map say (SVG's feDisplacementMap).
import { decodeSrgb } from './color.wgsl';
import { isLinear, isOutside, screenCorner } from './screen.wgsl';

struct Displacement {
  /// Pixels, from a channel of 0 to one of 1.
  scale: f32,
  /// Channels of the map: 0 red to 3 alpha.
  xChannel: f32,
  yChannel: f32,
  /// Whether the map's colours are as they are, without alpha multiplied in.
  isStraight: f32,
  /// What of the picture a texture is stretched over: its upper left, and its size. Pixels.
  corner: vec2f,
  size: vec2f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> displacement: Displacement;
/// As large as the picture, or a texture.
@group(0) @binding(2) var chart: texture_2d<f32>;

fn chartAt(place: vec2f) -> vec4f {
  let size = vec2i(textureDimensions(chart));
  let at = place * vec2f(size) - 0.5;
  let low = vec2i(floor(at));
  let t = at - floor(at);
  let last = size - 1;
  let a = textureLoad(chart, clamp(low, vec2i(), last), 0);
  let b = textureLoad(chart, clamp(low + vec2i(1, 0), vec2i(), last), 0);
  let c = textureLoad(chart, clamp(low + vec2i(0, 1), vec2i(), last), 0);
  let d = textureLoad(chart, clamp(low + vec2i(1, 1), vec2i(), last), 0);
  var color = mix(mix(a, b, t.x), mix(c, d, t.x), t.y);
  if displacement.isStraight < 0.5 { color = vec4f(select(vec3f(), color.rgb / max(color.a, 1e-6), color.a > 0), color.a); }
  if isLinear { color = vec4f(decodeSrgb(color.rgb), color.a); }
  return color;
}

fn colorAt(at: vec2i, size: vec2i) -> vec4f {
  if isOutside(at, size) { return vec4f(); }
  return textureLoad(picture, at, 0);
}

@vertex fn displacementVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn displacementFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = vec2i(textureDimensions(picture));
  let isTexture = displacement.isStraight > 0.5;
  let by = chartAt(select(at.xy / vec2f(size), (at.xy - displacement.corner) / displacement.size, isTexture));
  let away = vec2f(by[u32(displacement.xChannel)], by[u32(displacement.yChannel)]) - 0.5;
  // The nearest pixel, as browsers have it.
  return colorAt(vec2i(floor(at.xy + displacement.scale * away)), size);
}
