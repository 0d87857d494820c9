// Water at night: the normals of four swells, steep enough to break the lanterns' reflections.
struct Settings {
  swell: f32, // 0..1 = 0.5   how steep the waves are
}

fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  var slope = vec2f();
  for (var i = 0; i < 4; i++) {
    let turn = f32(i) * 1.9 + 0.4;
    let way = vec2f(cos(turn), sin(turn));
    let length = 0.9 + f32(i) * 0.7;
    slope += way * cos(dot(way, p.position.xz) * length * 2.2 + frame.time * (1 + 0.3 * f32(i))) * (0.16 / length);
  }
  out.normal = normalize(vec3f(-slope.x * s.swell, 1, -slope.y * s.swell));
  return out;
}
