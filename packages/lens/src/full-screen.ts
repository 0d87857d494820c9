import { box, type Geometry } from '@umber-lens/core/engine';

/** Metres: beyond all that is drawn, and near enough for numbers to hold. */
const REACH = 1e5;

/**
 * A geometry that covers the whole picture from wherever it is seen, for shaders that find their shape by
 * marching along the ray of each pixel (the hook `march`). A smaller geometry around the shape costs less.
 */
export function fullScreen(): Geometry {
  return { ...box({ width: REACH, height: REACH, depth: REACH }), name: 'full screen' };
}
