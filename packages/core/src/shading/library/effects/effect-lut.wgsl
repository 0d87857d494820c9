// Colours by a table in three dimensions, between its entries over tetrahedra (Kasson, Nin, Plouffe and Hafner, "Performing color
// space conversions with three-dimensional linear interpolation", 1995).
import { screenCorner } from './screen.wgsl';

struct Lut {
  /// Entries along each side, and how much of it there is.
  size: f32,
  amount: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> lut: Lut;
/// Red runs fastest, then green, then blue.
@group(0) @binding(2) var<storage, read> entries: array<vec4f>;

fn entry(at: vec3u) -> vec3f {
  let size = u32(lut.size);
  return entries[(at.z * size + at.y) * size + at.x].rgb;
}

@vertex fn lutVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn lutFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let c = textureLoad(picture, vec2i(at.xy), 0);
  if c.a <= 0 { return vec4f(); }
  let straight = saturate(c.rgb / c.a);
  let place = straight * (lut.size - 1);
  let low = min(floor(place), vec3f(lut.size - 2));
  let t = place - low;
  let base = vec3u(low);
  // From the low corner to the high one along the axes, the one that is farthest along first.
  var first = vec3u(1, 0, 0);
  var last = vec3u(0, 0, 1);
  if t.x >= t.y && t.x >= t.z { first = vec3u(1, 0, 0); }
  else if t.y >= t.z { first = vec3u(0, 1, 0); }
  else { first = vec3u(0, 0, 1); }
  if t.z <= t.x && t.z <= t.y && first.z == 0 { last = vec3u(0, 0, 1); }
  else if t.y <= t.x && first.y == 0 { last = vec3u(0, 1, 0); }
  else { last = select(vec3u(1, 0, 0), vec3u(0, 1, 0), first.x == 1); }
  let most = max(t.x, max(t.y, t.z));
  let least = min(t.x, min(t.y, t.z));
  let middle = t.x + t.y + t.z - most - least;
  let graded = entry(base) * (1 - most) + entry(base + first) * (most - middle)
    + entry(base + vec3u(1) - last) * (middle - least) + entry(base + vec3u(1)) * least;
  return vec4f(mix(straight, graded, lut.amount) * c.a, c.a);
}
