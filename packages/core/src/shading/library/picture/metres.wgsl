// How far away what was drawn is: metres along the camera's way of looking, 0 where nothing is.
import { depthRange, metresAt } from './ray.wgsl';

@group(1) @binding(0) var depths: texture_depth_2d;

@vertex fn metresVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn metresFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let depth = textureLoad(depths, vec2i(at.xy), 0);
  if depth == 0 { return vec4f(); }
  return vec4f(metresAt(depthRange(), depth), 0, 0, 1);
}
