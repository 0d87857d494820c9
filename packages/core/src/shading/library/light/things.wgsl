// Which things lights reach, and effects treat: bits of each thing against theirs.
import { thingMarks } from './clipping.wgsl';

override useThingBits = false;

/// Of the thing at hand.
var<private> ownBits: u32 = 0xffffffffu;

/// By the slot of a transform: see `SceneNode.visibleTo`.
fn thingBits(slot: u32) -> u32 {
  return thingMarks[slot].x;
}
