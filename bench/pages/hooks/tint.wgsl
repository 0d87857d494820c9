struct Settings {
  tint: vec3f, // color = #80c0ff
  amount: f32, // 0..1 = 0.5
}
fn outputColor(c: vec4f, p: Fragment, s: Settings) -> vec4f {
  return vec4f(mix(c.rgb, c.rgb * s.tint, s.amount), c.a);
}
