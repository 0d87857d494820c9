// A line around what is not transparent, below it.
import { screenCorner } from './screen.wgsl';
import { pixelOf } from './sample.wgsl';

struct Outline {
  /// As screens have it, multiplied by alpha.
  color: vec4f,
  /// Pixels.
  width: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> outline: Outline;

@vertex fn outlineVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn outlineFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let own = pixelOf(picture, pixel);
  let reach = i32(ceil(outline.width));
  // How much of the line's brush, laid on what is there, covers the pixel: its edge is a pixel wide.
  var cover = 0.0;
  for (var y = -reach; y <= reach; y++) {
    for (var x = -reach; x <= reach; x++) {
      let near = saturate(outline.width + 0.5 - length(vec2f(vec2i(x, y))));
      if near <= cover { continue; }
      cover = max(cover, pixelOf(picture, pixel + vec2i(x, y)).a * near);
    }
  }
  return own + outline.color * (cover * (1 - own.a));
}
