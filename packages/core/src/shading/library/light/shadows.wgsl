// Whether light reaches a place: the depths that each light sees, compared over a few texels.
import { frame } from './frame.wgsl';
import { LightSource } from './lights.wgsl';
import { pixelNoise } from './pixel-noise.wgsl';

/// Some light has a size: its shadows have penumbrae.
override useSoftShadows = false;

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
  /// Size of the light: metres of its radius, or the tangent of the angle up to its rim, where rays do not spread. 0: a point.
  softness: f32,
}

struct ShadowMaps {
  maps: array<ShadowMap, MOST_MAPS>,
  /// Texels of a side, and one over it.
  size: vec2f,
}

@group(0) @binding(6) var<uniform> shadows: ShadowMaps;
@group(0) @binding(10) var shadowDepths: texture_depth_2d_array;
@group(0) @binding(11) var shadowSampler: sampler_comparison;

// Where a place lies in a map: x and y 0..1 from the upper left, depth, metres along the light's way where rays spread. Surfaces are lifted along their normal, the
// more the flatter the light falls on them, and a little towards the light.
fn placeInMap(map: u32, position: vec3f, normal: vec3f, toLight: vec3f, distance: f32) -> vec4f {
  let texel = shadows.maps[map].texel * mix(1, distance, shadows.maps[map].spreads) * shadows.maps[map].bias;
  let nl = saturate(dot(normal, toLight));
  let lifted = position + (normal * (1.8 * sqrt(1 - nl * nl)) + toLight * 0.6) * texel;
  return project(map, lifted);
}

fn project(map: u32, position: vec3f) -> vec4f {
  let clip = shadows.maps[map].matrix * vec4f(position, 1);
  let at = clip.xyz / max(clip.w, 1e-6);
  return vec4f(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5, at.z, clip.w);
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

/// Texels from the middle of a penumbra to its rim at most.
const MOST_SOFT = 128.0;
const SEARCHED = 16u;
const COMPARED = 32u;

// Points spread evenly over a disc (Vogel, "A better way to construct the sunflower head", 1979).
fn onDisc(i: u32, count: u32, turn: f32) -> vec2f {
  let angle = f32(i) * 2.3999632 + turn;
  return sqrt((f32(i) + 0.5) / f32(count)) * vec2f(cos(angle), sin(angle));
}

// Another turn of the disc for each pixel.
fn discTurn(position: vec3f) -> f32 {
  let clip = frame.viewProjection * vec4f(position, 1);
  let at = (clip.xy / max(clip.w, 1e-6) * vec2f(0.5, -0.5) + 0.5) * frame.size + frame.whole.xy;
  return 6.2831853 * pixelNoise(at);
}

// By how much the depth of a flat surface changes across a map: what lies in its plane is no shadow on it.
fn slopeIn(map: u32, position: vec3f, normal: vec3f, step: f32) -> vec2f {
  let aside = normalize(cross(normal, select(vec3f(0, 1, 0), vec3f(1, 0, 0), abs(normal.y) > 0.9)));
  let here = project(map, position).xyz;
  let a = project(map, position + aside * step).xyz - here;
  let b = project(map, position + cross(normal, aside) * step).xyz - here;
  let area = a.x * b.y - a.y * b.x;
  if abs(area) < 1e-12 { return vec2f(0); }
  return vec2f(a.z * b.y - b.z * a.y, b.z * a.x - a.z * b.x) / area;
}

// Share of light of a light that has a size: how far away what hides it is says how wide its penumbra is there (Fernando,
// "Percentage-Closer Soft Shadows", 2005).
fn softLightIn(map: u32, place: vec4f, slope: vec2f, turn: f32) -> f32 {
  let softness = shadows.maps[map].softness;
  let texel = shadows.maps[map].texel;
  let spreads = shadows.maps[map].spreads > 0.5;
  let size = shadows.size.x;
  // Metres of the depths of a map whose rays do not spread.
  let m = shadows.maps[map].matrix;
  let extent = 1 / length(vec3f(m[0].z, m[1].z, m[2].z));
  let search = clamp(
    select(softness * (1 - place.z) * extent / texel, softness * 2.3 / (place.w * texel), spreads),
    1.5,
    MOST_SOFT,
  );
  var sum = 0.0;
  var count = 0.0;
  for (var i = 0u; i < SEARCHED; i++) {
    let offset = onDisc(i, SEARCHED, turn) * search * shadows.size.y;
    let texelAt = vec2i(clamp((place.xy + offset) * size, vec2f(0), vec2f(size - 1)));
    let depth = textureLoad(shadowDepths, texelAt, i32(map), 0);
    if depth > (place.z + dot(offset, slope)) * 1.0001 {
      sum += depth;
      count += 1;
    }
  }
  if count == 0 { return 1; }
  let blocker = sum / count;
  // Where rays spread a depth is the near plane's distance over that of the place.
  let nearer = place.w * place.z / max(blocker, 1e-9);
  let wide = clamp(
    select(
      softness * (blocker - place.z) * extent / texel,
      softness * (place.w - nearer) / (nearer * place.w * texel),
      spreads,
    ),
    1.2,
    MOST_SOFT,
  );
  var lit = 0.0;
  for (var i = 0u; i < COMPARED; i++) {
    let offset = onDisc(i, COMPARED, turn) * wide * shadows.size.y;
    let depth = place.z + dot(offset, slope);
    lit += textureSampleCompareLevel(shadowDepths, shadowSampler, place.xy + offset, i32(map), depth);
  }
  return lit / f32(COMPARED);
}

// Hard or soft, as the light's size is.
fn shareIn(map: u32, place: vec4f, position: vec3f, normal: vec3f) -> f32 {
  if useSoftShadows && shadows.maps[map].softness > 0 {
    let step = 4 * shadows.maps[map].texel * select(1, place.w, shadows.maps[map].spreads > 0.5);
    return softLightIn(map, place, slopeIn(map, position, normal, step), discTurn(position));
  }
  return lightIn(map, place.xyz);
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
    return shareIn(first + side, at, position, normal);
  }
  for (var k = 0u; k < count; k++) {
    let at = placeInMap(first + k, position, normal, toLight, 1);
    let edge = max(abs(at.x - 0.5), abs(at.y - 0.5)) * 2;
    if edge >= 1 || at.z <= 0 { continue; }
    let lit = shareIn(first + k, at, position, normal);
    // Towards its edge a map hands over to the next one, and the last to the light.
    let beyond = saturate((edge - 0.85) / 0.13);
    if beyond == 0 { return lit; }
    if k + 1 == count { return mix(lit, 1, beyond); }
    let next = placeInMap(first + k + 1, position, normal, toLight, 1);
    return mix(lit, shareIn(first + k + 1, next, position, normal), beyond);
  }
  return 1;
}
