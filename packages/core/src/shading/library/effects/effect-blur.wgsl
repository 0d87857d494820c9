// One direction of a Gaussian blur, and of a move.
import { given, isOutside, screenCorner, taken } from './screen.wgsl';

struct Blur {
  direction: vec2f,
  /// Standard deviation in pixels.
  deviation: f32,
  /// Pixels by which the picture is moved, along the direction.
  shift: f32,
  /// Of all pixels within reach together.
  weights: f32,
  /// What lies outside of the picture: 0 its edge, 1 its other side, 2 nothing.
  edge: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> blur: Blur;

fn colorAt(at: vec2i, size: vec2i) -> vec4f {
  if isOutside(at, size) { return vec4f(); }
  return taken(textureLoad(picture, at, 0));
}

@vertex fn blurVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn blurFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = vec2i(textureDimensions(picture));
  let way = vec2i(blur.direction);
  let whole = round(blur.shift);
  let part = whole - blur.shift;
  let middle = vec2i(at.xy) - way * i32(whole);
  if blur.deviation < 0.01 {
    // Between two pixels.
    let other = colorAt(middle + way * i32(sign(part)), size);
    return given(mix(colorAt(middle, size), other, abs(part)));
  }
  // Beyond three deviations lies 0.3% of the weight, and outside of the picture is nothing: large blurs take no more steps
  // than the picture has pixels.
  let along = dot(middle, way);
  let last = dot(size, way) - 1;
  let reach = i32(min(ceil(blur.deviation * 3), 65536));
  let exponent = -0.5 / (blur.deviation * blur.deviation);
  var sum = vec4f();
  if blur.edge == 1 {
    // Whole turns around a picture weigh all of it nearly alike: no more than four are taken.
    let turns = (last + 1) * 2;
    var weights = 0.0;
    for (var i = max(-reach, -turns); i <= min(reach, turns - 1); i++) {
      let weight = exp(f32(i * i) * exponent);
      let there = (along + i + turns) % (last + 1);
      sum += weight * taken(textureLoad(picture, middle + way * (there - along), 0));
      weights += weight;
    }
    return given(sum / weights);
  }
  if blur.edge == 0 {
    // All that lies beyond an edge has the edge's color, and what the weights inside leave of half of all.
    var before = (blur.weights - 1) * 0.5;
    var after = before;
    for (var i = max(-reach, -along); i <= min(reach, last - along); i++) {
      let weight = exp(f32(i * i) * exponent);
      sum += weight * taken(textureLoad(picture, middle + way * i, 0));
      before -= select(0.0, weight, i < 0);
      after -= select(0.0, weight, i > 0);
    }
    sum += max(before, 0.0) * taken(textureLoad(picture, middle - way * along, 0));
    sum += max(after, 0.0) * taken(textureLoad(picture, middle + way * (last - along), 0));
    return given(sum / blur.weights);
  }
  for (var i = max(-reach, -along); i <= min(reach, last - along); i++) {
    let away = f32(i) - part;
    sum += exp(away * away * exponent) * taken(textureLoad(picture, middle + way * i, 0));
  }
  return given(sum / blur.weights);
}
