import type { LeveledTextures } from './leveled-textures.js';

/** What tells which packed formats there are: of the lens that was made last. */
export const packing: { open?: () => Promise<LeveledTextures> } = {};
