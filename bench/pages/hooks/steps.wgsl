struct Settings {
  steps: f32, // 2..8 = 3
}
fn light(p: Fragment, u: Surface, l: Light, s: Settings) -> vec3f {
  let facing = saturate(dot(u.normal, l.direction));
  return u.baseColor * l.color * ceil(facing * s.steps) / s.steps;
}
