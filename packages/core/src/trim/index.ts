// Making models smaller and cheaper; an entry of its own, since what it works with is large.
export { addLevels, type LevelOptions } from './add-levels.js';
export { cacheMisses } from './reorder.js';
export { splitGeometry, splitLarge } from './split.js';
export { countAsset, trimAsset, type TrimCounts, type TrimOptions, type TrimStep } from './trim.js';
