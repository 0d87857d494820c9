// Where things are: the world transforms of all nodes in one buffer, read by an instance's slot.

/// An affine transform by rows.
struct Transform {
  row0: vec4f,
  row1: vec4f,
  row2: vec4f,
}

@group(0) @binding(4) var<storage, read> transforms: array<Transform>;

fn objectToWorld(slot: u32) -> mat4x3f {
  return transpose(mat3x4f(transforms[slot].row0, transforms[slot].row1, transforms[slot].row2));
}
