// An effect of one's own: a full-screen pass. The call of the author's hook stands in `umber/hooks.wgsl`.
import { screenCorner } from 'umber/screen.wgsl';
import { effectFrame, effectPicture, Pixel, straightColor } from 'umber/pixel.wgsl';
import { effectAnswer } from 'umber/hooks.wgsl';

@vertex fn effectVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn effectFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  var p: Pixel;
  p.position = at.xy - effectFrame.corner;
  p.size = effectFrame.size;
  p.place = p.position / p.size;
  p.color = straightColor(textureLoad(effectPicture, vec2i(at.xy), 0));
  p.time = effectFrame.time;
  p.delta = effectFrame.delta;
  let c = effectAnswer(p);
  let alpha = saturate(c.a);
  return vec4f(saturate(c.rgb) * alpha, alpha);
}
