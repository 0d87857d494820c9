struct Settings {
  edge: f32,  // 0.5..6 = 2.5
  glow: vec3f // color = #ffb46a
}
fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  out.emissive = s.glow * pow(1 - saturate(dot(p.normal, p.toCamera)), s.edge);
  return out;
}
