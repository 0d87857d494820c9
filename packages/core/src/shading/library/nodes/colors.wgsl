// Colours, linear unless it is said otherwise, for shader graphs and hooks.

/// How bright a linear colour is (ITU-R BT.709).
fn luminance(color: vec3f) -> f32 {
  return dot(color, vec3f(0.2126, 0.7152, 0.0722));
}

/// Hue, saturation and value of a colour, each 0 to 1 (Smith, 1978).
fn hsvFromRgb(color: vec3f) -> vec3f {
  let high = max(color.r, max(color.g, color.b));
  let span = high - min(color.r, min(color.g, color.b));
  let d = max(span, 1e-10);
  var hue = (color.g - color.b) / d;
  if high == color.g { hue = (color.b - color.r) / d + 2; }
  if high == color.b && high != color.g { hue = (color.r - color.g) / d + 4; }
  if high == color.r { hue = (color.g - color.b) / d; }
  return vec3f(select(0, fract(hue / 6 + 1), span > 0), select(0, span / max(high, 1e-10), high > 0), high);
}

/// The colour of a hue, a saturation and a value.
fn rgbFromHsv(hsv: vec3f) -> vec3f {
  let k = abs(fract(hsv.x + vec3f(1, 2.0 / 3, 1.0 / 3)) * 6 - 3);
  return hsv.z * mix(vec3f(1), saturate(k - 1), hsv.y);
}

/// Lightness and two axes of colour as eyes tell them apart (Ottosson, Oklab, 2020).
fn oklabFromRgb(color: vec3f) -> vec3f {
  let lms = mat3x3f(
    0.4122214708, 0.2119034982, 0.0883024619,
    0.5363325363, 0.6806995451, 0.2817188376,
    0.0514459929, 0.1073969566, 0.6299787005,
  ) * color;
  let root = sign(lms) * pow(abs(lms), vec3f(1.0 / 3));
  return mat3x3f(
    0.2104542553, 1.9779984951, 0.0259040371,
    0.7936177850, -2.4285922050, 0.7827717662,
    -0.0040720468, 0.4505937099, -0.8086757660,
  ) * root;
}

/// The linear colour of a place in Oklab.
fn rgbFromOklab(lab: vec3f) -> vec3f {
  let root = mat3x3f(
    1, 1, 1,
    0.3963377774, -0.1055613458, -0.0894841775,
    0.2158037573, -0.0638541728, -1.2914855480,
  ) * lab;
  return mat3x3f(
    4.0767416621, -1.2684380046, -0.0041960863,
    -3.3077115913, 2.6097574011, -0.7034186147,
    0.2309699292, -0.3413193965, 1.7076147010,
  ) * (root * root * root);
}

/// Two colours between which one goes in even steps for the eye: by way of Oklab.
fn mixEvenly(a: vec3f, b: vec3f, share: f32) -> vec3f {
  return rgbFromOklab(mix(oklabFromRgb(a), oklabFromRgb(b), share));
}

/// Light on light: never darker than either (W3C, Compositing and Blending, "screen").
fn blendScreen(below: vec3f, above: vec3f) -> vec3f {
  return below + above - below * above;
}

/// Dark parts are multiplied, light parts screened ("overlay").
fn blendOverlay(below: vec3f, above: vec3f) -> vec3f {
  return blendHardLight(above, below);
}

/// The same by what lies above ("hard-light").
fn blendHardLight(below: vec3f, above: vec3f) -> vec3f {
  return select(blendScreen(below, 2 * above - 1), below * 2 * above, above <= vec3f(0.5));
}

/// Softer than overlay ("soft-light").
fn blendSoftLight(below: vec3f, above: vec3f) -> vec3f {
  let d = select(sqrt(max(below, vec3f(0))), ((16 * below - 12) * below + 4) * below, below <= vec3f(0.25));
  return select(
    below + (2 * above - 1) * (d - below),
    below - (1 - 2 * above) * below * (1 - below),
    above <= vec3f(0.5),
  );
}

/// How far apart two colours are, each channel by itself ("difference").
fn blendDifference(below: vec3f, above: vec3f) -> vec3f {
  return abs(below - above);
}
