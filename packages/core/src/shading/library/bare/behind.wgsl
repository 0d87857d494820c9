// In place of behind.wgsl where a shader stands alone: pictures of what was drawn before, of the size of this one.
import { frame } from './frame.wgsl';

#if sceneDepth
@group(0) @binding(2) var behindDepth: texture_depth_2d;

/// Depth of what lies behind a pixel, in clip space.
fn sceneDepth(screenPosition: vec2f) -> f32 {
  let most = vec2i(textureDimensions(behindDepth)) - 1;
  let stored = textureLoad(behindDepth, clamp(vec2i(screenPosition), vec2i(), most), 0);
  return (stored - frame.depthRange.y) / frame.depthRange.x;
}
#endif
#if sceneColor
@group(0) @binding(3) var behindColor: texture_2d<f32>;

/// Colour of what lies behind a pixel: linear, tone-mapped, premultiplied.
fn sceneColor(screenPosition: vec2f) -> vec4f {
  let most = vec2i(textureDimensions(behindColor)) - 1;
  return textureLoad(behindColor, clamp(vec2i(screenPosition), vec2i(), most), 0);
}
#endif
