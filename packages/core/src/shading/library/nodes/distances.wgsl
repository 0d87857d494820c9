// Signed distances to shapes about the origin, negative within: for hooks that march, and for masks. Metres.

fn sphereDistance(place: vec3f, radius: f32) -> f32 {
  return length(place) - radius;
}

/// `halfSize`: half its width, height and depth.
fn boxDistance(place: vec3f, halfSize: vec3f) -> f32 {
  let q = abs(place) - halfSize;
  return length(max(q, vec3f(0))) + min(max(q.x, max(q.y, q.z)), 0);
}

/// A box whose edges are round; it is as large as one that is not.
fn roundBoxDistance(place: vec3f, halfSize: vec3f, radius: f32) -> f32 {
  return boxDistance(place, halfSize - radius) - radius;
}

/// It lies flat about the Y axis.
fn torusDistance(place: vec3f, radius: f32, thickness: f32) -> f32 {
  return length(vec2f(length(place.xz) - radius, place.y)) - thickness;
}

/// A rod with round ends from one place to another.
fn capsuleDistance(place: vec3f, start: vec3f, end: vec3f, radius: f32) -> f32 {
  let way = end - start;
  let along = saturate(dot(place - start, way) / max(dot(way, way), 1e-12));
  return length(place - start - way * along) - radius;
}

/// `normal` has length 1; the side that it points to is outside.
fn planeDistance(place: vec3f, normal: vec3f, offset: f32) -> f32 {
  return dot(place, normal) - offset;
}

/// The smaller of two, with a smooth way over where they differ by less than `reach` (a quadratic in between).
fn smoothMin(a: f32, b: f32, reach: f32) -> f32 {
  let h = saturate(0.5 + 0.5 * (b - a) / max(reach, 1e-6));
  return mix(b, a, h) - max(reach, 1e-6) * h * (1 - h);
}

fn smoothMax(a: f32, b: f32, reach: f32) -> f32 {
  return -smoothMin(-a, -b, reach);
}
