import {
  type Probe,
  type ProbeConditions,
  probedAtPixel,
  type ProbedPlace,
  probedInScene,
  probedOnBall,
  probedOnBallPixel,
} from '../logic/graph/graph-probe.js';
import { PICTURE } from './graph-pictures.js';
import type { ProbedHit } from './probe-scene.js';

/**
 * What nodes are computed for where the probe is.
 *
 * @param put on pictures of nodes that are balls, or on what was hit
 * @param isWhole whether nodes ask for what is around a pixel: it is the middle of one then
 */
export function placeOf(put: Probe | ProbedHit, isWhole: boolean, conditions: ProbeConditions): ProbedPlace {
  if (!('point' in put))
    return isWhole ? probedOnBallPixel(put, PICTURE, conditions) : probedOnBall(put, conditions);
  const { at, camera, pixel } = put;
  const whole = isWhole ? probedAtPixel((x, y) => put.hitAt(x, y), camera, pixel, conditions) : undefined;
  return whole ?? probedInScene(put, camera, at, conditions);
}
