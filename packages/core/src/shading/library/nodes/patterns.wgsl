// Patterns for shader graphs and hooks.
import { hashFloat, noise } from 'umber/noise.wgsl';

/// 0 and 1 in squares of side 1.
fn checker(place: vec2f) -> f32 {
  let cell = floor(place);
  return abs(cell.x + cell.y - 2 * floor((cell.x + cell.y) / 2));
}

/// 1 on stripes and 0 between them, one stripe to a unit; `width` is their share of it, 0 to 1.
fn stripes(x: f32, width: f32) -> f32 {
  return select(0.0, 1.0, fract(x) < width);
}

/// Noise with finer noises on top, each with waves half as long and half as high; about -1 to 1.
fn layeredNoise(place: vec3f, octaves: i32, seed: i32) -> f32 {
  var sum = 0.0;
  var height = 1.0;
  var whole = 0.0;
  var at = place;
  for (var i = 0; i < clamp(octaves, 1, 12); i++) {
    sum += noise(at, seed + i) * height;
    whole += height;
    height *= 0.5;
    at *= 2;
  }
  return sum / whole;
}

/// Distances to the nearest and to the second nearest of points thrown by chance, one to a cell of side 1
/// (Worley, "A Cellular Texture Basis Function", 1996).
fn cells(place: vec3f, seed: i32) -> vec2f {
  let middle = vec3i(floor(place));
  var near = vec2f(8);
  for (var i = 0; i < 27; i++) {
    let cell = middle + vec3i(i % 3, (i / 3) % 3, i / 9) - 1;
    let point = vec3f(cell) + vec3f(hashFloat(cell, seed), hashFloat(cell, seed + 1), hashFloat(cell, seed + 2));
    let d = distance(place, point);
    near = select(vec2f(near.x, min(near.y, d)), vec2f(d, near.x), d < near.x);
  }
  return near;
}

/// A threshold of 0 to below 1 for each pixel, in an even pattern of 4 by 4 (Bayer, 1973): what is above it is shown.
fn ditherThreshold(pixel: vec2f) -> f32 {
  let p = vec2u(vec2i(floor(pixel))) & vec2u(3);
  let fine = ((p.x ^ p.y) & 1) * 2 + (p.y & 1);
  let coarse = (((p.x ^ p.y) >> 1) & 1) * 2 + ((p.y >> 1) & 1);
  return (f32(fine * 4 + coarse) + 0.5) / 16;
}
