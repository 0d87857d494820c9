// Depths of an earlier picture, for one that is drawn into the same target.

@group(0) @binding(0) var keptDepth: texture_depth_2d;

@vertex fn keptVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

struct Kept {
  @location(0) color: vec4f,
  @builtin(frag_depth) depth: f32,
}

@fragment fn keptFragment(@builtin(position) at: vec4f) -> Kept {
  return Kept(vec4f(), textureLoad(keptDepth, vec2i(at.xy), 0));
}
