// What all surfaces of a picture share: the camera, the time and the light.

struct Frame {
  /// World to clip space, depth 1 at the near plane and 0 far away.
  viewProjection: mat4x4f,
  /// World to camera space: the camera looks along -Z.
  view: mat4x4f,
  /// Where the camera is in the world.
  cameraPosition: vec3f,
  exposure: f32,
  /// Radiance of the light from above and from below.
  sky: vec3f,
  lightCount: u32,
  ground: vec3f,
  /// Seconds since the lens began to run, pauses left out.
  time: f32,
  /// Unit vector that the camera looks along.
  forward: vec3f,
  /// 1 when all rays are parallel (an orthographic camera).
  isParallel: f32,
  /// Half the picture's width in the world: at distance 1, or everywhere when rays are parallel.
  right: vec3f,
  /// Seconds since the frame before.
  delta: f32,
  up: vec3f,
  /// Width and height of the picture in pixels.
  size: vec2f,
  /// How far its middle lies from where the camera looks, in halves of it: 0 but where it is a part of a larger picture.
  shift: vec2f,
  /// Where its upper left lies in that larger picture, and that one's width and height. Pixels.
  whole: vec4f,
#if full
  /// Where in the picture the target's upper left lies, where that holds a part of it alone.
  origin: vec2f,
  /// Factors of clip space and what is added to it, where the target holds a part of the picture alone.
  crop: vec4f,
  /// The draw's number, where it is asked for.
  draw: u32,
#endif
}

#if surfaceStage
/// Hooks are asked twice there: as it is now, and as it was in the frame before.
@group(0) @binding(0) var<uniform> frameNow: Frame;
var<private> frame: Frame;
#else
@group(0) @binding(0) var<uniform> frame: Frame;
#endif

/// What directions through a place of the picture have besides `forward`. @param at -1 to 1, from the lower left
fn asideAt(at: vec2f) -> vec3f {
  let from_ = at + frame.shift;
  return frame.right * from_.x + frame.up * from_.y;
}

/// A pixel of the whole picture, as one of the part of it that is drawn.
fn ownPixel(screenPosition: vec2f) -> vec2f {
  return screenPosition - frame.whole.xy;
}

/// Unit vector from a place in the world to the camera.
fn toCameraFrom(position: vec3f) -> vec3f {
  return normalize(mix(frame.cameraPosition - position, -frame.forward, frame.isParallel));
}
