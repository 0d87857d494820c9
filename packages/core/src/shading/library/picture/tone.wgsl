// How radiance becomes what a screen can show: exposure, white balance, and one of several curves.
import { air } from './air.wgsl';
import { frame } from './frame.wgsl';
import { toneMap } from './color.wgsl';
import { weightOf } from './weight.wgsl';

override isMetered = false;
/// Whether the curve is another than the usual one.
override isToned = false;

/// Stops that the picture itself asks for, in one texel.
@group(0) @binding(17) var meteredStops: texture_2d<f32>;

/// Factor on all light: the caller's, and what the picture asks for.
fn exposureNow() -> f32 {
  if isMetered { return frame.exposure * exp2(textureLoad(meteredStops, vec2i(), 0).r); }
  return frame.exposure;
}

// The ACES reference and output transforms, fitted by Stephen Hill (2016); columns.
const ACES_IN = mat3x3f(0.59719, 0.07600, 0.02840, 0.35458, 0.90834, 0.13383, 0.04823, 0.01566, 0.83777);
const ACES_OUT = mat3x3f(1.60475, -0.10208, -0.00327, -0.53108, 1.10813, -0.07276, -0.07367, -0.00605, 1.07602);

fn aces(color: vec3f) -> vec3f {
  let v = ACES_IN * color;
  let fitted = (v * (v + 0.0245786) - 0.000090537) / (v * (0.983729 * v + 0.4329510) + 0.238081);
  return saturate(ACES_OUT * fitted);
}

// AgX by Troy Sobotka (2022): a log encoding in a narrower space, a contrast curve (its fit of sixth order by
// Benjamin Wrensch, 2023), and back. The result is display-encoded, and made linear again.
const AGX_IN = mat3x3f(0.842479062253094, 0.0423282422610123, 0.0423756549057051, 0.0784335999999992, 0.878468636469772, 0.0784336, 0.0792237451477643, 0.0791661274605434, 0.879142973793104);
const AGX_OUT = mat3x3f(1.19687900512017, -0.0528968517574562, -0.0529716355144438, -0.0980208811401368, 1.15190312990417, -0.0980434501171241, -0.0990297440797205, -0.0989611768448433, 1.15107367264116);

fn agx(color: vec3f) -> vec3f {
  let stops = log2(max(AGX_IN * color, vec3f(1e-10)));
  let x = saturate((stops + 12.47393) / (4.026069 + 12.47393));
  let x2 = x * x;
  let x4 = x2 * x2;
  let curved = 15.5 * x4 * x2 - 40.14 * x4 * x + 31.96 * x4 - 6.868 * x2 * x + 0.4298 * x2 + 0.1191 * x - 0.00232;
  return pow(saturate(AGX_OUT * curved), vec3f(2.2));
}

// The Khronos PBR neutral tone mapper (2024): base colours stay what they are, highlights bend towards white.
fn neutral(given: vec3f) -> vec3f {
  let least = min(given.r, min(given.g, given.b));
  let offset = select(0.04, least - 6.25 * least * least, least < 0.08);
  let color = given - offset;
  let peak = max(color.r, max(color.g, color.b));
  if peak < 0.76 { return color; }
  let bent = 1 - 0.0576 / (peak + 0.24 - 0.76);
  let pale = 1 - 1 / (0.15 * (peak - bent) + 1);
  return mix(color * (bent / peak), vec3f(bent), pale);
}

/// A lit colour as it is stored: as it is shown; or, for those who look through things, radiance, weighted by what
/// brightness leaves, so that averages of samples are as smooth as those of shown colours and give radiance back.
fn present(radiance: vec3f, alpha: f32) -> vec4f {
  if air.isRadiance > 0.5 { return weighted(radiance); }
  return vec4f(shown(radiance) * weightOf(alpha), alpha);
}

/// A colour that is shown as it was given.
fn presentGiven(color: vec3f, alpha: f32) -> vec4f {
  if air.isRadiance > 0.5 { return weighted(color / exposureNow()); }
  return vec4f(color * weightOf(alpha), alpha);
}

fn weighted(radiance: vec3f) -> vec4f {
  let color = min(max(radiance, vec3f()), vec3f(60000));
  let weight = 1 / (1 + max(color.r, max(color.g, color.b)));
  return vec4f(color * weight, weight);
}

/// Radiance as it is shown, linear, 0..1.
fn shown(radiance: vec3f) -> vec3f {
  let color = max(radiance * air.whiteBalance * exposureNow(), vec3f());
  if isToned {
    switch air.tone {
      case 1: { return saturate(color); }
      case 2: { return color / (1 + color); }
      case 3: { return aces(color); }
      case 4: { return agx(color); }
      case 5: { return neutral(color); }
      // Shaders of another curve may draw on until those of this one are made.
      default: {}
    }
  }
  return toneMap(color);
}
