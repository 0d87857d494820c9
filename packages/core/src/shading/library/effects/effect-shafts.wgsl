// Light in the air: what of the way from each pixel to a light is open (Mitchell, "Volumetric Light Scattering as a Post-Process", 2007).
import { pixelNoise } from './pixel-noise.wgsl';
import { screenCorner } from './screen.wgsl';
import { Shafts } from './shafts.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> shafts: Shafts;
@group(0) @binding(4) var depths: texture_depth_2d;

const SAMPLES = 48;

@vertex fn shaftsVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn shaftsFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = vec2f(textureDimensions(depths));
  let place = min(at.xy * 2 / size, vec2f(1));
  let way = (shafts.light - place) * shafts.reach;
  let noise = pixelNoise(at.xy);
  let wide = vec2f(size.x / size.y, 1) * shafts.share;
  var sum = 0.0;
  for (var i = 0; i < SAMPLES; i++) {
    let there = place + way * ((f32(i) + noise) / f32(SAMPLES));
    let pixel = clamp(vec2i(there * size), vec2i(), vec2i(size) - 1);
    // Whether nothing stands before the light there: depths fall with the distance, and lamps have a size.
    let isOpen = textureLoad(depths, pixel, 0) <= shafts.depth * 1.15;
    let apart = length((there - shafts.light) * wide);
    sum += select(0.0, 1 / (1 + 80 * apart * apart), isOpen);
  }
  return vec4f(vec3f(sum / f32(SAMPLES)), 1);
}
