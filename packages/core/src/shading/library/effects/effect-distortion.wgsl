// A lens that bends straight lines: radii grow by 1 + k r^2 (Brown, "Decentering distortion of lenses", 1966, its first term).
import { betweenPixels } from './sample.wgsl';
import { screenCorner } from './screen.wgsl';

struct Distortion {
  corner: vec2f,
  size: vec2f,
  /// At the corners: above 0 outwards, as a barrel; below 0 as a cushion.
  amount: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> distortion: Distortion;

@vertex fn distortionVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn distortionFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let middle = distortion.corner + distortion.size * 0.5;
  // 1 at the corners.
  let away = (at.xy - middle) / (length(distortion.size) * 0.5);
  let k = distortion.amount;
  // Scaled so that what is shown fills the picture.
  let least = select(1 + k, 1 + k * pow(min(distortion.size.x, distortion.size.y) / length(distortion.size), 2), k < 0);
  let source = away * (1 + k * dot(away, away)) / max(least, 0.1);
  return betweenPixels(picture, middle + source * length(distortion.size) * 0.5);
}
