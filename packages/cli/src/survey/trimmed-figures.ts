import { readModel, spreadOf } from '@umber-lens/core/engine';
import type { TrimCounts } from '@umber-lens/core/trim';
import { type OpenOptions, openModel } from '../open/open-model.js';
import { surveyModel } from './survey-model.js';

/** What a model takes, before it is trimmed or after. */
export interface TrimmedFigures extends TrimCounts {
  bytes: number;
  draws: number;
  gpuBytes: number;
  /** Milliseconds to read it, without its pictures: the median of some times. */
  loadMilliseconds: number;
}

const TIMES = 7;

/** @param counted of all objects, coarser levels left out of triangles and vertices */
export async function trimmedFigures(
  file: string,
  options: OpenOptions,
  counted: TrimCounts,
): Promise<TrimmedFigures> {
  const model = await openModel(file, options);
  const [main] = model.files.values();
  const times: number[] = [];
  for (let i = 0; i < TIMES; i++) {
    const start = performance.now();
    // A sheet is read with all that it names.
    if (model.sheet) await openModel(file, options);
    else
      await readModel(main!, {
        allowOutside: true,
        resolve: (path) => Promise.resolve(model.files.get(path)!),
      }); // opened with all its files
    times.push(performance.now() - start);
  }
  const { drawCalls, gpuBytes } = await surveyModel(model);
  return {
    ...counted,
    bytes: [...model.files.values()].reduce((sum, { byteLength }) => sum + byteLength, 0),
    draws: drawCalls,
    gpuBytes,
    loadMilliseconds: spreadOf(times).median,
  };
}
