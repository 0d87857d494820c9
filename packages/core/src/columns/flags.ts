import { SLOT_BITS } from '../compiled/layouts.js';

/** Bits of a row's flags. */
export const ALIVE = 1;
/** The node's own switch. */
export const VISIBLE = 2;
/** Visible, and so is every ancestor: as of the last update. */
export const SHOWN = 4;
/** The node's own transform or switch changed since the last update. */
export const DIRTY = 8;
/** The local transform is a matrix of its own (in the column `local`), not translation, rotation and scale. */
export const MATRIX = 16;
/** The world transform mirrors: front faces wind clockwise. As of the last update. */
export const MIRRORED = 32;
/** The world transform was given as it is: neither the local one nor the parent's counts. */
export const PLACED = 64;

/**
 * Bits of a row's traits: it throws no shadow, none falls on it. Instances carry them in their highest bits, and the number
 * of their material in its table above those of their slot.
 */
export {
  MATERIAL_SHIFT,
  NO_SHADOW_CAST,
  NO_SHADOW_RECEIVE,
  SLOT_BITS,
  TRAIT_SHIFT,
} from '../compiled/layouts.js';
/** The row's slot is given by a guest of the scene, as that of a pose, and stays; shaders are not told. */
export const GUEST_SLOT = 4;
/** Rows, and slots of poses, that instances can name. */
export const MOST_SLOTS = SLOT_BITS + 1;

export const NONE = -1;

/** Bits of an item's view key: it is in the view, its faces wind the other way, it is not shown at all. */
export const IN_VIEW = 0x80000000;
export const KEY_MIRRORED = 0x40000000;
export const KEY_HIDDEN = 0x20000000;
/** The other bits hold the depth: those of a 32-bit float above 0, shifted right by two. */
export const KEY_DEPTH = 0x1fffffff;

/** Items from which on clusters of them pay: fewer are looked at one by one as fast. */
export const MANY_ITEMS = 16_384;
