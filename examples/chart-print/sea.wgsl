// The sea as an old chart draws it: paper with lines of waves.
struct Settings {
  paper: vec3f, // color = #d9d5bd
  ink: vec3f,   // color = #4b6a76
}

fn outputColor(p: Fragment, s: Settings) -> vec4f {
  let at = p.position.xz;
  let wave = at.y * 2.2 + 0.22 * sin(at.x * 2.6 + frame.time * 0.8) + 0.12 * sin(at.x * 6.1 - frame.time);
  let width = fwidth(wave);
  let line = smoothstep(0.07 + width, 0.07 - width, abs(fract(wave) - 0.5)) * saturate(1.3 - width * 2);
  let breaks = step(0.15, sin(at.x * 1.7 + floor(wave) * 2.4));
  return vec4f(mix(s.paper, s.ink, line * breaks * 0.8), 1);
}
