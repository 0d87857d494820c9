import type { ColorEffect, TransferFunction } from './effect.js';

/** Floats of an operation in a shader: kind and space, four rows, and what is added. */
export const OPERATION_FLOATS = 24;
/** Floats that the tables of one pass have together. */
export const TABLE_FLOATS = 256;

const [MATRIX, TRANSFER] = [0, 1];
/** In the order of effect-colors.wgsl. */
const FUNCTIONS: readonly TransferFunction['type'][] = ['identity', 'table', 'discrete', 'linear', 'gamma'];
const CHANNELS = ['red', 'green', 'blue', 'alpha'] as const;

/**
 * Writes what a shader computes for an effect that changes each pixel by itself. Allocates nothing.
 *
 * @param at where its operation begins in `out`
 * @param tables where the tables of all operations begin in `out`
 * @param used floats of them that are taken
 * @returns floats that are taken now
 */
export function writeColorOperation(
  effect: ColorEffect,
  out: Float32Array,
  at: number,
  tables: number,
  used: number,
): number {
  out[at + 1] = effect.colorInterpolation === 'linearRGB' ? 1 : 0;
  if (effect.type === 'component-transfer') {
    out[at] = TRANSFER;
    let taken = used;
    for (let k = 0; k < 4; k++)
      taken = writeFunction(effect[CHANNELS[k]!], out, at + 4 + k * 4, tables, taken); // four
    return taken;
  }
  out[at] = MATRIX;
  writeColorMatrix(effect, matrix);
  // By rows of five; the last of each is added.
  for (let row = 0; row < 4; row++) {
    for (let k = 0; k < 4; k++) out[at + 4 + row * 4 + k] = matrix[row * 5 + k]!; // four rows of five
    out[at + 20 + row] = matrix[row * 5 + 4]!;
  }
  return used;
}

const matrix = new Float32Array(20);

function writeFunction(
  fn: TransferFunction | undefined,
  out: Float32Array,
  at: number,
  tables: number,
  used: number,
): number {
  const type = fn?.type ?? 'identity';
  out[at] = FUNCTIONS.indexOf(type);
  out[at + 1] = out[at + 2] = out[at + 3] = 0;
  if (fn?.type === 'linear') {
    out[at + 1] = fn.slope ?? 1;
    out[at + 2] = fn.intercept ?? 0;
  } else if (fn?.type === 'gamma') {
    out[at + 1] = fn.amplitude ?? 1;
    out[at + 2] = fn.exponent ?? 1;
    out[at + 3] = fn.offset ?? 0;
  } else if (fn?.type === 'table' || fn?.type === 'discrete') {
    // What is missing is told while developing.
    const { tableValues = [] } = fn as { tableValues?: readonly number[] };
    const count = Math.min(tableValues.length, TABLE_FLOATS - used);
    // A table without values is the identity, as in SVG.
    if (count === 0) out[at] = 0;
    for (let i = 0; i < count; i++) out[tables + used + i] = tableValues[i]!; // i < length
    out[at + 1] = used;
    out[at + 2] = count;
    return used + count;
  }
  return used;
}

/**
 * The 20 numbers of an effect, by rows, as color-matrix takes them (Filter Effects Module Level 1, sections 9.6 and 13.1: short
 * hands of filter functions).
 */
export function writeColorMatrix(
  effect: Exclude<ColorEffect, { type: 'component-transfer' }>,
  out: Float32Array,
): void {
  out.fill(0);
  switch (effect.type) {
    case 'color-matrix':
      for (let i = 0; i < 20; i++) out[i] = (effect.values as ArrayLike<number> | undefined)?.[i] ?? 0;
      return;
    case 'hue-rotate':
      writeHue(out, effect.angle ?? 0);
      return;
    case 'opacity':
      writeScale(out, 1, 0);
      out[18] = least(effect.amount);
      return;
    case 'brightness':
      writeScale(out, effect.amount ?? 1, 0);
      return;
    case 'contrast': {
      const amount = effect.amount ?? 1;
      writeScale(out, amount, 0.5 - 0.5 * amount);
      return;
    }
    case 'invert': {
      const amount = least(effect.amount);
      writeScale(out, 1 - 2 * amount, amount);
      return;
    }
    case 'saturate':
      writeMix(out, SATURATE, effect.amount ?? 1);
      return;
    case 'grayscale':
      writeMix(out, GRAYSCALE, 1 - least(effect.amount));
      return;
    case 'sepia':
      writeMix(out, SEPIA, 1 - least(effect.amount));
  }
}

const least = (amount = 1): number => Math.min(1, Math.max(0, amount));

function writeScale(out: Float32Array, scale: number, bias: number): void {
  for (let row = 0; row < 3; row++) {
    out[row * 6] = scale;
    out[row * 5 + 4] = bias;
  }
  out[18] = 1;
}

/** Nine numbers of what there is at 0; at 1 the picture is as it was. */
const SATURATE = [0.213, 0.715, 0.072, 0.213, 0.715, 0.072, 0.213, 0.715, 0.072];
const GRAYSCALE = [0.2126, 0.7152, 0.0722, 0.2126, 0.7152, 0.0722, 0.2126, 0.7152, 0.0722];
const SEPIA = [0.393, 0.769, 0.189, 0.349, 0.686, 0.168, 0.272, 0.534, 0.131];

function writeMix(out: Float32Array, from: readonly number[], share: number): void {
  for (let row = 0; row < 3; row++)
    for (let k = 0; k < 3; k++) {
      const at = from[row * 3 + k]!; // nine
      out[row * 5 + k] = at + ((row === k ? 1 : 0) - at) * share;
    }
  out[18] = 1;
}

/** Rows of three: what stays, and what goes with the cosine and the sine. */
const HUE_COS = [0.787, -0.715, -0.072, -0.213, 0.285, -0.072, -0.213, -0.715, 0.928];
const HUE_SIN = [-0.213, -0.715, 0.928, 0.143, 0.14, -0.283, -0.787, 0.715, 0.072];

function writeHue(out: Float32Array, angle: number): void {
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  for (let row = 0; row < 3; row++)
    for (let k = 0; k < 3; k++) {
      const at = row * 3 + k;
      out[row * 5 + k] = SATURATE[at]! + cos * HUE_COS[at]! + sin * HUE_SIN[at]!; // nine each
    }
  out[18] = 1;
}
