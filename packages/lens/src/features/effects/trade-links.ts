import type {
  BloomEffect,
  ChromaticAberrationEffect,
  ColorTable,
  Effect,
  FilmGrainEffect,
  LensDistortionEffect,
  LutEffect,
  SharpenEffect,
  SmoothEdgesEffect,
} from '@umber-lens/core/engine';
import type { EffectShaders } from '../../compiled/lens-shaders.js';
import {
  BLOOM_AMOUNT,
  BLOOM_FLOATS,
  BLOOM_SPREAD,
  BLOOM_THRESHOLD,
  DISTORTION_AMOUNT,
  DISTORTION_CORNER,
  DISTORTION_FLOATS,
  DISTORTION_SIZE,
  EDGES_FLOATS,
  EDGES_THRESHOLD,
  FRINGE_AMOUNT,
  FRINGE_CORNER,
  FRINGE_FLOATS,
  FRINGE_SIZE,
  GRAIN_AMOUNT,
  GRAIN_CORNER,
  GRAIN_FLOATS,
  GRAIN_FRAME,
  GRAIN_SIZE,
  LUT_AMOUNT,
  LUT_FLOATS,
  LUT_SIZE,
  SHARPEN_AMOUNT,
  SHARPEN_FLOATS,
} from '../../compiled/layouts.js';
import type { EffectArea, EffectLink, EffectTable } from './effect-links.js';

/** Levels of bloom, each half as large as the one before: light spreads over up to 128 pixels on each side. */
const LEVELS = 6;
/** Tables have 64 entries a side at most. */
const MOST_ENTRIES = 64 ** 3;

/** Adds the passes of bloom: down to small pictures, and up again. */
export function addBloom(links: EffectLink[], i: number): void {
  const source = links.length;
  const add = (link: Pick<EffectLink, 'name' | 'shader' | 'reads'> & Partial<EffectLink>): void =>
    void links.push({
      ...{ constants: {}, floats: BLOOM_FLOATS, isSampled: true, write: writeBloom(i) },
      ...link,
      name: `${i + 1} ${link.name}`,
    });
  for (let level = 1; level <= LEVELS; level++)
    add({
      name: `bloom down ${level}`,
      ...{ shader: 'bloomDown', reads: [source + level - 1], halvings: level },
      constants: { isFirst: level === 1 },
    });
  let wider = source + LEVELS;
  for (let level = LEVELS - 1; level >= 1; level--) {
    add({
      name: `bloom up ${level}`,
      ...{ shader: 'bloomUp', reads: [source + level, wider], halvings: level },
    });
    wider = links.length;
  }
  add({ name: 'bloom', shader: 'bloom', reads: [source, wider] });
}

const writeBloom =
  (i: number): EffectLink['write'] =>
  (values, _, effects) => {
    const { amount = 0.15, spread = 0.7, threshold = 0 } = effects[i] as BloomEffect; // its type was looked at
    values[BLOOM_AMOUNT] = Math.min(1, amount);
    values[BLOOM_SPREAD] = Math.min(1, spread);
    values[BLOOM_THRESHOLD] = threshold;
  };

/** An effect of one pass. */
interface PlainLink {
  shader: keyof EffectShaders;
  floats: number;
  isSampled?: boolean;
  table?: (i: number, effect: Effect) => EffectTable;
  write: (i: number) => EffectLink['write'];
}

const PLAIN_TYPES = [
  'sharpen',
  'chromatic-aberration',
  'lens-distortion',
  'film-grain',
  'lut',
  'smooth-edges',
] as const;
type PlainType = (typeof PLAIN_TYPES)[number];

export const isPlain = (type: Effect['type']): type is PlainType =>
  (PLAIN_TYPES as readonly string[]).includes(type);

/** Writes where what counts of a picture lies. */
function writeArea(
  values: Float32Array,
  { left, top, width, height }: EffectArea,
  corner: number,
  size: number,
): void {
  values[corner] = left;
  values[corner + 1] = top;
  values[size] = width;
  values[size + 1] = height;
}

export const PLAIN_LINKS: Readonly<Record<PlainType, PlainLink>> = {
  sharpen: {
    shader: 'sharpen',
    floats: SHARPEN_FLOATS,
    write: (i) => (values, _, effects) => {
      values[SHARPEN_AMOUNT] = (effects[i] as SharpenEffect).amount ?? 0.5;
    },
  },
  'chromatic-aberration': {
    shader: 'fringe',
    floats: FRINGE_FLOATS,
    write:
      (i) =>
      (values, _, effects, { area, scale }) => {
        writeArea(values, area, FRINGE_CORNER, FRINGE_SIZE);
        values[FRINGE_AMOUNT] = scale * ((effects[i] as ChromaticAberrationEffect).amount ?? 4);
      },
  },
  'lens-distortion': {
    shader: 'distortion',
    floats: DISTORTION_FLOATS,
    write:
      (i) =>
      (values, _, effects, { area }) => {
        writeArea(values, area, DISTORTION_CORNER, DISTORTION_SIZE);
        values[DISTORTION_AMOUNT] = (effects[i] as LensDistortionEffect).amount ?? 0.1;
      },
  },
  'film-grain': {
    shader: 'grain',
    floats: GRAIN_FLOATS,
    write:
      (i) =>
      (values, _, effects, { area, frame, scale }) => {
        const { amount = 0.06, size = 1.5 } = effects[i] as FilmGrainEffect; // its type was looked at
        values[GRAIN_CORNER] = area.left;
        values[GRAIN_CORNER + 1] = area.top;
        values[GRAIN_AMOUNT] = amount;
        values[GRAIN_SIZE] = Math.max(0.25, size * scale);
        values[GRAIN_FRAME] = frame % 4096;
      },
  },
  lut: {
    shader: 'lut',
    floats: LUT_FLOATS,
    table: (i, effect) => ({
      floats: entriesOf((effect as Partial<LutEffect>).table) * 4,
      write: writeTable(i),
    }),
    write: (i) => (values, _, effects) => {
      const { amount = 1, table } = effects[i] as Partial<LutEffect>; // what is missing is told while developing
      values[LUT_SIZE] = table?.size ?? 2;
      values[LUT_AMOUNT] = table ? amount : 0;
    },
  },
  'smooth-edges': {
    shader: 'smoothEdges',
    floats: EDGES_FLOATS,
    isSampled: true,
    write: (i) => (values, _, effects) => {
      values[EDGES_THRESHOLD] = Math.max(1e-3, (effects[i] as SmoothEdgesEffect).threshold ?? 0.05);
    },
  },
};

/** How many entries a table has. */
export const entriesOf = (table: ColorTable | undefined): number =>
  Math.max(8, Math.min(MOST_ENTRIES, (table?.size ?? 2) ** 3));

function writeTable(i: number): EffectTable['write'] {
  let written: unknown;
  return (values, effects) => {
    const { table } = effects[i] as Partial<LutEffect>;
    if (table === written || !table) return 0;
    written = table;
    const entries = Math.min(values.length / 4, entriesOf(table));
    for (let at = 0; at < entries; at++)
      for (let k = 0; k < 3; k++) values[at * 4 + k] = table.colors[at * 3 + k] ?? 0;
    return entries * 4;
  };
}
