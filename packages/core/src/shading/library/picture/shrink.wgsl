// One level of detail out of the one above it, filtered by the sampler.
@group(0) @binding(0) var above: texture_2d<f32>;
@group(0) @binding(1) var smooth_sampler: sampler;

@vertex fn shrinkVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn shrinkFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = max(vec2f(textureDimensions(above)) / 2, vec2f(1));
  return textureSampleLevel(above, smooth_sampler, at.xy / floor(size), 0);
}
