import type { Raster } from '../resources/pipeline-store.js';
import type { GpuGeometry } from '../resources/geometry-store.js';

/** Something that full pipelines are built with or without. */
export interface Flag {
  /** Its own among all. */
  readonly bit: number;
  /** Override of the shaders that is on with it. */
  readonly override?: string;
  /** Where surfaces do not hide or cover each other as usual. At most one flag of a pipeline has one. */
  readonly raster?: Raster;
  /** Of a pixel, where it is not the usual number. */
  readonly sampleCount?: number;
  /** Whether it takes parts of surfaces away: then it counts wherever they are drawn, also without light. */
  readonly cuts?: boolean;
  /** Whether it asks of unlit surfaces, too, where they are. */
  readonly needsPlace?: boolean;
  /** More overrides, by what is drawn. */
  readonly constants?: (geometry: GpuGeometry) => [name: string, value: boolean][];
}

/** All there are, in the order in which they were loaded. */
export const FLAGS: Flag[] = [];

/** Makes a flag. */
export function flag(options: Omit<Flag, 'bit'>): Flag {
  if (FLAGS.length === 31) throw new Error('a number has no more bits for flags');
  const made: Flag = { bit: 1 << FLAGS.length, ...options };
  FLAGS.push(made);
  return made;
}
