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
// more the flatter the light falls on them, and a little towards the light. Maps are handed on as they were read, once: each pixel may read another.
fn placeInMap(m: ShadowMap, position: vec3f, normal: vec3f, toLight: vec3f, distance: f32) -> vec4f {
  let texel = m.texel * mix(1, distance, m.spreads) * m.bias;
  let nl = saturate(dot(normal, toLight));
  let lifted = position + (normal * (1.8 * sqrt(1 - nl * nl)) + toLight * 0.6) * texel;
  return project(m, lifted);
}

fn project(m: ShadowMap, position: vec3f) -> vec4f {
  let clip = m.matrix * vec4f(position, 1);
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

// Points spread evenly over a disc (Vogel, "A better way to construct the sunflower head", 1979): each is the golden angle further on.
fn further(way: vec2f) -> vec2f {
  return vec2f(way.x * -0.7373688 - way.y * 0.6754903, way.x * 0.6754903 + way.y * -0.7373688);
}

// Where the first of them lies: another turn of the disc for each pixel.
fn firstWay(position: vec3f) -> vec2f {
  let clip = frame.viewProjection * vec4f(position, 1);
  let at = (clip.xy / max(clip.w, 1e-6) * vec2f(0.5, -0.5) + 0.5) * frame.size + frame.whole.xy;
  let turn = 6.2831853 * pixelNoise(at);
  return vec2f(cos(turn), sin(turn));
}

// By how much the depth of a flat surface changes across a map: what lies in its plane is no shadow on it.
fn slopeIn(m: ShadowMap, position: vec3f, normal: vec3f, step: f32) -> vec2f {
  let aside = normalize(cross(normal, select(vec3f(0, 1, 0), vec3f(1, 0, 0), abs(normal.y) > 0.9)));
  let here = project(m, position).xyz;
  let a = project(m, position + aside * step).xyz - here;
  let b = project(m, position + cross(normal, aside) * step).xyz - here;
  let area = a.x * b.y - a.y * b.x;
  if abs(area) < 1e-12 { return vec2f(0); }
  return vec2f(a.z * b.y - b.z * a.y, b.z * a.x - a.z * b.x) / area;
}

// Share of light of a light that has a size: how far away what hides it is says how wide its penumbra is there (Fernando,
// "Percentage-Closer Soft Shadows", 2005).
fn softLightIn(m: ShadowMap, map: u32, place: vec4f, slope: vec2f, first: vec2f) -> f32 {
  let softness = m.softness;
  let texel = m.texel;
  let spreads = m.spreads > 0.5;
  let size = shadows.size.x;
  // Metres of the depths of a map whose rays do not spread.
  let extent = 1 / length(vec3f(m.matrix[0].z, m.matrix[1].z, m.matrix[2].z));
  let search = clamp(
    select(softness * (1 - place.z) * extent / texel, softness * 2.3 / (place.w * texel), spreads),
    1.5,
    MOST_SOFT,
  );
  var sum = 0.0;
  var count = 0.0;
  var way = first;
  for (var i = 0u; i < SEARCHED; i++) {
    let offset = way * (sqrt((f32(i) + 0.5) / f32(SEARCHED)) * search * shadows.size.y);
    way = further(way);
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
  way = first;
  for (var i = 0u; i < COMPARED; i++) {
    let offset = way * (sqrt((f32(i) + 0.5) / f32(COMPARED)) * wide * shadows.size.y);
    way = further(way);
    let depth = place.z + dot(offset, slope);
    lit += textureSampleCompareLevel(shadowDepths, shadowSampler, place.xy + offset, i32(map), depth);
  }
  return lit / f32(COMPARED);
}

// Hard or soft, as the light's size is.
fn shareIn(m: ShadowMap, map: u32, place: vec4f, position: vec3f, normal: vec3f) -> f32 {
  if useSoftShadows {
    if m.softness > 0 {
      let step = 4 * m.texel * select(1, place.w, m.spreads > 0.5);
      return softLightIn(m, map, place, slopeIn(m, position, normal, step), firstWay(position));
    }
  }
  return lightIn(map, place.xyz);
}

/// Share of a light that reaches a place with this normal: 0 in shadow, 1 where nothing is in the way. One loop reads every
/// kind of map: what compares depths is long, and drivers compile it once for each place that calls it.
fn shadowAt(source: LightSource, position: vec3f, normal: vec3f, toLight: vec3f) -> f32 {
  let info = source.shadow;
  if info == 0 { return 1; }
  let isFar = source.kind == 1;
  var map = (info & 255) - 1;
  var end = map + (info >> 8);
  var away = 1.0;
  if !isFar {
    let way = position - source.position;
    away = length(way);
    if end - map == 6 {
      // The sides of a cube about the light: +X, -X, +Y, -Y, +Z, -Z.
      let size = abs(way);
      if size.x >= size.y && size.x >= size.z { map += select(0u, 1u, way.x < 0); }
      else if size.y >= size.z { map += select(2u, 3u, way.y < 0); }
      else { map += select(4u, 5u, way.z < 0); }
    }
    end = map + 1;
  }
  var lit = 0.0;
  // What no map has told of yet: it is lit beyond the last one.
  var left = 1.0;
  for (; map < end && left > 0; map++) {
    let m = shadows.maps[map];
    let at = placeInMap(m, position, normal, toLight, away);
    let edge = max(abs(at.x - 0.5), abs(at.y - 0.5)) * 2;
    var beyond = 0.0;
    if isFar {
      if edge >= 1 || at.z <= 0 { continue; }
      // Towards its edge a map hands over to the next one, and the last to the light.
      beyond = saturate((edge - 0.85) / 0.13);
    } else if source.kind > 1.5 && edge > 1 {
      // Area lights reach farther than their map.
      break;
    }
    lit += left * (1 - beyond) * shareIn(m, map, at, position, normal);
    left *= beyond;
  }
  return lit + left;
}
