/** What the boxes do, whoever draws them: each bobs and turns about Y. */
export const COUNT = 20_000;
const SIDE = 142;

export const height = (i: number, time: number): number => Math.sin(time + i * 0.1);
export const turn = (i: number, time: number): number => time * 0.5 + i;
export const placeX = (i: number): number => ((i % SIDE) - SIDE / 2) * 1.5;
export const placeZ = (i: number): number => -Math.floor(i / SIDE) * 1.5;

/** Writes the transforms of a moment as affine 3x4 by rows, from element `at` on; what is always zero is left alone. */
export function writeMatrices(out: Float32Array, at: number, time: number): void {
  for (let i = 0, o = at; i < COUNT; i++, o += 12) {
    const angle = turn(i, time);
    const sin = Math.sin(angle);
    const cos = Math.cos(angle);
    out[o] = cos;
    out[o + 2] = sin;
    out[o + 3] = placeX(i);
    out[o + 5] = 1;
    out[o + 7] = height(i, time);
    out[o + 8] = -sin;
    out[o + 10] = cos;
    out[o + 11] = placeZ(i);
  }
}

/** Perspective times a look down by the tilt from (0, 60, 60), depth 0..1 or -1..1, column-major. */
export function viewProjection(isZeroToOne: boolean): number[] {
  const f = 1 / Math.tan(0.6);
  const tilt = Math.atan(0.5);
  const [s, c] = [Math.sin(tilt), Math.cos(tilt)];
  const [ty, tz] = [-(c * 60 - s * 60), -(s * 60 + c * 60)];
  const near = isZeroToOne ? 0.1 : 0.2;
  return [f / 1.6, 0, 0, 0, 0, f * c, -s, -s, 0, -f * s, -c, -c, 0, f * ty, -tz - near, -tz];
}

/** One way to draw a frame. */
export interface Way {
  /** Script of one frame; the GPU may go on. */
  frame(time: number): void;
  /** Waits until the GPU is done. */
  finish(): void | Promise<void>;
  draws: number;
}
