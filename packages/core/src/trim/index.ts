/**
 * Making models smaller and cheaper; an entry of its own, since what it works with is large.
 *
 * @module @umber-lens/core/trim
 */
export { addLevels, type LevelOptions } from './levels.js';
export { cacheMisses } from './order.js';
export { splitGeometry, splitLarge } from './split.js';
export {
  countAsset,
  TRIM_STEPS,
  trimAsset,
  type TrimCounts,
  type TrimOptions,
  type TrimStep,
  type TrimStepName,
} from './trim.js';
