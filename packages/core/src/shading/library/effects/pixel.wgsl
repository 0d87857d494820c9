// What an effect of one's own is given: the pixel at hand, and the picture around it. Colours are as screens have them (sRGB), alpha
// not multiplied in; places are 0..1 from the upper left.
import { isOutside } from './screen.wgsl';
#if effectVelocity
import { EffectMotion, movedBy } from './velocity.wgsl';
#endif
#if effectThings
import { bitsAt } from './seen-things.wgsl';
#endif

struct Pixel {
  /// Its middle in pixels, from the upper left.
  position: vec2f,
  /// The same, 0..1.
  place: vec2f,
  /// Width and height of the picture in pixels.
  size: vec2f,
  color: vec4f,
  /// Seconds since the lens began to run, and since the frame before.
  time: f32,
  delta: f32,
}

struct EffectFrame {
  /// What of the picture counts: its upper left, and its size. Pixels.
  corner: vec2f,
  size: vec2f,
  /// Pixels of this picture to one of the full canvas.
  scale: f32,
  time: f32,
  delta: f32,
  isParallel: f32,
  /// Of the projection: what depth is multiplied by, and what is added.
  depthScale: f32,
  depthOffset: f32,
  /// Where directions were in the frame before: see velocity.wgsl.
  right: vec3f,
  /// Bits of the things that the effect is of.
  sees: u32,
  up: vec3f,
  forward: vec3f,
}

@group(0) @binding(0) var effectPicture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> effectFrame: EffectFrame;
@group(0) @binding(3) var effectSampler: sampler;
#if effectSecond
@group(0) @binding(2) var effectSecond: texture_2d<f32>;
#endif
#if effectDepth
@group(0) @binding(4) var effectDepth: texture_depth_2d;
#endif
#if effectBefore
@group(0) @binding(5) var effectBefore: texture_2d<f32>;
#endif
#if effectNormal
@group(0) @binding(6) var effectNormals: texture_2d<f32>;
#endif
#if effectVelocity
@group(0) @binding(7) var effectVelocities: texture_2d<f32>;
#endif
#if effectThings
@group(0) @binding(8) var effectThings: texture_2d<f32>;
#endif

fn straightColor(c: vec4f) -> vec4f {
  return vec4f(select(vec3f(), c.rgb / max(c.a, 1e-6), c.a > 0), c.a);
}

fn effectPixel(place: vec2f) -> vec2f {
  return effectFrame.corner + place * effectFrame.size;
}

/// The same in a picture of what was drawn, which may have fewer pixels.
fn effectTexel(place: vec2f, size: vec2u) -> vec2i {
  let at = effectPixel(place) / vec2f(textureDimensions(effectPicture)) * vec2f(size);
  return clamp(vec2i(floor(at)), vec2i(), vec2i(size) - 1);
}

fn effectSampled(image: texture_2d<f32>, place: vec2f) -> vec4f {
  let at = effectPixel(place) / vec2f(textureDimensions(image));
  let c = straightColor(textureSampleLevel(image, effectSampler, at, 0));
  // Outside of the picture nothing is.
  return select(vec4f(), c, all(at >= vec2f()) && all(at <= vec2f(1)));
}

/// The picture at any place, between its pixels.
fn colorAt(place: vec2f) -> vec4f {
  return effectSampled(effectPicture, place);
}

/// One of its pixels, as it is.
fn colorOf(pixel: vec2i) -> vec4f {
  let at = vec2i(effectFrame.corner) + pixel;
  if isOutside(at, vec2i(textureDimensions(effectPicture))) { return vec4f(); }
  return straightColor(textureLoad(effectPicture, at, 0));
}

#if effectSecond
/// What the effect's `in2` names, between its pixels.
fn secondAt(place: vec2f) -> vec4f {
  return effectSampled(effectSecond, place);
}
#endif

#if effectBefore
/// What this effect made of the frame before.
fn beforeAt(place: vec2f) -> vec4f {
  return effectSampled(effectBefore, place);
}
#endif

#if effectDepth
/// Depth of what is opaque, as it is stored: 1 near, 0 far or nothing.
fn depthAt(place: vec2f) -> f32 {
  return textureLoad(effectDepth, effectTexel(place, textureDimensions(effectDepth)), 0);
}

/// Metres along the camera's way of looking to what is opaque; a million where nothing is.
fn distanceAt(place: vec2f) -> f32 {
  let depth = depthAt(place);
  if depth <= 0 { return 1e6; }
  if effectFrame.isParallel > 0.5 { return (effectFrame.depthOffset - depth) / effectFrame.depthScale; }
  return effectFrame.depthOffset / max(depth + effectFrame.depthScale, 1e-9);
}
#endif

#if effectNormal
/// Which way what is solid faces, in the world, of length 1; zero where nothing is.
fn normalAt(place: vec2f) -> vec3f {
  let n = textureLoad(effectNormals, effectTexel(place, textureDimensions(effectNormals)), 0).xyz;
  return n / max(length(n), 1e-6);
}
#endif

#if effectVelocity
/// How far what a place shows has come since the frame before, as a share of the picture: to the right and down.
fn velocityAt(place: vec2f) -> vec2f {
  let found = textureLoad(effectVelocities, effectTexel(place, textureDimensions(effectVelocities)), 0);
  var motion: EffectMotion;
  motion.right = effectFrame.right;
  motion.up = effectFrame.up;
  motion.forward = effectFrame.forward;
  return movedBy(found, place, motion);
}
#endif

#if effectThings
/// 1 where what is solid belongs to a node that the effect's `sees` names, else 0.
fn maskAt(place: vec2f) -> f32 {
  let bits = bitsAt(effectThings, effectTexel(place, textureDimensions(effectThings)));
  return select(0.0, 1.0, (bits & effectFrame.sees) != 0);
}
#endif
