// Where things are: the world transforms of all nodes in one buffer, read by an instance's slot.

/// An affine transform by rows.
struct Transform {
  row0: vec4f,
  row1: vec4f,
  row2: vec4f,
}

@group(0) @binding(4) var<storage, read> transforms: array<Transform>;

// An instance names its slot and, in the two highest bits, what the node does with shadows.
const SLOT_BITS = 0x3fffffffu;

/// 1 when shadows fall on the node.
fn receivesShadow(instance: u32) -> u32 {
  return 1 - (instance >> 31);
}

fn castsShadow(instance: u32) -> bool {
  return (instance & 0x40000000u) == 0;
}

fn objectToWorld(slot: u32) -> mat4x3f {
  return transpose(mat3x4f(transforms[slot].row0, transforms[slot].row1, transforms[slot].row2));
}
