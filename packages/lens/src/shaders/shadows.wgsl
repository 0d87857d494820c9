// Whether light reaches a place: the depths that each light sees, compared over a few texels.
import { LightSource } from './lights.wgsl';

const MOST_MAPS = 16;

struct ShadowMap {
  /// World to the light's clip space, depth 1 near and 0 far.
  matrix: mat4x4f,
  /// Metres a texel: everywhere, or at distance 1 where the light's rays spread.
  texel: f32,
  /// 1 where they spread.
  spreads: f32,
  /// Texels by which surfaces are lifted out of their own shadow.
  bias: f32,
  unused: f32,
}

struct ShadowMaps {
  maps: array<ShadowMap, MOST_MAPS>,
  /// Texels of a side, and one over it.
  size: vec2f,
}

@group(0) @binding(6) var<uniform> shadows: ShadowMaps;
@group(0) @binding(10) var shadowDepths: texture_depth_2d_array;
@group(0) @binding(11) var shadowSampler: sampler_comparison;

// Where a place lies in a map: x and y 0..1 from the upper left, depth. Surfaces are lifted along their normal, the
// more the flatter the light falls on them, and a little towards the light.
fn placeInMap(map: u32, position: vec3f, normal: vec3f, toLight: vec3f, distance: f32) -> vec3f {
  let texel = shadows.maps[map].texel * mix(1, distance, shadows.maps[map].spreads) * shadows.maps[map].bias;
  let nl = saturate(dot(normal, toLight));
  let lifted = position + (normal * (1.8 * sqrt(1 - nl * nl)) + toLight * 0.6) * texel;
  let clip = shadows.maps[map].matrix * vec4f(lifted, 1);
  let at = clip.xyz / max(clip.w, 1e-6);
  return vec3f(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5, at.z);
}

// Share of light over three by three texels, weighted towards the middle, by four comparisons between texels.
fn lightIn(map: u32, at: vec3f) -> f32 {
  let texels = at.xy * shadows.size.x;
  let base = floor(texels + 0.5);
  let s = texels + 0.5 - base;
  let low = (2 - s) / (3 - 2 * s) - 1;
  let high = s / (1 + 2 * s) + 1;
  let lowWeight = 3 - 2 * s;
  let highWeight = 1 + 2 * s;
  let start = (base - 0.5 + low) * shadows.size.y;
  let stop = (base - 0.5 + high) * shadows.size.y;
  let layer = i32(map);
  let sum = lowWeight.x * lowWeight.y * textureSampleCompareLevel(shadowDepths, shadowSampler, start, layer, at.z)
    + highWeight.x * lowWeight.y * textureSampleCompareLevel(shadowDepths, shadowSampler, vec2f(stop.x, start.y), layer, at.z)
    + lowWeight.x * highWeight.y * textureSampleCompareLevel(shadowDepths, shadowSampler, vec2f(start.x, stop.y), layer, at.z)
    + highWeight.x * highWeight.y * textureSampleCompareLevel(shadowDepths, shadowSampler, stop, layer, at.z);
  return sum / 16;
}

/// Share of a light that reaches a place with this normal: 0 in shadow, 1 where nothing is in the way.
fn shadowAt(source: LightSource, position: vec3f, normal: vec3f, toLight: vec3f) -> f32 {
  let info = source.shadow;
  if info == 0 { return 1; }
  let first = (info & 255) - 1;
  let count = info >> 8;
  if source.kind != 1 {
    let way = position - source.position;
    var side = 0u;
    if count == 6 {
      // The sides of a cube about the light: +X, -X, +Y, -Y, +Z, -Z.
      let size = abs(way);
      if size.x >= size.y && size.x >= size.z { side = select(0u, 1u, way.x < 0); }
      else if size.y >= size.z { side = select(2u, 3u, way.y < 0); }
      else { side = select(4u, 5u, way.z < 0); }
    }
    let at = placeInMap(first + side, position, normal, toLight, length(way));
    // Area lights reach farther than their map.
    if source.kind > 1.5 && max(abs(at.x - 0.5), abs(at.y - 0.5)) > 0.5 { return 1; }
    return lightIn(first + side, at);
  }
  for (var k = 0u; k < count; k++) {
    let at = placeInMap(first + k, position, normal, toLight, 1);
    let edge = max(abs(at.x - 0.5), abs(at.y - 0.5)) * 2;
    if edge >= 1 || at.z <= 0 { continue; }
    let lit = lightIn(first + k, at);
    // Towards its edge a map hands over to the next one, and the last to the light.
    let beyond = saturate((edge - 0.85) / 0.13);
    if beyond == 0 { return lit; }
    if k + 1 == count { return mix(lit, 1, beyond); }
    let next = placeInMap(first + k + 1, position, normal, toLight, 1);
    return mix(lit, lightIn(first + k + 1, next), beyond);
  }
  return 1;
}
