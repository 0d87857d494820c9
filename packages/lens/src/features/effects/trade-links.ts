import type {
  BloomEffect,
  ChromaticAberrationEffect,
  ColorTable,
  DepthOfFieldEffect,
  Effect,
  FilmGrainEffect,
  LensDistortionEffect,
  LutEffect,
  OutlineEffect,
  SharpenEffect,
  SmoothEdgesEffect,
} from '@umber-lens/core/engine';
import type { EffectShaders } from '../../compiled/lens-shaders.js';
import {
  BLOOM_AMOUNT,
  BLOOM_FLOATS,
  BLOOM_SPREAD,
  BLOOM_THRESHOLD,
  DEPTH_OF_FIELD_CORNER,
  DEPTH_OF_FIELD_DEPTH_OFFSET,
  DEPTH_OF_FIELD_DEPTH_SCALE,
  DEPTH_OF_FIELD_FLOATS,
  DEPTH_OF_FIELD_FOCUS,
  DEPTH_OF_FIELD_IS_PARALLEL,
  DEPTH_OF_FIELD_MOST,
  DEPTH_OF_FIELD_STRENGTH,
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
  OUTLINE_COLOR,
  OUTLINE_FLOATS,
  OUTLINE_WIDTH,
  SHARPEN_AMOUNT,
  SHARPEN_FLOATS,
} from '../../compiled/layouts.js';
import type { EffectLink, EffectTable } from './effect-links.js';
import type { EffectArea } from './effect-moment.js';

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

/** Adds the pass of a depth of field. */
export function addDepthOfField(links: EffectLink[], i: number): void {
  links.push({
    ...{ name: `${i + 1} depth-of-field`, shader: 'depthOfField', reads: [links.length], constants: {} },
    ...{ floats: DEPTH_OF_FIELD_FLOATS, readsDepth: true, write: writeDepthOfField(i) },
  });
}

const writeDepthOfField =
  (i: number): EffectLink['write'] =>
  (values, _, effects, { area, height, isParallel, projection, scale, share, view }) => {
    const { focus = 1, fStop = 2.8, maxRadius = 14, sensorHeight = 0.024 } = effects[i] as DepthOfFieldEffect; // its type was looked at
    let metres: number;
    if (typeof focus === 'number') metres = focus;
    else {
      const [x, y, z] = focus.readWorldPosition(place) as [number, number, number];
      // Sixteen numbers; the camera looks along -Z.
      metres = -(view[2]! * x + view[6]! * y + view[10]! * z + view[14]!);
    }
    // Of a perspective the sixth number is one over the tangent of half the field of view.
    const focalLength = (sensorHeight / 2) * (projection[5] ?? 1) * share;
    const distance = Math.max(focalLength * 1.001, metres);
    // A disc of c = f^2 / N / (s - f) for what is infinitely far; half of that, in pixels.
    const disc = focalLength ** 2 / Math.max(0.1, fStop) / (distance - focalLength);
    values[DEPTH_OF_FIELD_FOCUS] = distance;
    const far = ((disc / sensorHeight) * height) / 2;
    values[DEPTH_OF_FIELD_STRENGTH] = far;
    // What is nearer than a third of the way to what is in focus grows no more: samples lie close together then.
    values[DEPTH_OF_FIELD_MOST] = Math.max(0.5, Math.min(maxRadius * scale, 2 * far));
    values[DEPTH_OF_FIELD_IS_PARALLEL] = isParallel ? 1 : 0;
    values[DEPTH_OF_FIELD_DEPTH_SCALE] = projection[10] ?? 0;
    values[DEPTH_OF_FIELD_DEPTH_OFFSET] = projection[14] ?? 0;
    values[DEPTH_OF_FIELD_CORNER] = area.left;
    values[DEPTH_OF_FIELD_CORNER + 1] = area.top;
  };

const place: [number, number, number] = [0, 0, 0];

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
  'outline',
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

const WHITE = [1, 1, 1, 1] as const;

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
  outline: {
    shader: 'outline',
    floats: OUTLINE_FLOATS,
    write:
      (i) =>
      (values, _, effects, { scale }) => {
        const { color = WHITE, width = 2 } = effects[i] as OutlineEffect; // its type was looked at
        for (let k = 0; k < 4; k++) values[OUTLINE_COLOR + k] = k < 3 ? color[k]! * color[3] : color[3]; // four by type
        values[OUTLINE_WIDTH] = scale * Math.min(16, width);
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
