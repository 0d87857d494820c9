// Edges stand out: the picture less what is blurred of it (unsharp masking), no further than the colours around go.
import { isOutside, screenCorner } from './screen.wgsl';

struct Sharpen {
  amount: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> sharpen: Sharpen;

fn around(at: vec2i) -> vec4f {
  return textureLoad(picture, clamp(at, vec2i(), vec2i(textureDimensions(picture)) - 1), 0);
}

@vertex fn sharpenVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn sharpenFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let own = textureLoad(picture, pixel, 0);
  let a = around(pixel + vec2i(-1, 0));
  let b = around(pixel + vec2i(1, 0));
  let c = around(pixel + vec2i(0, -1));
  let d = around(pixel + vec2i(0, 1));
  let sharp = own.rgb + (own.rgb - (a.rgb + b.rgb + c.rgb + d.rgb) * 0.25) * sharpen.amount;
  let least = min(own.rgb, min(min(a.rgb, b.rgb), min(c.rgb, d.rgb)));
  let most = max(own.rgb, max(max(a.rgb, b.rgb), max(c.rgb, d.rgb)));
  // Half beyond the range of its neighbours at most: halos are thin.
  let room = (most - least) * 0.5;
  return vec4f(clamp(clamp(sharp, least - room, most + room), vec3f(), vec3f(own.a)), own.a);
}
