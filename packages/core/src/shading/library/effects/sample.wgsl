// Pictures of effects between their pixels; outside of them nothing is.
import { isOutside } from './screen.wgsl';

fn pixelOf(image: texture_2d<f32>, at: vec2i) -> vec4f {
  if isOutside(at, vec2i(textureDimensions(image))) { return vec4f(); }
  return textureLoad(image, at, 0);
}

/// @param place in pixels, their middles at halves
fn betweenPixels(image: texture_2d<f32>, place: vec2f) -> vec4f {
  let low = floor(place - 0.5);
  let t = place - 0.5 - low;
  let at = vec2i(low);
  return mix(
    mix(pixelOf(image, at), pixelOf(image, at + vec2i(1, 0)), t.x),
    mix(pixelOf(image, at + vec2i(0, 1)), pixelOf(image, at + vec2i(1, 1)), t.x),
    t.y,
  );
}
