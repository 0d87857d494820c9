// A level of a pyramid of depths out of the one before, both in one buffer.

struct Step {
  /// Width and height of the level, and of the one before.
  sizes: vec4u,
  /// Where it begins, and the one before.
  starts: vec2u,
}

@group(0) @binding(0) var<uniform> step: Step;
@group(0) @binding(1) var<storage, read_write> levels: array<f32>;

@compute @workgroup_size(8, 8) fn nextLevel(@builtin(global_invocation_id) at: vec3u) {
  if at.x >= step.sizes.x || at.y >= step.sizes.y { return; }
  var farthest = 1.0;
  for (var k = 0u; k < 4u; k++) {
    let source = min(at.xy * 2 + vec2u(k & 1, k >> 1), step.sizes.zw - 1);
    farthest = min(farthest, levels[step.starts.y + source.y * step.sizes.z + source.x]);
  }
  levels[step.starts.x + at.y * step.sizes.x + at.x] = farthest;
}
