import type { SmoothPath } from '../procedural/path.js';
import { hashFloat } from '../procedural/noise.js';
import { checkSpacing, Places, type Scattered } from './scattered.js';

export interface AlongOptions {
  /** Metres from one to the next. */
  spacing: number;
  /** How far each strays along the way: 0 not at all, 1 up to half way to its neighbours. Default 0. */
  jitter?: number;
  /** Metres that each strays to either side, level, at most. Default 0. */
  width?: number;
  seed?: number;
}

/** Places along a way, see `pathThrough`: from its beginning to its end, or once around. @throws LensError `scatter/spacing` */
export function scatterAlong(path: SmoothPath, options: AlongOptions): Scattered {
  const { spacing, jitter = 0, width = 0, seed = 1 } = options;
  checkSpacing('spacing', spacing);
  const spans = Math.max(1, Math.round(path.length / spacing));
  const step = path.length / spans;
  const places = new Places();
  const [at, way] = [
    [0, 0, 0],
    [0, 0, 0],
  ];
  for (let i = 0; i < spans + (path.closed ? 0 : 1); i++) {
    const distance = (i + (hashFloat(i, 0, 0, seed) - 0.5) * jitter) * step;
    path.at(distance, at);
    path.directionAt(distance, way);
    const aside = (hashFloat(i, 1, 0, seed) * 2 - 1) * width;
    const level = Math.hypot(way[0]!, way[2]!) || 1; // three numbers
    places.add(at[0]! - (way[2]! / level) * aside, at[1]!, at[2]! + (way[0]! / level) * aside);
  }
  return places.done();
}
