import { type ScatterAnswer, scatterInPieces, type ScatterRequest } from '../../scatter/scatter-request.js';
import { Swarm } from '../../swarm/swarm.js';
import { swarmInput, type SwarmOptions } from '../../swarm/swarm-options.js';
import { apartReporting } from './apart.js';

export interface InWorkerOptions {
  /** Hears how much is done, 0 to 1. */
  onProgress?: (done: number) => void;
}

/**
 * Makes a swarm whose copies are put into order in a worker, so that the page goes on drawing. The same swarm as `new
 * Swarm(options)`, whose arrays are copied to the worker. Where there are no workers it is made at once.
 *
 * @throws LensError as `Swarm` does
 */
export async function swarmInWorker(
  options: SwarmOptions,
  { onProgress }: InWorkerOptions = {},
): Promise<Swarm> {
  const layout = await apartReporting(onProgress, 'swarm', swarmInput(options));
  return new Swarm(options, layout);
}

/**
 * Scatters in a worker: places on a grid or a surface, and if wanted their transforms and clumps, as `scatterOnGrid`,
 * `scatterOnSurface`, `transformsOf` and `clumpsOf` give them. Functions (`density`, `height`) cannot be handed to a worker:
 * with them it is done on this thread in pieces of some milliseconds; a density by picture can.
 *
 * @throws LensError `scatter/request`, and as what is asked for
 */
export async function scatterInWorker(
  request: ScatterRequest,
  { onProgress }: InWorkerOptions = {},
): Promise<ScatterAnswer> {
  const { grid, surface } = request;
  const isOurs = [grid?.density, grid?.height, surface?.density].some((given) => typeof given === 'function');
  if (isOurs) return scatterInPieces(request, onProgress);
  // Of a geometry what is scattered on: the rest would be copied for nothing.
  const plain = surface && { ...surface, geometry: onlyPositions(surface.geometry) };
  return apartReporting(onProgress, 'scatter', { ...request, ...(plain ? { surface: plain } : {}) });
}

type Surface = NonNullable<ScatterRequest['surface']>['geometry'];

function onlyPositions({ attributes, bounds, indices, mode }: Surface): Surface {
  const { position } = attributes;
  return {
    attributes: position ? { position } : {},
    bounds,
    ...(indices ? { indices } : {}),
    ...(mode ? { mode } : {}),
  };
}
