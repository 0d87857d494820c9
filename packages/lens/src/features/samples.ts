import type { Facts, Feature } from './feature.js';
import { type Flag, flag } from './flags.js';
import { WANTS } from './wants.js';

const ONE = [flag({ sampleCount: 1 })];
const FOUR = [flag({ sampleCount: 4 })];

/** As many samples of a pixel as a target asks for. What is gathered first has one, whatever it asks for. */
export class Samples implements Feature {
  flagsFor(facts: Facts): readonly Flag[] {
    if (!WANTS.samples(facts) || WANTS.deferred(facts)) return [];
    return facts.target!.samples === 1 ? ONE : FOUR; // it wants them
  }
}
