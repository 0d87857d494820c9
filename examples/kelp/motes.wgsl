// Motes that drift in the water, each turned to the camera.
struct Settings {
  drift: f32, // 0..2 = 0.5
}

struct InstanceSettings {
  phase: f32, // 0..6.3 = 0
}

fn displace(v: Vertex, s: Settings, i: InstanceSettings) -> Vertex {
  var out = v;
  let m = v.objectToWorld;
  let size = length(m[0]);
  let t = frame.time * s.drift + i.phase;
  let moved = vec3f(sin(t * 0.7) * 0.4, sin(t * 0.4 + i.phase) * 0.25, cos(t * 0.6) * 0.4);
  let right = normalize(frame.right);
  let up = normalize(frame.up);
  // Nodes and copies of motes are not turned.
  out.position = moved / size + right * v.position.x + up * v.position.y;
  return out;
}

fn outputColor(p: Fragment) -> vec4f {
  let away = distance(p.position, frame.cameraPosition);
  let soft = smoothstep(1, 0.2, length(p.texcoord0 * 2 - 1));
  let alpha = 0.35 * soft * exp(-0.14 * away) * smoothstep(0.2, 1.5, away);
  return vec4f(vec3f(0.75, 0.9, 0.8) * alpha, alpha);
}
