import { type Effect, effectReach, type PicturePart } from '@umber-lens/core/engine';

/** Pixels of a picture that is drawn at once: those of 8K at most, whatever the GPU would take. */
const MOST_PIXELS = 2 ** 25;
/** Pixels of a side of a tile, where there are several. */
const MOST_SIDE = 4096;
/** What small pictures within effects are halved to: places of tiles are a multiple of it, so that theirs agree. */
const STEP = 64;
/** Pixels around a tile that are drawn besides, for what reads far away and does not say how far. */
const FAR: Readonly<Partial<Record<Effect['type'], number>>> = {
  'ambient-occlusion': 256,
  'screen-space-reflections': 512,
  'light-shafts': 512,
  shader: 256,
};

/** A part of a picture: what of it is kept, and what is drawn for it. Pixels of the whole picture. */
export interface Tile {
  /** Upper left, and size, of what is kept. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** What is drawn. */
  drawn: PicturePart;
}

/** How far around a place surfaces and effects read at most, in pixels of a picture of this size. */
function marginOf(finish: readonly Effect[], width: number, height: number): number {
  // Surfaces may show what lies behind and beside them.
  let far = Math.max(STEP, effectReach(finish, 0), effectReach(finish, 1));
  for (const effect of finish) {
    if (effect?.type === 'lens-distortion') far += bentBy(effect.amount ?? 0.1, width, height);
    far += FAR[effect?.type] ?? 0;
  }
  return far;
}

/** How far away effect-distortion.wgsl reads at most: pixels. */
function bentBy(amount: number, width: number, height: number): number {
  const half = Math.hypot(width, height) / 2;
  if (amount >= 0) return (half * amount * 0.385) / (1 + amount); // r - r^3 is 0.385 at most
  const shorter = (Math.min(width, height) / (2 * half)) ** 2;
  return (half * -amount * (1 - shorter)) / Math.max(0.1, 1 + amount * shorter);
}

/** Effects of which more is read than lies around a tile. */
const readsAll = (effect: Effect | undefined): boolean =>
  effect?.type === 'light-shafts' || effect?.type === 'screen-space-reflections';

/** The tiles of a picture, and whether there is room around them for all that effects read. */
export interface Tiling {
  tiles: Tile[];
  isTight: boolean;
}

/**
 * The tiles of a picture, side by side; one where the GPU takes the whole picture.
 *
 * @param finish effects on it: what they read around each pixel is drawn with each tile, as far as there is room
 * @param most pixels of a side that the GPU takes
 */
export function tilesOf(width: number, height: number, finish: readonly Effect[], most: number): Tiling {
  if (Math.max(width, height) <= most && width * height <= MOST_PIXELS) {
    const all = { x: 0, y: 0, width, height };
    const tile = { ...all, drawn: { ...all, wholeWidth: width, wholeHeight: height } };
    return { tiles: [tile], isTight: false };
  }
  const side = Math.min(most, MOST_SIDE);
  // A quarter on each side at most: something is to be kept.
  const step = side >= 4 * STEP ? STEP : 1;
  const room = Math.floor(side / 4 / step);
  const wanted = Math.ceil(marginOf(finish, width, height) / step);
  const margin = Math.min(room, wanted) * step;
  const columns = along(width, side, margin, step);
  const rows = along(height, side, margin, step);
  const tiles = rows.flatMap((row) =>
    columns.map((column) => ({
      ...{ x: column.from, y: row.from, width: column.size, height: row.size },
      drawn: {
        ...{ x: column.drawn, y: row.drawn, width: column.all, height: row.all },
        ...{ wholeWidth: width, wholeHeight: height },
      },
    })),
  );
  return { tiles, isTight: wanted > room || finish.some(readsAll) };
}

/** Tiles along a side: where what is kept begins, and where what is drawn does. */
function along(
  length: number,
  side: number,
  margin: number,
  step: number,
): { from: number; size: number; drawn: number; all: number }[] {
  if (length <= side) return [{ from: 0, size: length, drawn: 0, all: length }];
  const most = Math.floor(side / step) * step;
  const tiles = [];
  for (let from = 0; from < length;) {
    // At the picture's edges there is no margin: effects find edges there.
    const drawn = Math.max(0, from - margin);
    const all = Math.min(most, length - drawn);
    const until = drawn + all === length ? length : drawn + all - margin;
    tiles.push({ from, size: until - from, drawn, all });
    from = until;
  }
  return tiles;
}
