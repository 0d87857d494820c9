// Takes the grain out of what ambient-occlusion.wgsl found: the mean of five by five pixels of the same surface.
import { air } from './air.wgsl';
import { frame } from './frame.wgsl';
import { isOneOf } from './seen-things.wgsl';

@group(1) @binding(0) var found: texture_2d<f32>;
@group(1) @binding(1) var surfaceThings: texture_2d<f32>;

@vertex fn smoothVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn smoothFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let most = vec2i(frame.size) - 1;
  let own = textureLoad(found, pixel, 0);
  if own.w == 0 || !isOneOf(surfaceThings, pixel, air.occlusionSees) { return own; }
  let ownShare = length(own.xyz);
  let ownWay = own.xyz / ownShare;
  // How the distance changes across the surface, by the nearer of both neighbours.
  var slope = vec2f();
  for (var k = 0; k < 2; k++) {
    let step = select(vec2i(0, 1), vec2i(1, 0), k == 0);
    let a = textureLoad(found, min(pixel + step, most), 0).w - own.w;
    let b = own.w - textureLoad(found, max(pixel - step, vec2i()), 0).w;
    slope[k] = select(b, a, abs(a) < abs(b));
  }
  var way = own.xyz;
  var shares = ownShare;
  var weights = 1.0;
  for (var y = -2; y <= 2; y++) {
    for (var x = -2; x <= 2; x++) {
      let there = clamp(pixel + vec2i(x, y), vec2i(), most);
      let c = textureLoad(found, there, 0);
      let expected = own.w + dot(slope, vec2f(f32(x), f32(y)));
      let isSame = abs(c.w - expected) < 0.01 * own.w && dot(c.xyz, ownWay) > 0.5 * length(c.xyz) && !(x == 0 && y == 0);
      let weight = select(0.0, 1.0, isSame && isOneOf(surfaceThings, there, air.occlusionSees));
      way += c.xyz * weight;
      shares += length(c.xyz) * weight;
      weights += weight;
    }
  }
  // Ways that differ would be shorter together.
  return vec4f(normalize(way) * (shares / weights), own.w);
}
