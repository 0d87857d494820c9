// Tone mapping leaves values up to 0.76 alone and bends brighter ones into what is left below 1, by
// 1 - d^2 / (x + d - s) with s = 0.76 and d = 1 - s, which meets the straight part with equal slope.
// It works on each channel by itself and can be undone, so later image steps may ask for the light
// behind a colour.
//
// Lit surfaces bend their colour before it is stored. Were it bent after the samples of a pixel are
// averaged, one bright sample would outweigh its neighbours and edges against light would be jagged;
// and unlit surfaces, which are stored as they are, show exactly the colour they were given.
fn toneMap(color: vec3f) -> vec3f {
  let bent = 1 - 0.0576 / (max(color, vec3f(0.76)) - 0.52);
  return mix(color, bent, step(vec3f(0.76), color));
}

// sRGB encoding (IEC 61966-2-1).
fn encodeSrgb(color: vec3f) -> vec3f {
  let curve = 1.055 * pow(max(color, vec3f(0)), vec3f(1 / 2.4)) - 0.055;
  return mix(color * 12.92, curve, step(vec3f(0.0031308), color));
}

fn decodeSrgb(c: vec3f) -> vec3f {
  return mix(c / 12.92, pow((max(c, vec3f(0)) + 0.055) / 1.055, vec3f(2.4)), step(vec3f(0.04045), c));
}
