// Water that reflects the scene itself: a picture through a reflected camera, broken by small waves.
struct Settings {
  ripple: f32, // 0..1 = 0.4   how much waves break the picture
  gain: f32,   // = 4          light to one of the picture
}
var reflection: texture_2d<f32>; // data   through a camera that is reflected at the water
var reflectionSampler: sampler;

fn slopeAt(place: vec2f) -> vec2f {
  var slope = vec2f();
  for (var i = 0; i < 5; i++) {
    let turn = f32(i) * 2.4 + 0.3;
    let way = vec2f(cos(turn), sin(turn));
    let waves = 1.1 + f32(i) * 0.9;
    slope += way * cos(dot(way, place) * waves * 1.6 + frame.time * (0.7 + 0.25 * f32(i))) * (0.05 / waves);
  }
  return slope;
}

fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  let slope = slopeAt(p.position.xz) * s.ripple;
  out.normal = normalize(vec3f(-slope.x, 1, -slope.y));
  // The picture is exchanged left and right.
  let at = vec2f(1 - p.screenPosition.x / p.screenSize.x, p.screenPosition.y / p.screenSize.y);
  let seen = textureSample(reflection, reflectionSampler, at + vec2f(-slope.x, slope.y) * 1.4).rgb * s.gain;
  // Schlick (1994) for water.
  let facing = saturate(dot(out.normal, p.toCamera));
  let share = 0.02 + 0.98 * pow(1 - facing, 5);
  out.emissive = seen * share;
  return out;
}
