// Cloth in the wind: held on the left, it waves the more the farther to the right. What is transparent stays so.
struct Settings {
  strength: f32, // 0..1 = 0.6
  phase: f32,    // = 0
}

fn effect(p: Pixel, s: Settings) -> vec4f {
  let along = saturate((p.place.x - 0.12) / 0.76);
  let turn = along * 8 - p.time * 3.2 + s.phase;
  let lift = sin(turn) * along * 0.055 * s.strength;
  let c = colorAt(vec2f(p.place.x, p.place.y + lift));
  // Folds that lean away from the light are darker.
  let fold = cos(turn) * (0.25 + 0.75 * along) * s.strength;
  return vec4f(c.rgb * (1 + 0.24 * fold), c.a);
}
