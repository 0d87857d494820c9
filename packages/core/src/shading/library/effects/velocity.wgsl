// How what a picture shows has come since the frame before.

struct EffectMotion {
  /// Where directions were, in the clip space of the frame before: x, y and w each. Right, up and forward, as frame.wgsl has them.
  right: vec3f,
  /// Samples that a pixel of what stands still holds with this frame.
  samples: f32,
  up: vec3f,
  /// Of the projection: what depth is multiplied by, and what is added.
  depthScale: f32,
  forward: vec3f,
  depthOffset: f32,
  /// By how much of a pixel as it was drawn the picture is shifted: to the right and down.
  shift: vec2f,
  amount: f32,
  /// Pixels of the longest way.
  most: f32,
  isParallel: f32,
  /// One over the mean weight of a sample, where there are fewer samples than pixels.
  gain: f32,
}

/// Where nothing is, the camera alone moves. @param found see surfaces.wgsl @param place 0..1 from the upper left
fn movedBy(found: vec4f, place: vec2f, motion: EffectMotion) -> vec2f {
  if found.w > 0.5 { return found.xy; }
  let at = vec2f(place.x * 2 - 1, 1 - place.y * 2);
  let before = motion.right * at.x + motion.up * at.y + motion.forward;
  if before.z <= 1e-5 { return vec2f(); }
  return (at - before.xy / before.z) * vec2f(0.5, -0.5);
}

/// Metres along the camera's way of looking; a million where nothing is.
fn metresOf(depth: f32, motion: EffectMotion) -> f32 {
  if depth <= 0 { return 1e6; }
  if motion.isParallel > 0.5 { return (motion.depthOffset - depth) / motion.depthScale; }
  return motion.depthOffset / max(depth + motion.depthScale, 1e-9);
}
