// Reflection probes: what was captured at a place stands for the light around everything within a box.
import { air } from './air.wgsl';

override useProbes = false;

/// As probes.ts has them.
const PROBE_SIDE = 128.0;
const MOST_PROBES = 4u;

/// A layer a probe, all directions folded into a square (octahedral), a level for each step of roughness.
@group(0) @binding(20) var probeTexture: texture_2d_array<f32>;
@group(0) @binding(21) var probeSampler: sampler;

/// A direction folded into a square, -1..1 (Meyer et al., "On Floating-Point Normal Vectors", 2010).
fn folded(way: vec3f) -> vec2f {
  let p = way.xz / (abs(way.x) + abs(way.y) + abs(way.z));
  let signs = select(vec2f(-1), vec2f(1), p >= vec2f());
  return select((1 - abs(p.yx)) * signs, p, way.y >= 0);
}

fn unfolded(p: vec2f) -> vec3f {
  let y = 1 - abs(p.x) - abs(p.y);
  let signs = select(vec2f(-1), vec2f(1), p >= vec2f());
  let sides = select((1 - abs(p.yx)) * signs, p, y >= 0);
  return normalize(vec3f(sides.x, y, sides.y));
}

struct ProbeHere {
  number: u32,
  /// 0 outside of its box, 1 well within.
  share: f32,
}

/// The first probe whose box a place is in.
fn probeAt(position: vec3f) -> ProbeHere {
  for (var k = 0u; k < min(air.probeCount, MOST_PROBES); k++) {
    let least = air.probes[k].least;
    let most = air.probes[k].most;
    let inside = min(position - least, most - position) / max(most - least, vec3f(1e-6));
    let edge = min(inside.x, min(inside.y, inside.z));
    // The last twentieth of the box hands over.
    if edge > 0 { return ProbeHere(k, saturate(edge * 20)); }
  }
  return ProbeHere(0, 0);
}

/// Radiance that a probe shows from a place: where a ray from there leaves the box, seen from where it was captured.
fn probeRadiance(number: u32, position: vec3f, way: vec3f, roughness: f32) -> vec3f {
  let safe = select(way, vec3f(1e-6), abs(way) < vec3f(1e-6));
  let first = (air.probes[number].most - position) / safe;
  let second = (air.probes[number].least - position) / safe;
  let ends = max(first, second);
  let distance = max(min(ends.x, min(ends.y, ends.z)), 0);
  let seen = folded(normalize(position + way * distance - air.probes[number].position));
  let level = roughness * air.roughest;
  let low = floor(level);
  let high = min(low + 1, air.roughest);
  return mix(probeTexel(number, seen, low), probeTexel(number, seen, high), level - low) * air.probes[number].intensity;
}

// Within the border of one texel that repeats what is across the fold.
fn probeTexel(number: u32, place: vec2f, level: f32) -> vec3f {
  let size = PROBE_SIDE * exp2(-level);
  let at = place * (size - 2) / size * 0.5 + 0.5;
  return textureSampleLevel(probeTexture, probeSampler, at, i32(number), level).rgb;
}

/// Irradiance over pi that a probe gives to a surface that faces this way.
fn probeIrradiance(number: u32, n: vec3f) -> vec3f {
  let sum = air.probes[number].irradiance[0].rgb * 0.282095
    + (air.probes[number].irradiance[1].rgb * n.y + air.probes[number].irradiance[2].rgb * n.z
      + air.probes[number].irradiance[3].rgb * n.x) * 0.488603
    + (air.probes[number].irradiance[4].rgb * n.x * n.y + air.probes[number].irradiance[5].rgb * n.y * n.z
      + air.probes[number].irradiance[7].rgb * n.x * n.z) * 1.092548
    + air.probes[number].irradiance[6].rgb * 0.315392 * (3 * n.z * n.z - 1)
    + air.probes[number].irradiance[8].rgb * 0.546274 * (n.x * n.x - n.y * n.y);
  return max(sum, vec3f()) * air.probes[number].intensity;
}
