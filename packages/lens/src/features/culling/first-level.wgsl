// The first level of a pyramid of depths: the farthest of 2 x 2 pixels.

/// Width and height of the level, and of the picture.
@group(0) @binding(0) var<uniform> sizes: vec4u;
@group(0) @binding(1) var depths: texture_depth_2d;
@group(0) @binding(2) var<storage, read_write> level: array<f32>;

@compute @workgroup_size(8, 8) fn firstLevel(@builtin(global_invocation_id) at: vec3u) {
  if at.x >= sizes.x || at.y >= sizes.y { return; }
  var farthest = 1.0;
  for (var k = 0u; k < 4u; k++) {
    let pixel = min(at.xy * 2 + vec2u(k & 1, k >> 1), sizes.zw - 1);
    farthest = min(farthest, textureLoad(depths, pixel, 0));
  }
  level[at.y * sizes.x + at.x] = farthest;
}
