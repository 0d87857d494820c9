// Whether something is hidden by what is drawn already: held against a pyramid of depths.

/// What is chosen, and for which camera.
struct Choosing {
  view: mat4x4f,
  projection: mat4x4f,
  /// Inside is where all are above 0.
  planes: array<vec4f, 6>,
  camera: vec3f,
  /// 1 when all rays are parallel.
  isParallel: f32,
  /// Width and height of the picture in pixels.
  size: vec2f,
  /// 0: all that is in view; 1: what was seen before; 2: what is seen now and was not before.
  stage: u32,
  /// Of the pyramid.
  levels: u32,
  /// Where in the pyramid each level begins, and how wide and high it is.
  places: array<vec4u, 16>,
}

@group(0) @binding(0) var<uniform> choosing: Choosing;

/// Level by level the farthest depth (0 is far away) of 2 x 2 texels of the one before; the first of 2 x 2 pixels.
@group(0) @binding(1) var<storage, read> pyramid: array<f32>;

fn isInView(center: vec3f, radius: f32) -> bool {
  for (var i = 0; i < 6; i++) {
    if dot(choosing.planes[i], vec4f(center, 1)) < -radius { return false; }
  }
  return true;
}

/// Whether all of a sphere lies behind what is drawn. False where it reaches the camera.
fn isHidden(center: vec3f, radius: f32) -> bool {
  let middle = (choosing.view * vec4f(center, 1)).xyz;
  // The camera looks along -Z.
  let front = choosing.projection * vec4f(middle.xy, middle.z + radius, 1);
  if front.w <= 0 || front.z >= front.w { return false; }
  var low = vec2f(1e9);
  var high = vec2f(-1e9);
  for (var k = 0u; k < 8u; k++) {
    let corner = middle + radius * (2 * vec3f(vec3u(k & 1, (k >> 1) & 1, k >> 2)) - 1);
    let clip = choosing.projection * vec4f(corner, 1);
    low = min(low, clip.xy / clip.w);
    high = max(high, clip.xy / clip.w);
  }
  let last = choosing.size - 1;
  let begin = vec2u(clamp((vec2f(low.x, -high.y) * 0.5 + 0.5) * choosing.size, vec2f(), last));
  let until = vec2u(clamp((vec2f(high.x, -low.y) * 0.5 + 0.5) * choosing.size, vec2f(), last));
  var level = 0u;
  while level + 1 < choosing.levels && any((until >> vec2u(level + 1)) - (begin >> vec2u(level + 1)) > vec2u(1)) { level++; }
  let place = choosing.places[level];
  let a = begin >> vec2u(level + 1);
  let b = min(until >> vec2u(level + 1), place.yz - 1);
  let farthest = min(
    min(pyramid[place.x + a.y * place.y + a.x], pyramid[place.x + a.y * place.y + b.x]),
    min(pyramid[place.x + b.y * place.y + a.x], pyramid[place.x + b.y * place.y + b.x]),
  );
  // What is drawn at the same depth hides nothing, whatever was rounded.
  return front.z / front.w < farthest * 0.99999;
}
