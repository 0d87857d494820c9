// What stands on the sea floor: moved by the swell, in light that plays on it and goes with distance.
struct Settings {
  sway: f32, // 0..0.5 = 0   how far the top moves, metres
}

fn displace(v: Vertex, s: Settings) -> Vertex {
  let root = (v.objectToWorld * vec4f(0, 0, 0, 1)).xz;
  let lift = max(v.position.y, 0);
  var out = v;
  out.position.x += s.sway * lift * sin(frame.time * 0.9 + root.x * 2 + lift * 1.6);
  out.position.z += s.sway * lift * 0.6 * cos(frame.time * 0.7 + root.y * 2 + lift * 1.3);
  return out;
}

// Ripples of the surface gather the light into a net.
fn net(at: vec2f) -> f32 {
  let t = frame.time * 0.6;
  let a = sin(at.x * 3.1 + t) + sin(at.y * 2.7 - t * 1.2) + sin((at.x + at.y) * 2.3 + t * 0.7);
  let b = sin(at.x * 4.3 - t * 0.8) + sin((at.x - at.y) * 3.7 + t * 1.1);
  return pow(saturate(1 - abs(a + b * 0.6) * 0.35), 3);
}

fn outputColor(color: vec4f, p: Fragment) -> vec4f {
  let lit = color.rgb * (0.75 + 0.9 * net(p.position.xz + p.position.y * 0.3) * saturate(p.normal.y + 0.3));
  let away = distance(p.position, frame.cameraPosition);
  return vec4f(mix(vec3f(0.01, 0.06, 0.1), lit, exp(-0.11 * away)), 1);
}
