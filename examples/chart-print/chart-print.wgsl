// A printed look: light in steps, a hard highlight, and hatching where it is dark.
struct Settings {
  levels: f32,     // 2..6 = 3        steps of the light
  highlight: f32,  // 0.8..1 = 0.955  cosine at which the highlight begins
  spacing: f32,    // 3..16 = 6       pixels from one line of the hatching to the next
  paper: vec3f,    // color = #efe2c6
  ink: vec3f,      // color = #1d2733
}

// The answer to one light: the colour in steps, and white where the highlight is.
fn light(surface: Surface, l: Light, p: Fragment, s: Settings) -> vec3f {
  let facing = saturate(dot(surface.normal, l.direction));
  let stepped = ceil(facing * s.levels) / s.levels;
  let halfway = normalize(l.direction + p.toCamera);
  let shine = step(s.highlight, dot(surface.normal, halfway)) * step(0.01, facing);
  let strength = l.color / 3.14159265;
  return (surface.baseColor * stepped + vec3f(0.55) * shine * (1 - surface.roughness)) * strength;
}

fn lines(at: vec2f, way: vec2f, spacing: f32, share: f32) -> f32 {
  let place = fract(dot(at, way) / spacing);
  let width = fwidth(dot(at, way) / spacing);
  return smoothstep(share * 0.5 + width, share * 0.5 - width, abs(place - 0.5)) * saturate(share * 12);
}

fn outputColor(color: vec4f, p: Fragment, surface: Surface, s: Settings) -> vec4f {
  let tone = dot(color.rgb, vec3f(0.2126, 0.7152, 0.0722)) / max(dot(surface.baseColor, vec3f(0.2126, 0.7152, 0.0722)), 0.02);
  let at = p.screenPosition;
  let dark = saturate(0.95 - tone * 1.15);
  let first = lines(at, normalize(vec2f(1, 1)), s.spacing, dark);
  let second = lines(at, normalize(vec2f(1, -0.8)), s.spacing, saturate(dark * 2 - 1));
  let flat = mix(s.paper, max(color.rgb, surface.baseColor * 0.6), 0.82);
  let outline = step(dot(p.normal, p.toCamera), 0.06);
  return vec4f(mix(flat, s.ink, max(max(first * 0.8, second * 0.85), outline)), 1);
}
