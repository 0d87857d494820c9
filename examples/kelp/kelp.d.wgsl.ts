import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** radians by which a blade leans over at its tip 0 to 1.2. */
  curve: number;
  /** how far the swell moves the tips 0 to 1.5. */
  swell: number;
  /** how fast it runs 0 to 3. */
  pace: number;
  /** metres from one wave of it to the next 4 to 40. */
  reach: number;
  /** radians by which its direction wanders 0 to 3.2. */
  turn: number;
  /** how much blades of one clump have in common 0 to 1. */
  clumps: number;
  /** how far normals turn away across a blade 0 to 1.2. */
  round: number;
  /** how much blades that are seen edge-on are turned to the camera 0 to 1. */
  widen: number;
  /** how dark they are at the root 0 to 1. */
  root: number;
  /** A color. */
  young: [number, number, number];
  /** A color. */
  old: [number, number, number];
}

declare const shader: MaterialShader<Settings>;
export default shader;
