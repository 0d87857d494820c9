// Places in a panorama; the middle looks along -Z. See core/light/panorama.ts.

/// Where a direction of length 1 lies: 0..1 from the left and from the top.
fn placeInPanorama(way: vec3f) -> vec2f {
  return vec2f(atan2(way.x, -way.z) * 0.15915494 + 0.5, acos(clamp(way.y, -1, 1)) * 0.31830989);
}

/// The direction through a place of a side of a cube, both -1..1, x to the right and y down; not of length 1.
fn directionOfSide(side: u32, at: vec2f) -> vec3f {
  switch side {
    case 0: { return vec3f(1, -at.y, -at.x); }
    case 1: { return vec3f(-1, -at.y, at.x); }
    case 2: { return vec3f(at.x, 1, at.y); }
    case 3: { return vec3f(at.x, -1, -at.y); }
    case 4: { return vec3f(at.x, -at.y, 1); }
    default: { return vec3f(-at.x, -at.y, -1); }
  }
}
