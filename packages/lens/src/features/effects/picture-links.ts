import type {
  DitherEffect,
  Effect,
  LightShaftsEffect,
  MotionBlurEffect,
  TemporalAntialiasingEffect,
} from '@umber-lens/core/engine';
import { linearFromSrgb } from '@umber-lens/core/engine';
import {
  DITHER_FLOATS,
  DITHER_FRAME,
  DITHER_STEP,
  EFFECT_MOTION_AMOUNT,
  EFFECT_MOTION_DEPTH_OFFSET,
  EFFECT_MOTION_DEPTH_SCALE,
  EFFECT_MOTION_FLOATS,
  EFFECT_MOTION_FORWARD,
  EFFECT_MOTION_GAIN,
  EFFECT_MOTION_IS_PARALLEL,
  EFFECT_MOTION_MOST,
  EFFECT_MOTION_RIGHT,
  EFFECT_MOTION_SAMPLES,
  EFFECT_MOTION_SHIFT,
  EFFECT_MOTION_UP,
  SHAFTS_COLOR,
  SHAFTS_DEPTH,
  SHAFTS_FLOATS,
  SHAFTS_LIGHT,
  SHAFTS_REACH,
  SHAFTS_SHARE,
} from '../../compiled/layouts.js';
import { type EffectLink, resolutionOf } from './effect-links.js';
import type { EffectMoment } from './effect-moment.js';

/** How often tiles of ways are half as large as the picture: 32 pixels, which a way may be long at most. */
const TILE_HALVINGS = 5;
const TILE = 2 ** TILE_HALVINGS;

type Add = (links: EffectLink[], i: number, effect: Effect) => void;
type PictureType = 'temporal-antialiasing' | 'motion-blur' | 'light-shafts' | 'dither';

export const isOfPicture = (type: Effect['type']): type is PictureType => type in PICTURE_LINKS;

/** Adds the passes of effects on the light of a whole picture. */
export const PICTURE_LINKS: Readonly<Record<PictureType, Add>> = {
  'temporal-antialiasing': (links, i, effect) => {
    const source = links.length;
    const isUpscaling = resolutionOf(effect) < 1;
    const write: EffectLink['write'] = (values, _, effects, at) => {
      const { amount = 0.1 } = effects[i] as TemporalAntialiasingEffect; // its type was looked at
      writeMotion(values, at, Math.max(0.01, Math.min(1, amount)), TILE);
      values[EFFECT_MOTION_GAIN] = isUpscaling ? gainOf(resolutionOf(effects[i])) : 1;
    };
    const both = { floats: EFFECT_MOTION_FLOATS, readsBefore: true, makesWhole: true, write };
    links.push(
      {
        ...{ name: `${i + 1} age`, shader: 'age', reads: [source], constants: {} },
        ...{ readsVelocity: true, ...both },
      },
      {
        ...{ name: `${i + 1} temporal-antialiasing`, shader: 'temporal', reads: [source, source + 1] },
        ...{ constants: { isUpscaling }, ...both },
      },
    );
  },
  'motion-blur': (links, i) => {
    const source = links.length;
    const write: EffectLink['write'] = (values, _, effects, at) => {
      const { maxRadius = TILE, shutter = 0.5 } = effects[i] as MotionBlurEffect; // as above
      writeMotion(values, at, Math.max(0, Math.min(1, shutter)), Math.min(TILE, maxRadius * at.scale));
    };
    const both = { floats: EFFECT_MOTION_FLOATS, readsVelocity: true, constants: {}, write };
    links.push(
      {
        ...{ name: `${i + 1} motion tiles`, shader: 'motionTiles', reads: [source], ...both },
        halvings: TILE_HALVINGS,
      },
      { name: `${i + 1} motion-blur`, shader: 'motionBlur', reads: [source, source + 1], ...both },
    );
  },
  'light-shafts': (links, i) => {
    const source = links.length;
    const both = { floats: SHAFTS_FLOATS, constants: {}, write: writeShafts(i) };
    links.push(
      {
        ...{ name: `${i + 1} light in the air`, shader: 'shafts', reads: [source], ...both },
        ...{ readsDepth: true, halvings: 1 },
      },
      {
        ...{ name: `${i + 1} light-shafts`, shader: 'addShafts', reads: [source, source + 1], ...both },
        isSampled: true,
      },
    );
  },
  dither: (links, i) =>
    void links.push({
      ...{ name: `${i + 1} dither`, shader: 'dither', reads: [links.length], constants: {} },
      floats: DITHER_FLOATS,
      write: (values, _, effects, { frame }) => {
        values[DITHER_STEP] = ((effects[i] as DitherEffect).amount ?? 1) / 255; // as above
        values[DITHER_FRAME] = frame % 4096;
      },
    }),
};

