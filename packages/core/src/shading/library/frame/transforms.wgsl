// Where things are: the world transforms of all nodes in one buffer, read by an instance's slot.

#if surfaceStage
import { isBefore, transformsBefore } from './motion.wgsl';
#endif

/// An affine transform by rows.
struct Transform {
  row0: vec4f,
  row1: vec4f,
  row2: vec4f,
}

@group(0) @binding(4) var<storage, read> transforms: array<Transform>;

// An instance names its slot, in six bits above its material in its table, and in the two highest what the node does
// with shadows.
const SLOT_BITS = 0xffffffu;
const MATERIAL_SHIFT = 24u;
const MATERIAL_BITS = 63u;
/// It throws no shadow, and none falls on it.
const TRAIT_SHIFT = 30u;
const NO_SHADOW_CAST = 1u;
const NO_SHADOW_RECEIVE = 2u;

fn materialOf(instance: u32) -> u32 {
  return (instance >> MATERIAL_SHIFT) & MATERIAL_BITS;
}

/// 1 when shadows fall on the node.
fn receivesShadow(instance: u32) -> u32 {
  return select(1u, 0u, ((instance >> TRAIT_SHIFT) & NO_SHADOW_RECEIVE) != 0);
}

fn castsShadow(instance: u32) -> bool {
  return ((instance >> TRAIT_SHIFT) & NO_SHADOW_CAST) == 0;
}

fn objectToWorld(slot: u32) -> mat4x3f {
#if surfaceStage
  if isBefore {
    let before = transpose(mat3x4f(transformsBefore[slot * 3], transformsBefore[slot * 3 + 1], transformsBefore[slot * 3 + 2]));
    // What was not there in the frame before has not moved.
    if any(before[0] != vec3f()) { return before; }
  }
#endif
  return transpose(mat3x4f(transforms[slot].row0, transforms[slot].row1, transforms[slot].row2));
}
