// One side of a cube as mirrors of a roughness see it; the directions of the lobe come from core/light/lobe.ts.
import { directionOfSide } from './panorama.wgsl';

struct Lobe {
  side: u32,
  /// Pixels of the side that is drawn.
  size: f32,
  count: u32,
  unused: u32,
  /// Directions about the normal along +Z, and the level that each is read at.
  samples: array<vec4f, 64>,
}

@group(0) @binding(0) var<uniform> lobe: Lobe;
@group(0) @binding(1) var source: texture_cube<f32>;
@group(0) @binding(2) var sourceSampler: sampler;

@vertex fn prefilterVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn prefilterFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let n = normalize(directionOfSide(lobe.side, at.xy / lobe.size * 2 - 1));
  let t = normalize(cross(select(vec3f(0, 1, 0), vec3f(1, 0, 0), abs(n.y) > 0.9), n));
  let b = cross(n, t);
  var sum = vec3f();
  var weight = 0.0;
  for (var i = 0u; i < lobe.count; i++) {
    let s = lobe.samples[i];
    sum += textureSampleLevel(source, sourceSampler, t * s.x + b * s.y + n * s.z, s.w).rgb * s.z;
    weight += s.z;
  }
  return vec4f(sum / weight, 1);
}
