// What water does to light on its way to the camera, above and below its surface.

/// Height of the sea's surface, metres.
const SEA = 7.0;
const DEEP = vec3f(0.01, 0.1, 0.135);

/// Metres of water between a place and the camera.
fn waterBetween(place: vec3f, camera: vec3f) -> f32 {
  let away = distance(place, camera);
  let rise = camera.y - place.y;
  let under = saturate(select((SEA - place.y) / max(abs(rise), 0.001), (SEA - camera.y) / max(abs(rise), 0.001), rise < 0));
  let isSame = (camera.y < SEA) == (place.y < SEA);
  return select(away * under, select(0.0, away, camera.y < SEA), isSame);
}

/// A colour seen through metres of water: red goes first.
fn throughWater(color: vec3f, metres: f32) -> vec3f {
  return mix(DEEP, color, exp(-metres * vec3f(0.06, 0.03, 0.026)));
}

/// Ripples of the surface gather the light into a net.
fn lightNet(at: vec2f, time: f32) -> f32 {
  let t = time * 0.6;
  let a = sin(at.x * 1.3 + t) + sin(at.y * 1.1 - t * 1.2) + sin((at.x + at.y) * 0.9 + t * 0.7);
  let b = sin(at.x * 2.1 - t * 0.8) + sin((at.x - at.y) * 1.7 + t * 1.1);
  return pow(saturate(1 - abs(a + b * 0.6) * 0.35), 3);
}
