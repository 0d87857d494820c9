// A jar whose faces fly apart near the pointer, each turning about its own middle.
struct Settings {
  pointer: vec3f, // = [0, 100, 0]   where the pointer touches, in the jar's own space
  reach: f32,     // 0.05..1 = 0.42  how far from the pointer faces still move, metres
  push: f32,      // 0..1 = 0.3      how far they fly, metres
}

struct Attributes {
  center: vec3f, // middle of the face
  tint: vec3f,
  offset: f32,   // 0..1, a number of the face's own
}

// How much a face is moved: 1 under the pointer, 0 beyond its reach.
fn liftOf(s: Settings, center: vec3f) -> f32 {
  return 1 - smoothstep(0, s.reach, distance(center, s.pointer));
}

fn turned(v: vec3f, axis: vec3f, angle: f32) -> vec3f {
  let c = cos(angle);
  return v * c + cross(axis, v) * sin(angle) + axis * dot(axis, v) * (1 - c);
}

fn displace(v: Vertex, s: Settings, a: Attributes) -> Vertex {
  let lift = liftOf(s, a.center);
  let drift = 0.15 * sin(frame.time * (1 + a.offset) + a.offset * 6.28);
  let away = normalize(a.center - s.pointer + vec3f(0, 0.001, 0));
  let axis = normalize(vec3f(a.offset - 0.5, 0.7, 0.5 - a.offset));
  let angle = lift * (2 + 4 * a.offset + drift);
  var out = v;
  out.position = a.center + turned(v.position - a.center, axis, angle) * (1 - 0.3 * lift);
  out.position += (v.normal * 0.7 + away * 0.5) * s.push * lift * (0.5 + a.offset + drift);
  out.normal = turned(v.normal, axis, angle);
  return out;
}

fn surface(p: Fragment, s: Settings, a: Attributes) -> Surface {
  var out = surfaceDefaults(p);
  let lift = liftOf(s, a.center);
  out.baseColor = a.tint;
  out.metallic = 0;
  out.roughness = 0.85 - 0.3 * lift;
  out.emissive = vec3f(0.9, 0.32, 0.08) * lift * lift * 0.5;
  return out;
}
