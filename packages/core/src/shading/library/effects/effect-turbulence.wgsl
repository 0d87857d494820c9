// Noise that makes clouds, marble and ripples (Perlin's, as SVG's feTurbulence has it word for word).
import { encodeSrgb } from './color.wgsl';
import { isLinear, screenCorner } from './screen.wgsl';

/// Whether octaves are added as they are, around one half, and not their amounts.
override isFractal = false;

struct Turbulence {
  /// Waves a pixel.
  frequency: vec2f,
  octaves: f32,
  /// Pixels of the full picture, to one of this one.
  step: f32,
  /// Where its pattern begins. Pixels.
  corner: vec2f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> turbulence: Turbulence;
/// Three a place of the lattice: gradients of red and green, of blue and alpha, and the place that follows.
@group(0) @binding(2) var<storage, read> lattice: array<vec4f>;

fn following(at: u32) -> u32 { return u32(lattice[at * 3 + 2].x); }

fn gradientAt(at: u32, channel: u32) -> vec2f {
  let pair = lattice[at * 3 + (channel >> 1)];
  return select(pair.xy, pair.zw, (channel & 1) == 1);
}

fn noiseAt(point: vec2f, channel: u32) -> f32 {
  let t = point + 4096;
  let low = vec2u(t) & vec2u(255);
  let high = (vec2u(t) + 1) & vec2u(255);
  let r0 = fract(t);
  let r1 = r0 - 1;
  let i = following(low.x);
  let j = following(high.x);
  let s = r0 * r0 * (3 - 2 * r0);
  let a = dot(r0, gradientAt(following(i + low.y), channel));
  let b = dot(vec2f(r1.x, r0.y), gradientAt(following(j + low.y), channel));
  let c = dot(vec2f(r0.x, r1.y), gradientAt(following(i + high.y), channel));
  let d = dot(r1, gradientAt(following(j + high.y), channel));
  return mix(mix(a, b, s.x), mix(c, d, s.x), s.y);
}

fn summed(point: vec2f, channel: u32) -> f32 {
  var sum = 0.0;
  var at = point * turbulence.frequency;
  var share = 1.0;
  for (var i = 0.0; i < turbulence.octaves; i += 1) {
    let n = noiseAt(at, channel);
    if isFractal { sum += n * share; }
    else { sum += abs(n) * share; }
    at *= 2;
    share /= 2;
  }
  if isFractal { return saturate((sum + 1) / 2); }
  return saturate(sum);
}

@vertex fn turbulenceVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn turbulenceFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  // As browsers count: half a pixel behind the middle.
  let point = (at.xy - turbulence.corner) * turbulence.step + 0.5;
  var c = vec4f(summed(point, 0), summed(point, 1), summed(point, 2), summed(point, 3));
  if isLinear { c = vec4f(encodeSrgb(c.rgb), c.a); }
  // The picture is bound as for all effects.
  return vec4f(c.rgb * c.a, c.a) + textureLoad(picture, vec2i(at.xy), 0) * 0;
}