/** One over the mean weight of the nearest sample: see effect-temporal.wgsl. Samples lie evenly in pixels as they are drawn. */
function gainOf(resolution: number): number {
  const half = 0.5 / resolution;
  let sum = 0;
  for (let k = 0; k < 8; k++) sum += Math.exp(-4 * (((k + 0.5) / 8) * half) ** 2);
  return (8 / sum) ** 2;
}

function writeMotion(
  values: Float32Array,
  { isParallel, projection, samples, shift, sky }: EffectMoment,
  amount: number,
  most: number,
): void {
  for (let k = 0; k < 3; k++) {
    values[EFFECT_MOTION_RIGHT + k] = sky[k]!; // nine numbers
    values[EFFECT_MOTION_UP + k] = sky[3 + k]!;
    values[EFFECT_MOTION_FORWARD + k] = sky[6 + k]!;
  }
  values[EFFECT_MOTION_SAMPLES] = samples;
  values[EFFECT_MOTION_SHIFT] = shift[0];
  values[EFFECT_MOTION_SHIFT + 1] = shift[1];
  values[EFFECT_MOTION_DEPTH_SCALE] = projection[10] ?? 0;
  values[EFFECT_MOTION_DEPTH_OFFSET] = projection[14] ?? 0;
  values[EFFECT_MOTION_AMOUNT] = amount;
  values[EFFECT_MOTION_MOST] = most;
  values[EFFECT_MOTION_IS_PARALLEL] = isParallel ? 1 : 0;
}

const matrix = new Float32Array(16);
/** Where light comes from: a place, or with 0 behind it a direction. */
const origin: [number, number, number, number] = [0, 0, 0, 1];
const clip = new Float32Array(4);

const writeShafts =
  (i: number): EffectLink['write'] =>
  (values, _, effects, { share, viewProjection: m }) => {
    const { amount = 0.5, color, from, reach = 0.8 } = effects[i] as Partial<LightShaftsEffect>; // what is missing is told while developing
    origin.fill(0);
    if (Array.isArray(from)) for (let k = 0; k < 3; k++) origin[k] = from[k] ?? 0;
    else if (from) {
      from.readWorldMatrix(matrix);
      // Lights shine along -Z.
      const column = from.light?.type === 'directional' ? 8 : 12;
      for (let k = 0; k < 3; k++) origin[k] = matrix[column + k]!; // sixteen numbers
    }
    const isFar = !Array.isArray(from) && from?.light?.type === 'directional';
    origin[3] = isFar ? 0 : 1;
    for (let row = 0; row < 4; row++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += (m[k * 4 + row] ?? 0) * origin[k]!; // four numbers
      clip[row] = sum;
    }
    const w = clip[3]!; // four numbers
    const isAhead = w > 1e-6;
    values[SHAFTS_LIGHT] = isAhead ? (clip[0]! / w) * 0.5 + 0.5 : 0;
    values[SHAFTS_LIGHT + 1] = isAhead ? 0.5 - (clip[1]! / w) * 0.5 : 0;
    values[SHAFTS_DEPTH] = isFar || !isAhead ? 0 : clip[2]! / w;
    values[SHAFTS_SHARE] = share;
    values[SHAFTS_REACH] = Math.max(0, Math.min(1, reach));
    for (let k = 0; k < 3; k++)
      values[SHAFTS_COLOR + k] =
        isAhead && from ? amount * (color?.[3] ?? 1) * linearFromSrgb(color?.[k] ?? 1) : 0;
  };
