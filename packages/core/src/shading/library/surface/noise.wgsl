// Chance and smooth noise; script has the same as `hashFloat` and `noise`.

/// 32 bits out of a cell: products with odd constants, mixed by shifts.
fn hashCell(cell: vec3i, seed: i32) -> u32 {
  let c = bitcast<vec3u>(cell);
  var h = (c.x * 0x9e3779b1u) ^ (c.y * 0x85ebca77u) ^ (c.z * 0xc2b2ae3du) ^ (bitcast<u32>(seed) * 0x27d4eb2fu);
  h = (h ^ (h >> 16)) * 0x7feb352du;
  h = (h ^ (h >> 15)) * 0x846ca68bu;
  return h ^ (h >> 16);
}

/// A number by chance, 0 to below 1, that belongs to a cell.
fn hashFloat(cell: vec3i, seed: i32) -> f32 {
  return f32(hashCell(cell, seed) >> 8) / 16777216.0;
}

/// One of the twelve directions to the middles of a cube's edges.
fn noiseGradient(h: u32, p: vec3f) -> f32 {
  let which = h % 12;
  let a = select(p.y, p.x, which < 8);
  let b = select(p.z, p.y, which < 4);
  return select(-a, a, (which & 1) == 0) + select(-b, b, (which & 2) == 0);
}

fn noiseCorner(cell: vec3i, p: vec3f, d: vec3i, seed: i32) -> f32 {
  return noiseGradient(hashCell(cell + d, seed), p - vec3f(d));
}

/// Smooth noise, about -1 to 1, 0 at whole numbers (Perlin, "Improving Noise", 2002).
fn noise(place: vec3f, seed: i32) -> f32 {
  let cell = vec3i(floor(place));
  let p = place - floor(place);
  let t = p * p * p * (p * (p * 6 - 15) + 10);
  let x00 = mix(noiseCorner(cell, p, vec3i(0, 0, 0), seed), noiseCorner(cell, p, vec3i(1, 0, 0), seed), t.x);
  let x10 = mix(noiseCorner(cell, p, vec3i(0, 1, 0), seed), noiseCorner(cell, p, vec3i(1, 1, 0), seed), t.x);
  let x01 = mix(noiseCorner(cell, p, vec3i(0, 0, 1), seed), noiseCorner(cell, p, vec3i(1, 0, 1), seed), t.x);
  let x11 = mix(noiseCorner(cell, p, vec3i(0, 1, 1), seed), noiseCorner(cell, p, vec3i(1, 1, 1), seed), t.x);
  return mix(mix(x00, x10, t.y), mix(x01, x11, t.y), t.z);
}

/// The same in the plane, cheaper.
fn noise2(place: vec2f, seed: i32) -> f32 {
  let cell = vec3i(vec2i(floor(place)), 0);
  let p = vec3f(place - floor(place), 0);
  let t = p * p * p * (p * (p * 6 - 15) + 10);
  let x0 = mix(noiseCorner(cell, p, vec3i(0, 0, 0), seed), noiseCorner(cell, p, vec3i(1, 0, 0), seed), t.x);
  let x1 = mix(noiseCorner(cell, p, vec3i(0, 1, 0), seed), noiseCorner(cell, p, vec3i(1, 1, 0), seed), t.x);
  return mix(x0, x1, t.y);
}
