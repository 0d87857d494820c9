// Rain on the glass before the lens: drops that sit, and drops that run down, each bending what is behind it.
struct Settings {
  amount: f32, // 0..1 = 0.6   how much of the glass is wet
}

fn chance(cell: vec2f, salt: f32) -> f32 {
  return fract(sin(dot(cell, vec2f(127.1, 311.7)) + salt * 74.7) * 43758.5453);
}

// How far the glass bends the view at a place, and how much of a drop there is.
fn dropAt(place: vec2f, size: vec2f, cells: f32, speed: f32, time: f32, amount: f32) -> vec3f {
  let shape = size / size.y;
  let grid = vec2f(cells, cells * 0.5);
  let column = floor(place.x * shape.x * grid.x);
  let run = speed * time * (0.6 + 0.8 * chance(vec2f(column, 0), 3));
  let at = vec2f(place.x * shape.x, place.y - run) * grid;
  let cell = floor(at);
  if chance(cell, 1) > amount { return vec3f(); }
  let middle = vec2f(0.3 + 0.4 * chance(cell, 5), 0.3 + 0.4 * chance(cell, 7));
  let radius = 0.12 + 0.2 * chance(cell, 9);
  let away = (fract(at) - middle) * vec2f(1, 1.7) / radius;
  let r2 = dot(away, away);
  if r2 > 1 { return vec3f(); }
  // A spherical cap: steep at its rim.
  return vec3f(away * (0.35 + r2 * 0.65), smoothstep(1.0, 0.75, r2));
}

fn effect(p: Pixel, s: Settings) -> vec4f {
  let still = dropAt(p.place, p.size, 26, 0, p.time, s.amount * 0.5);
  let small = dropAt(p.place + 0.37, p.size, 58, 0, p.time, s.amount * 0.35);
  let running = dropAt(p.place, p.size, 13, 0.11, p.time, s.amount * 0.4);
  let bend = still.xy * still.z * 0.03 + small.xy * small.z * 0.014 + running.xy * running.z * 0.05;
  let cover = max(still.z, max(small.z, running.z));
  let seen = colorAt(clamp(p.place - bend, vec2f(0.001), vec2f(0.999)));
  // Light gathers at the lower rim.
  let rim = saturate(dot(normalize(bend + vec2f(0, 1e-4)), vec2f(0.3, 0.95))) * cover;
  return vec4f(seen.rgb * (1 - 0.18 * cover) + vec3f(0.8, 0.86, 0.9) * rim * 0.09, seen.a);
}
