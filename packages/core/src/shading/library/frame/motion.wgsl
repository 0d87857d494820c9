// Where everything was in the frame before, and where it is now: without the shift by which pictures are drawn beside each other.

override isMoving = false;

struct Motion {
  /// World to clip space, in this frame and in the one before.
  now: mat4x4f,
  before: mat4x4f,
}

@group(0) @binding(27) var<uniform> motion: Motion;
/// As `transforms` and `poses`, of the frame before.
@group(0) @binding(28) var<storage, read> transformsBefore: array<vec4f>;
@group(0) @binding(29) var<storage, read> posesBefore: array<vec4f>;

/// Whether vertices are asked for where they were.
var<private> isBefore: bool;

/// How far a place has come since the frame before, as a share of the picture: to the right and down.
fn velocityOf(now: vec3f, before: vec3f) -> vec2f {
  if now.z <= 0 || before.z <= 0 { return vec2f(); }
  return (now.xy / now.z - before.xy / before.z) * vec2f(0.5, -0.5);
}
