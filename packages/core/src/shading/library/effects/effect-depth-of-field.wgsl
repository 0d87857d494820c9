// What is not in focus is a disc: as large as a thin lens makes it (Potmesil and Chakravarty, "A lens and aperture camera model for
// synthetic image generation", 1981), gathered from the pixels whose discs reach this one.
import { lightOf, shownOf } from './expose.wgsl';
import { pixelNoise } from './pixel-noise.wgsl';
import { screenCorner } from './screen.wgsl';

struct DepthOfField {
  /// Metres that are in focus.
  focus: f32,
  /// Pixels of a disc's radius for what is infinitely far.
  strength: f32,
  /// Pixels of the largest disc that is drawn.
  most: f32,
  isParallel: f32,
  /// Of the projection: what depth is multiplied by, and what is added.
  depthScale: f32,
  depthOffset: f32,
  /// Where the whole picture's upper left lies. Pixels.
  corner: vec2f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> lens: DepthOfField;
@group(0) @binding(4) var depths: texture_depth_2d;

const SAMPLES = 72;

fn distanceOf(at: vec2i) -> f32 {
  let depth = textureLoad(depths, at, 0);
  if lens.isParallel > 0.5 { return (lens.depthOffset - depth) / lens.depthScale; }
  return lens.depthOffset / max(depth + lens.depthScale, 1e-9);
}

fn radiusAt(distance: f32) -> f32 {
  return min(lens.most, abs(distance - lens.focus) / max(distance, 1e-3) * lens.strength);
}

@vertex fn depthOfFieldVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn depthOfFieldFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let last = vec2i(textureDimensions(picture)) - 1;
  let own = textureLoad(picture, pixel, 0);
  let away = distanceOf(pixel);
  let radius = radiusAt(away);
  // Noise turns the samples of each pixel.
  let turn = 6.2831853 * pixelNoise(vec2f(pixel) - lens.corner);
  var sum = vec4f();
  var weights = 0.0;
  if own.a > 0 { sum = vec4f(lightOf(own.rgb / own.a) * own.a, own.a); }
  let ownWeight = 1 / (1 + radius * radius);
  sum *= ownWeight;
  weights = ownWeight;
  for (var i = 1; i < SAMPLES; i++) {
    let angle = f32(i) * 2.3999632 + turn;
    let reach = sqrt(f32(i) / f32(SAMPLES)) * lens.most;
    let place = clamp(pixel + vec2i(round(vec2f(cos(angle), sin(angle)) * reach)), vec2i(), last);
    let there = distanceOf(place);
    // What lies behind does not spread over what is sharper before it.
    let its = select(radiusAt(there), min(radiusAt(there), radius), there > away);
    let weight = saturate(its - reach + 0.5) / (1 + its * its);
    let c = textureLoad(picture, place, 0);
    if weight <= 0 { continue; }
    if c.a > 0 { sum += vec4f(lightOf(c.rgb / c.a) * c.a, c.a) * weight; }
    weights += weight;
  }
  let mean = sum / weights;
  return vec4f(shownOf(mean.rgb / max(mean.a, 1e-6)) * mean.a, mean.a);
}
