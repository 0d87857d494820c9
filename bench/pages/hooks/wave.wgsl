struct Settings {
  height: f32, // 0..1 = 0.2
  length: f32, // 0.1..10 = 2
}
fn displace(v: Vertex, s: Settings) -> Vertex {
  var out = v;
  out.position.y += s.height * sin(v.position.x * 6.2832 / s.length + frame.time);
  return out;
}
