// Planes that cut things open: what lies behind one of them is not drawn.

override isClipped = false;

struct Clipping {
  /// A place stays where the dot product with (place, 1) is not below 0.
  planes: array<vec4f, 6>,
  count: u32,
  /// 1 when what is marked alone is cut, and not everything.
  isPartial: u32,
}

@group(0) @binding(25) var<uniform> clipping: Clipping;
/// By the slot of a transform: bits of what sees it (see things.wgsl), and 1 where it is cut.
@group(0) @binding(26) var<storage, read> thingMarks: array<vec2u>;

/// Above the six bits of a material's number: the mark of what is cut, for the fragments.
const CUT_MARK = 64u;

/// For the vertex stage.
fn cutMark(slot: u32) -> u32 {
  if !isClipped { return 0; }
  if clipping.isPartial == 0 { return CUT_MARK; }
  return thingMarks[slot].y * CUT_MARK;
}

/// Whether planes have taken a place away from what is marked.
fn isCutAway(place: vec3f, mark: u32) -> bool {
  if (mark & CUT_MARK) == 0 { return false; }
  for (var i = 0u; i < clipping.count; i++) {
    if dot(clipping.planes[i], vec4f(place, 1)) < 0 { return true; }
  }
  return false;
}
