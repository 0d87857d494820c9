/// A number of 0 to 1 for each pixel, far from its neighbours' and spread evenly among any few of them: interleaved gradient noise (Jimenez, 2014).
fn pixelNoise(pixel: vec2f) -> f32 {
  return fract(52.9829189 * fract(dot(floor(pixel), vec2f(0.06711056, 0.00583715))));
}
