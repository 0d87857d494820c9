// Two pictures put together: by the modes of CSS (Compositing and Blending Level 1), or by operators (Porter and Duff;
// SVG's feComposite).
import { given, screenCorner, taken } from './screen.wgsl';

/// 0 to 15 the modes of CSS in their order; 16 to 22 over, in, out, atop, xor, lighter, arithmetic.
override mode = 0u;

struct Blend {
  /// Of arithmetic.
  factors: vec4f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> blend: Blend;
/// What lies below.
@group(0) @binding(2) var below: texture_2d<f32>;

fn luminosity(c: vec3f) -> f32 { return dot(c, vec3f(0.3, 0.59, 0.11)); }

fn cut(c: vec3f) -> vec3f {
  let l = luminosity(c);
  let low = min(c.r, min(c.g, c.b));
  let high = max(c.r, max(c.g, c.b));
  var out = c;
  if low < 0 { out = l + (out - l) * l / (l - low); }
  if high > 1 { out = l + (out - l) * (1 - l) / (high - l); }
  return out;
}

fn withLuminosity(c: vec3f, l: f32) -> vec3f { return cut(c + (l - luminosity(c))); }

fn saturationOf(c: vec3f) -> f32 { return max(c.r, max(c.g, c.b)) - min(c.r, min(c.g, c.b)); }

fn withSaturation(c: vec3f, s: f32) -> vec3f {
  let low = min(c.r, min(c.g, c.b));
  let range = saturationOf(c);
  if range <= 0 { return vec3f(); }
  return (c - low) * s / range;
}

fn dodged(b: f32, s: f32) -> f32 {
  if b <= 0 { return 0; }
  if s >= 1 { return 1; }
  return min(1, b / (1 - s));
}

fn burned(b: f32, s: f32) -> f32 {
  if b >= 1 { return 1; }
  if s <= 0 { return 0; }
  return 1 - min(1, (1 - b) / s);
}

fn hard(b: vec3f, s: vec3f) -> vec3f {
  return select(b + (2 * s - 1) - b * (2 * s - 1), b * 2 * s, s <= vec3f(0.5));
}

fn soft(b: vec3f, s: vec3f) -> vec3f {
  let d = select(sqrt(b), ((16 * b - 12) * b + 4) * b, b <= vec3f(0.25));
  return select(b + (2 * s - 1) * (d - b), b - (1 - 2 * s) * b * (1 - b), s <= vec3f(0.5));
}

/// Of two colours without their alpha multiplied in: what lies below, and what lies above.
fn blended(b: vec3f, s: vec3f) -> vec3f {
  switch mode {
    case 1: { return b * s; }
    case 2: { return b + s - b * s; }
    case 3: { return hard(s, b); }
    case 4: { return min(b, s); }
    case 5: { return max(b, s); }
    case 6: { return vec3f(dodged(b.r, s.r), dodged(b.g, s.g), dodged(b.b, s.b)); }
    case 7: { return vec3f(burned(b.r, s.r), burned(b.g, s.g), burned(b.b, s.b)); }
    case 8: { return hard(b, s); }
    case 9: { return soft(b, s); }
    case 10: { return abs(b - s); }
    case 11: { return b + s - 2 * b * s; }
    case 12: { return withLuminosity(withSaturation(s, saturationOf(b)), luminosity(b)); }
    case 13: { return withLuminosity(withSaturation(b, saturationOf(s)), luminosity(b)); }
    case 14: { return withLuminosity(s, luminosity(b)); }
    case 15: { return withLuminosity(b, luminosity(s)); }
    default: { return s; }
  }
}

fn straight(c: vec4f) -> vec3f { return select(vec3f(), c.rgb / max(c.a, 1e-6), c.a > 0); }

fn composed(s: vec4f, b: vec4f) -> vec4f {
  switch mode {
    case 16: { return s + b * (1 - s.a); }
    case 17: { return s * b.a; }
    case 18: { return s * (1 - b.a); }
    case 19: { return s * b.a + b * (1 - s.a); }
    case 20: { return s * (1 - b.a) + b * (1 - s.a); }
    case 21: { return min(s + b, vec4f(1)); }
    case 22: {
      let k = blend.factors;
      let c = saturate(k.x * s * b + k.y * s + k.z * b + k.w);
      return vec4f(min(c.rgb, vec3f(c.a)), c.a);
    }
    default: {
      let mixed = blended(straight(b), straight(s));
      let c = (1 - b.a) * s.rgb + (1 - s.a) * b.rgb + s.a * b.a * mixed;
      return vec4f(c, s.a + b.a * (1 - s.a));
    }
  }
}

@vertex fn blendVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn blendFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  return given(composed(taken(textureLoad(picture, pixel, 0)), taken(textureLoad(below, pixel, 0))));
}
