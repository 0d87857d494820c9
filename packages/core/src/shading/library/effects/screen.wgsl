// What full-screen passes of effects have in common. Colours are as screens have them, multiplied by alpha; outside of a
// picture nothing is.
import { decodeSrgb, encodeSrgb } from './color.wgsl';

/// Whether an effect computes in linear light. What branches on numbers would cost whoever runs both sides.
override isLinear = false;

/// A triangle that covers the screen.
fn screenCorner(i: u32) -> vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

/// In linear light, multiplied by alpha.
fn toLinear(c: vec4f) -> vec4f {
  if c.a <= 0 { return vec4f(); }
  return vec4f(decodeSrgb(c.rgb / c.a) * c.a, c.a);
}

fn fromLinear(c: vec4f) -> vec4f {
  if c.a <= 0 { return vec4f(); }
  return vec4f(encodeSrgb(saturate(c.rgb / c.a)) * c.a, c.a);
}

/// A colour as the effect computes with it, out of one of a picture.
fn taken(c: vec4f) -> vec4f {
  if isLinear { return toLinear(c); }
  return c;
}

/// And back.
fn given(c: vec4f) -> vec4f {
  if isLinear { return fromLinear(c); }
  return c;
}

fn isOutside(at: vec2i, size: vec2i) -> bool {
  return any(at < vec2i()) || any(at >= size);
}
