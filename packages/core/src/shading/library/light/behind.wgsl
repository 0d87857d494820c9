// What was drawn before the surface at hand: opaque things, as the camera sees them.
import { ownPixel } from './frame.wgsl';

#if sceneDepth
@group(0) @binding(2) var behindDepth: texture_depth_2d;

/// Depth of what lies behind a pixel, as it is stored: 1 near, 0 far or nothing.
fn sceneDepth(screenPosition: vec2f) -> f32 {
  let most = vec2i(textureDimensions(behindDepth)) - 1;
  return textureLoad(behindDepth, clamp(vec2i(ownPixel(screenPosition)), vec2i(), most), 0);
}
#endif
#if sceneColor
@group(0) @binding(3) var behindColor: texture_2d<f32>;

/// Colour of what lies behind a pixel: linear, tone-mapped, premultiplied.
fn sceneColor(screenPosition: vec2f) -> vec4f {
  let most = vec2i(textureDimensions(behindColor)) - 1;
  return textureLoad(behindColor, clamp(vec2i(ownPixel(screenPosition)), vec2i(), most), 0);
}
#endif
