// Puts a layer that effects have treated back where it stands in the picture.
import { decodeSrgb } from './color.wgsl';

struct PutLayer {
  /// Where the layer's upper left lies in the target. Pixels.
  origin: vec2f,
  /// Depth of what has none of its own: what effects have spread beyond the things themselves.
  depth: f32,
  unused: f32,
  /// What counts of the layer, in its own pixels: from the first to before the second.
  least: vec2f,
  most: vec2f,
  /// What has no depth of its own where it is hidden: as screens have it, multiplied by alpha.
  occluded: vec4f,
}

/// Whether depths alone are put, where things cover the layer.
override isDepth = false;
/// Whether it is drawn where it is hidden, and there alone.
override isOccluded = false;

/// As screens have it, multiplied by alpha.
@group(0) @binding(0) var layer: texture_2d<f32>;
@group(0) @binding(1) var layerDepth: texture_depth_2d;
@group(0) @binding(2) var<uniform> put: PutLayer;

struct Put {
  @location(0) color: vec4f,
  @builtin(frag_depth) depth: f32,
}

@vertex fn putVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn putFragment(@builtin(position) at: vec4f) -> Put {
  let place = at.xy - put.origin;
  if any(place < put.least) || any(place >= put.most) { discard; }
  let color = textureLoad(layer, vec2i(place), 0);
  let own = textureLoad(layerDepth, vec2i(place), 0);
  if color.a <= 0 || (isDepth && own == 0) { discard; }
  let depth = select(put.depth, own, own > 0);
  if isOccluded {
    if own > 0 || put.occluded.a <= 0 { discard; }
    let line = decodeSrgb(put.occluded.rgb / put.occluded.a) * put.occluded.a;
    return Put(vec4f(line, put.occluded.a) * color.a, depth);
  }
  return Put(vec4f(decodeSrgb(color.rgb / color.a) * color.a, color.a), depth);
}
