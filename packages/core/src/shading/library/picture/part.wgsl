// A picture that fills a part of a target, wherever that lies.

struct PartVarying {
  @builtin(position) clip: vec4f,
  /// 0..1 from the upper left of the part.
  @location(0) place: vec2f,
}

/// A triangle that covers the part.
fn partCorner(i: u32) -> PartVarying {
  let at = vec2f(vec2u(i & 1, i >> 1) * 4) - 1;
  return PartVarying(vec4f(at, 0, 1), vec2f(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5));
}
