import type { Numbers } from '../math/vectors.js';
import type { Panorama } from './panorama.js';

/** Light from all around a scene: lit surfaces are lit by it and mirror it. */
export interface ImageLight {
  panorama: Panorama;
  /** Factor on its radiance, 0 or more. Default 1. */
  intensity?: number;
  /** Turns it about +Y, radians, counter-clockwise as seen from above. Default 0. */
  rotation?: number;
}

/** Light that was captured at a place, and stands for the environment around everything within a box. */
export interface Probe {
  /** What `captureLight` gave. */
  panorama: Panorama;
  /** Where it was captured, world space. */
  position: [number, number, number];
  /** What it is for, world space; reflections are bent as if its sides were what is seen. */
  box: { min: [number, number, number]; max: [number, number, number] };
  /** Factor on its radiance. Default 1. */
  intensity?: number;
}

/** A panorama that is seen where nothing is drawn; it lights nothing. */
export interface Backdrop {
  panorama: Panorama;
  /** 0 sharp, 1 as blurred as the light on a rough surface. Default 0. */
  blur?: number;
  /** Factor on its radiance. Default: that of the scene's image light, else 1. */
  intensity?: number;
  /** Turns it about +Y, radians. Left out: it turns with the scene's image light. */
  rotation?: number;
}

/** Air that takes light away and gives its own. */
export interface Fog {
  /**
   * How it grows with the distance d: `linear` from `near` to `far`; `exponential` as 1 - exp(-density d); `squared`
   * as 1 - exp(-(density d)²).
   */
  type: 'linear' | 'exponential' | 'squared';
  /** Linear colour of the air, before exposure; `sky` takes it from the environment, in the direction of the camera. */
  color: Numbers | 'sky';
  /** Metres; for `linear`. Defaults 1 and 100. */
  near?: number;
  far?: number;
  /** A metre; for the other two. Default 0.02. */
  density?: number;
  /** For `exponential`: it thins out above `base` by a factor of e every `falloff` metres. Left out: the same everywhere. */
  height?: { base: number; falloff: number };
  /** How much of it lies before the backdrop, 0..1. Default 0 for `sky`, else 1. */
  overBackdrop?: number;
}
