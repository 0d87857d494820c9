import type { LeveledTextures } from './leveled-textures.js';

/** What tells which packed formats a GPU takes: of each lens there is. Pictures that several draw are decoded to what all take. */
export const openers = new Set<() => Promise<LeveledTextures>>();
