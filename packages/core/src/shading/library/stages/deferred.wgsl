// Adds light to what the surfaces of a picture are made of, once a pixel. Group 1 holds the three targets that
// meshes gather into, and their depth.
import { Fragment, Surface } from 'umber/surface.wgsl';
import { frame } from 'umber/frame.wgsl';
import { depthRange, metresAt, placeAt, rayThrough } from 'umber/ray.wgsl';
import { shownPixel } from 'umber/openness.wgsl';
import { allAround, layeredOf, ownLight } from 'umber/layered.wgsl';
import { withLights } from 'umber/lit.wgsl';
import { throughFog } from 'umber/fog.wgsl';
import { present } from 'umber/tone.wgsl';

@group(1) @binding(0) var gatheredBase: texture_2d<f32>;
@group(1) @binding(1) var gatheredNormal: texture_2d<f32>;
@group(1) @binding(2) var gatheredEmissive: texture_2d<f32>;
@group(1) @binding(3) var gatheredDepth: texture_depth_2d;

@vertex fn deferredVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn deferredFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let depth = textureLoad(gatheredDepth, pixel, 0);
  if depth == 0 { discard; }
  let base = textureLoad(gatheredBase, pixel, 0);
  let normal = textureLoad(gatheredNormal, pixel, 0);
  // Depths of an earlier picture have no surface here.
  if all(normal.xyz == vec3f()) { discard; }
  let own = textureLoad(gatheredEmissive, pixel, 0);
  shownPixel = at.xy;
  var p: Fragment;
  p.position = placeAt(at.xy, metresAt(depthRange(), depth));
  p.toCamera = -rayThrough(at.xy + frame.whole.xy).direction;
  p.normal = normalize(normal.xyz);
  p.isFront = true;
  var s: Surface;
  s.baseColor = base.rgb;
  s.occlusion = base.a;
  s.normal = p.normal;
  s.roughness = normal.a;
  s.metallic = select(own.a, own.a - 2, own.a > 1.5);
  s.emissive = own.rgb;
  s.alpha = 1;
  let receives = select(1.0, 0.0, own.a > 1.5);
  let layered = layeredOf(s, p);
  let color = withLights(allAround(layered, s, p, 1), layered, s, p, receives) + ownLight(layered, s);
  return present(throughFog(color, p.position, p.toCamera), 1);
}
