struct Settings {
  stripes: f32, // 1..20 = 5
}
fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  out.baseColor = select(vec3f(0.8, 0.1, 0.1), vec3f(0.9), fract(p.texcoord0.x * s.stripes) > 0.5);
  return out;
}
fn displace(v: Vertex) -> Vertex {
  var out = v;
  out.position.z += 0.1 * sin(4 * v.position.x + 3 * frame.time);
  return out;
}
