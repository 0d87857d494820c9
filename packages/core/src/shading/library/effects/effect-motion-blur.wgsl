// What moves is drawn out along its way: each pixel gathers along the longest way nearby (tiles and the comparison of depths by McGuire et
// al., "A Reconstruction Filter for Plausible Motion Blur", 2012). A step along it is a moment: what was there then has come to the pixel,
// or has left it, or the pixel has stayed as it is.
import { lightOf, shownOf } from './expose.wgsl';
import { pixelNoise } from './pixel-noise.wgsl';
import { screenCorner } from './screen.wgsl';
import { EffectMotion, metresOf, movedBy } from './velocity.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> motion: EffectMotion;
/// Of motion-tiles.
@group(0) @binding(2) var tiles: texture_2d<f32>;
@group(0) @binding(4) var depths: texture_depth_2d;
@group(0) @binding(7) var velocities: texture_2d<f32>;

const SAMPLES = 16;

/// Half of the way that is open to the shutter, pixels.
fn halfWay(moved: vec2f) -> vec2f {
  let way = moved * motion.amount * 0.5;
  let reach = length(way);
  return way * min(1, motion.most / max(reach, 1e-4));
}

fn wayAt(pixel: vec2i, size: vec2f) -> vec2f {
  return halfWay(movedBy(textureLoad(velocities, pixel, 0), (vec2f(pixel) + 0.5) / size, motion) * size);
}

fn lightAt(pixel: vec2i) -> vec4f {
  let c = textureLoad(picture, pixel, 0);
  if c.a <= 0 { return vec4f(); }
  return vec4f(lightOf(c.rgb / c.a) * c.a, c.a);
}

/// How much nearer a is than b: 1 where it is, less and less where it is not.
fn isBefore(a: f32, b: f32) -> f32 {
  return saturate(1 - (a - b) / (0.05 * min(a, b)));
}

@vertex fn motionBlurVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn motionBlurFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let last = vec2i(textureDimensions(picture)) - 1;
  let size = vec2f(textureDimensions(picture));
  let own = textureLoad(picture, pixel, 0);
  var longest = vec2f();
  let tile = pixel / 32;
  let lastTile = vec2i(textureDimensions(tiles)) - 1;
  for (var y = -1; y <= 1; y++) {
    for (var x = -1; x <= 1; x++) {
      let way = halfWay(textureLoad(tiles, clamp(tile + vec2i(x, y), vec2i(), lastTile), 0).xy);
      if dot(way, way) > dot(longest, longest) { longest = way; }
    }
  }
  if dot(longest, longest) < 0.25 { return own; }
  let metres = metresOf(textureLoad(depths, pixel, 0), motion);
  let ownReach = length(wayAt(pixel, size));
  let noise = pixelNoise(vec2f(pixel)) - 0.5;
  let ownLight = lightAt(pixel);
  var sum = vec4f();
  for (var i = 0; i < SAMPLES; i++) {
    let t = (f32(i) + 0.5 + noise) / f32(SAMPLES) * 2 - 1;
    let there = clamp(vec2i(floor(at.xy + longest * t)), vec2i(), last);
    let apart = length(vec2f(there - pixel));
    let its = metresOf(textureLoad(depths, there, 0), motion);
    let itsReach = length(wayAt(there, size));
    let comes = isBefore(its, metres) * saturate(itsReach - apart + 1);
    let leaves = isBefore(metres, its) * saturate(ownReach - apart + 1);
    sum += mix(ownLight, lightAt(there), max(comes, leaves));
  }
  let mean = sum / f32(SAMPLES);
  return vec4f(shownOf(mean.rgb / max(mean.a, 1e-6)) * mean.a, mean.a);
}
