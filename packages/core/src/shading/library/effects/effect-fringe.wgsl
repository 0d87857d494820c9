// What a lens does to the three colours: they are magnified differently, the more the farther from the middle.
import { betweenPixels } from './sample.wgsl';
import { screenCorner } from './screen.wgsl';

struct Fringe {
  /// What of the picture counts: its upper left, and its size. Pixels.
  corner: vec2f,
  size: vec2f,
  /// Pixels between red and blue at the corners.
  amount: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> fringe: Fringe;

@vertex fn fringeVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn fringeFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let middle = fringe.corner + fringe.size * 0.5;
  let away = at.xy - middle;
  let by = away * (fringe.amount / length(fringe.size));
  // At its edges the picture goes on as it ends.
  let least = fringe.corner + 0.5;
  let most = fringe.corner + fringe.size - 0.5;
  let red = betweenPixels(picture, clamp(at.xy - by, least, most));
  let green = betweenPixels(picture, at.xy);
  let blue = betweenPixels(picture, clamp(at.xy + by, least, most));
  return vec4f(red.r, green.g, blue.b, max(red.a, max(green.a, blue.a)));
}
