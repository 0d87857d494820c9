// In place of frame.wgsl where a shader stands alone: what any page sets, for each thing that it draws.

struct Frame {
  /// World to clip space.
  viewProjection: mat4x4f,
  /// World to camera space: the camera looks along -Z.
  view: mat4x4f,
  /// The geometry's own space to the world.
  objectToWorld: mat4x4f,
  /// Where the camera is in the world.
  cameraPosition: vec3f,
  /// Factor of all light before it is shown: 1 as it is.
  exposure: f32,
  /// Radiance of the light from above and from below.
  sky: vec3f,
  /// Seconds.
  time: f32,
  ground: vec3f,
  /// Seconds since the frame before.
  delta: f32,
  /// Unit vector that the camera looks along.
  forward: vec3f,
  /// 1 when all rays are parallel (an orthographic camera), else 0.
  isParallel: f32,
  /// Half the picture's width in the world: at distance 1, or everywhere when rays are parallel.
  right: vec3f,
  /// How many of the lights count.
  lightCount: u32,
  /// The same of the picture's height.
  up: vec3f,
  /// Width and height of the picture in pixels.
  size: vec2f,
  /// What depths of clip space are multiplied by before they are stored, and what is added: 1 and 0 in WebGPU, 0.5 and 0.5 in WebGL.
  depthRange: vec2f,
}

@group(0) @binding(0) var<uniform> frame: Frame;

/// What directions through a place of the picture have besides `forward`. @param at -1 to 1, from the lower left
fn asideAt(at: vec2f) -> vec3f {
  return frame.right * at.x + frame.up * at.y;
}

/// The picture is whole.
fn ownPixel(screenPosition: vec2f) -> vec2f {
  return screenPosition;
}

/// Unit vector from a place in the world to the camera.
fn toCameraFrom(position: vec3f) -> vec3f {
  return normalize(mix(frame.cameraPosition - position, -frame.forward, frame.isParallel));
}
