// Edges without steps, found in the picture itself (Lottes, "FXAA", 2009): where brightness jumps, a pixel is moved towards its
// neighbour by as much as the end of its edge is near.
import { fromLinear, screenCorner, toLinear } from './screen.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> edges: Edges;
@group(0) @binding(3) var between: sampler;

struct Edges {
  /// Jumps of brightness below it are left alone.
  threshold: f32,
}

/// Steps along an edge, on each side.
const REACH = 10;

fn brightness(c: vec4f) -> f32 { return dot(c.rgb, vec3f(0.299, 0.587, 0.114)) + c.a * 0.5; }

fn brightAt(at: vec2i) -> f32 {
  return brightness(textureLoad(picture, clamp(at, vec2i(), vec2i(textureDimensions(picture)) - 1), 0));
}

fn brightBetween(place: vec2f) -> f32 {
  return brightness(textureSampleLevel(picture, between, place / vec2f(textureDimensions(picture)), 0));
}

@vertex fn smoothEdgesVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn smoothEdgesFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let own = textureLoad(picture, pixel, 0);
  let m = brightness(own);
  let n = brightAt(pixel + vec2i(0, -1));
  let s = brightAt(pixel + vec2i(0, 1));
  let w = brightAt(pixel + vec2i(-1, 0));
  let e = brightAt(pixel + vec2i(1, 0));
  let range = max(m, max(max(n, s), max(w, e))) - min(m, min(min(n, s), min(w, e)));
  if range < edges.threshold { return own; }
  let nw = brightAt(pixel + vec2i(-1, -1));
  let ne = brightAt(pixel + vec2i(1, -1));
  let sw = brightAt(pixel + vec2i(-1, 1));
  let se = brightAt(pixel + vec2i(1, 1));
  let across = abs(nw - 2 * n + ne) + 2 * abs(w - 2 * m + e) + abs(sw - 2 * s + se);
  let down = abs(nw - 2 * w + sw) + 2 * abs(n - 2 * m + s) + abs(ne - 2 * e + se);
  // Whether the edge lies flat: brightness jumps upwards or downwards.
  let isFlat = down >= across;
  let before = select(w, n, isFlat);
  let behind = select(e, s, isFlat);
  let isBefore = abs(before - m) >= abs(behind - m);
  let jump = select(behind, before, isBefore) - m;
  let out = select(vec2f(1, 0), vec2f(0, 1), isFlat) * select(1.0, -1.0, isBefore);
  let along = select(vec2f(0, 1), vec2f(1, 0), isFlat);
  // Between the two rows of the edge.
  let start = at.xy + out * 0.5;
  let middle = m + jump * 0.5;
  var left = 1.0;
  var right = 1.0;
  var leftJump = brightBetween(start - along) - middle;
  var rightJump = brightBetween(start + along) - middle;
  let limit = abs(jump) * 0.25;
  for (var i = 0; i < REACH; i++) {
    if abs(leftJump) < limit {
      left += 1;
      leftJump = brightBetween(start - along * left) - middle;
    }
    if abs(rightJump) < limit {
      right += 1;
      rightJump = brightBetween(start + along * right) - middle;
    }
  }
  let isLeft = left < right;
  let nearer = min(left, right);
  let ending = select(rightJump, leftJump, isLeft);
  // Where the edge ends on this pixel's own side, it belongs where it is.
  var shift = 0.0;
  if (ending < 0) != (m - middle < 0) { shift = 0.5 - nearer / (left + right); }
  // Single pixels are softened, too.
  let mean = (2 * (n + s + w + e) + nw + ne + sw + se) / 12;
  let lone = saturate(abs(mean - m) / range);
  let soft = lone * lone * (3 - 2 * lone);
  shift = max(shift, soft * soft * 0.5);
  let neighbor = clamp(pixel + vec2i(out), vec2i(), vec2i(textureDimensions(picture)) - 1);
  // As samples of a pixel are averaged: in linear light.
  return fromLinear(mix(toLinear(own), toLinear(textureLoad(picture, neighbor, 0)), shift));
}
