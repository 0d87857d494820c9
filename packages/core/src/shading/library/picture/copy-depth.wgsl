// The first sample of each pixel's depth, for passes that read what lies behind.
@group(0) @binding(0) var samples: texture_depth_multisampled_2d;

@vertex fn copyVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn copyFragment(@builtin(position) at: vec4f) -> @builtin(frag_depth) f32 {
  return textureLoad(samples, vec2i(at.xy), 0);
}
