// A layer of transparent surfaces, premultiplied, as it is: the pipeline says over or under what it goes.

@group(0) @binding(0) var layer: texture_2d<f32>;

@vertex fn layerVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn layerFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  return textureLoad(layer, vec2i(at.xy), 0);
}
