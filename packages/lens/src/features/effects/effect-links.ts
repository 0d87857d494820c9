import {
  BLEND_MODES,
  type BlendEffect,
  type BlurEffect,
  COLOR_EFFECTS,
  type ColorEffect,
  COMPOSITE_OPERATORS,
  type CompositeEffect,
  type ConvolveEffect,
  type DropShadowEffect,
  type EdgeMode,
  type Effect,
  type DisplacementEffect,
  type FloodEffect,
  MAP_CHANNELS,
  LATTICE_FLOATS,
  type MaterialShader,
  type Texture,
  type TurbulenceEffect,
  writeNoiseLattice,
  type MorphologyEffect,
  type OffsetEffect,
  OPERATION_FLOATS,
  writeColorOperation,
} from '@umber-lens/core/engine';
import type { EffectShaders } from '../../compiled/lens-shaders.js';
import type { EffectMoment } from './effect-moment.js';
import { ownLink, ownShaderOf } from './own-link.js';
import { isOfPicture, PICTURE_LINKS } from './picture-links.js';
import { addBloom, addDepthOfField, isPlain, PLAIN_LINKS } from './trade-links.js';
import {
  BLEND_FACTORS,
  BLEND_FLOATS,
  BLUR_DEVIATION,
  BLUR_DIRECTION,
  BLUR_EDGE,
  BLUR_FLOATS,
  BLUR_SHIFT,
  BLUR_WEIGHTS,
  COLOR_OPERATIONS_FLOATS,
  COLOR_OPERATIONS_OPERATIONS,
  COLOR_OPERATIONS_TABLES,
  CONVOLVE_AIM,
  CONVOLVE_BIAS,
  CONVOLVE_DIVISOR,
  CONVOLVE_EDGE,
  CONVOLVE_FLOATS,
  CONVOLVE_KEEPS_ALPHA,
  CONVOLVE_ORDER,
  CONVOLVE_WEIGHTS,
  DISPLACEMENT_CORNER,
  DISPLACEMENT_FLOATS,
  DISPLACEMENT_IS_STRAIGHT,
  DISPLACEMENT_SCALE,
  DISPLACEMENT_SIZE,
  DISPLACEMENT_X_CHANNEL,
  DISPLACEMENT_Y_CHANNEL,
  DROP_SHADOW_COLOR,
  DROP_SHADOW_FLOATS,
  FLOOD_COLOR,
  FLOOD_FLOATS,
  MASKED_FLOATS,
  MASKED_SEES,
  MORPHOLOGY_DIRECTION,
  MORPHOLOGY_FLOATS,
  MORPHOLOGY_IS_ERODE,
  MORPHOLOGY_RADIUS,
  MOST_OPERATIONS,
  OFFSET_BY,
  OFFSET_FLOATS,
  TURBULENCE_CORNER,
  TURBULENCE_FLOATS,
  TURBULENCE_FREQUENCY,
  TURBULENCE_OCTAVES,
  TURBULENCE_STEP,
} from '../../compiled/layouts.js';

/** One full-screen pass of a chain of effects. */
export interface EffectLink {
  name: string;
  /** One of the library's by name, or an author's. */
  shader: keyof EffectShaders | MaterialShader;
  /** Of its uniform block. */
  floats: number;
  /** Numbers of the pictures that it reads: 0 is what the chain is given, `n` what link `n - 1` made. */
  reads: readonly number[];
  /** How its pipeline is built. */
  constants: Readonly<Record<string, number | boolean>>;
  /** A texture that it reads besides, in place of a second picture. */
  texture?: (effects: readonly Effect[]) => Texture | undefined;
  /** What it reads besides, in a storage buffer. */
  table?: EffectTable;
  /** Whether it reads between pixels, by a sampler. */
  isSampled?: boolean;
  /** Whether it reads the depths of what is opaque, and what it made of the frame before. */
  readsDepth?: boolean;
  readsBefore?: boolean;
  /** Whether it reads what surfaces are: which way they face, how they have come. */
  readsNormal?: boolean;
  readsVelocity?: boolean;
  /** Whether it reads bits of things. */
  readsThings?: boolean;
  /** Whether it makes all pixels of the picture out of those that were drawn, where these are fewer; those after it have all, too. */
  makesWhole?: boolean;
  /** Who has the settings of an author's shader. */
  settings?: (effects: readonly Effect[]) => Effect;
  /** How often its target is half as large as the picture. Default 0. */
  halvings?: number;
  /** Writes its block out of the list, as it is now. Allocates nothing. */
  write(values: Float32Array, words: Uint32Array, effects: readonly Effect[], at: EffectMoment): void;
}

/** Numbers that are written when they are others, and not in every frame. */
export interface EffectTable {
  floats: number;
  /** Writes them out of the list, as it is now. @returns how many are to be sent: none where they are as before */
  write(values: Float32Array, effects: readonly Effect[]): number;
}

/** The passes of the effects of a list that stand on light, and of those on what is shown. */
export interface EffectStages {
  light: readonly EffectLink[];
  shown: readonly EffectLink[];
}

/** The passes of a list of effects, both kinds. @param isOfNode whether it is a node's, which has no picture of its own */
export function stagesOf(effects: readonly Effect[], isOfNode: boolean): EffectStages {
  const light: EffectLink[] = [];
  const order = effects.map((_, i) => i);
  // What asks for what was drawn comes before what makes more pixels of it.
  const isWhole = (i: number): boolean => resolutionOf(effects[i]) < 1;
  if (order.some(isWhole))
    order.sort((a, b) => rankOf(effects[a], isWhole(a)) - rankOf(effects[b], isWhole(b)));
  for (const i of order) {
    const effect = effects[i] as Effect | null; // i < length
    // What is none is told while developing.
    if (!effect) continue;
    const { type } = effect;
    const source = light.length;
    if (type === 'bloom') addBloom(light, i);
    else if (type === 'depth-of-field') addDepthOfField(light, i);
    else if (isOfPicture(type) && !isOfNode) PICTURE_LINKS[type](light, i, effect);
    if (!isOfNode && effect.sees !== undefined && light.length > source)
      light.push({ name: `${i + 1} where ${type} is`, ...maskLink(i, source, light.length) });
  }
  return { light, shown: linksOf(effects, isOfNode) };
}

/** What of a picture's pixels are drawn, along each side. */
export function resolutionOf(effect: Effect | null | undefined): number {
  if (effect?.type !== 'temporal-antialiasing') return 1;
  return Math.min(1, Math.max(0.5, effect.resolution ?? 1));
}

const READS_DRAWN: ReadonlySet<string> = new Set(['depth-of-field', 'motion-blur', 'light-shafts']);
const rankOf = (effect: Effect | null | undefined, isWhole: boolean): number =>
  isWhole ? 1 : READS_DRAWN.has(effect?.type ?? '') ? 0 : 2;

/** The passes on what is shown. Those that change each pixel by itself are done together, up to eight a pass. */
export function linksOf(effects: readonly Effect[], isOfNode = false): EffectLink[] {
  const links: EffectLink[] = [];
  const named = new Map([['SourceGraphic', 0]]);
  const add: Add = ({ name, reads = [links.length], ...link }) =>
    void links.push({ name: `${links.length + 1} ${name}`, reads, ...link });
  for (let i = 0; i < effects.length; i++) {
    const effect = effects[i] as Effect | null; // i < length
    // What is none is told while developing.
    if (!effect) continue;
    const { type } = effect;
    // What has no such name is told while developing.
    const before = links.length;
    const source = named.get(effect.in ?? '') ?? before;
    const reads = [source];
    const constants = { isLinear: isLinear(effect) };
    if (type === 'blur') addBlur(add, i, 'blur', constants, source);
    else if (type === 'drop-shadow') {
      addBlur(add, i, 'drop-shadow', constants, source);
      const below = [source, links.length];
      add({
        ...{ name: type, shader: 'shadow', floats: DROP_SHADOW_FLOATS, constants },
        ...{ reads: below, write: writeShadow(i) },
      });
    } else if (type === 'offset')
      add({ name: type, shader: type, floats: OFFSET_FLOATS, constants, reads, write: writeOffset(i) });
    else if (type === 'morphology') {
      const both = { shader: type, floats: MORPHOLOGY_FLOATS, constants };
      add({ name: 'morphology across', ...both, reads, write: writeMorphology(i, 0) });
      add({ name: 'morphology down', ...both, write: writeMorphology(i, 1) });
    } else if (type === 'convolve')
      add({ name: type, shader: type, floats: CONVOLVE_FLOATS, constants, reads, write: writeConvolve(i) });
    else if (type === 'flood')
      add({
        name: type,
        shader: type,
        floats: FLOOD_FLOATS,
        constants: {},
        reads: [0],
        write: writeFlood(i),
      });
    else if (type === 'blend' || type === 'composite') {
      const below = named.get(effect.in2 ?? 'SourceGraphic') ?? links.length;
      add({
        ...{ name: type, shader: 'blend', floats: BLEND_FLOATS, reads: [source, below] },
        ...{ constants: { ...constants, mode: modeOf(effect) }, write: writeBlend(i) },
      });
    } else if (type === 'turbulence') {
      add({
        ...{ name: type, shader: type, floats: TURBULENCE_FLOATS, reads: [0] },
        ...{
          constants: { ...constants, isFractal: effect.noise === 'fractalNoise' },
          write: writeTurbulence(i),
        },
        table: { floats: LATTICE_FLOATS, write: writeLattice(i) },
      });
    } else if (type === 'displacement') {
      const { map } = effect;
      add({
        ...{ name: type, shader: type, floats: DISPLACEMENT_FLOATS, constants, write: writeDisplacement(i) },
        ...(typeof map === 'string'
          ? { reads: [source, named.get(map) ?? links.length] }
          : { reads, texture: (list) => (list[i] as { map?: Texture }).map }),
      });
    } else if (type === 'shader') {
      const shader = ownShaderOf(effect);
      if (!shader) continue;
      const second = named.get(effect.in2 ?? 'SourceGraphic') ?? links.length;
      add({ name: shader.file.replace(/^.*\//, ''), ...ownLink(i, shader, source, second) });
    } else if (isPlain(type)) {
      const { shader, floats, isSampled = false, table, write } = PLAIN_LINKS[type];
      add({
        ...{ name: type, shader, floats, constants: {}, reads, isSampled, write: write(i) },
        ...(table ? { table: table(i, effect) } : {}),
      });
    } else if (COLOR_TYPES.has(type)) {
      const end = endOfColors(effects, i);
      const own = effects.slice(i, end);
      const hasFunctions = own.some((one) => one.type === 'component-transfer');
      add({
        ...{
          name: type,
          shader: 'colors',
          floats: COLOR_OPERATIONS_FLOATS,
          reads,
          write: writeColors(i, end),
        },
        constants: { count: end - i, hasLinear: own.some(isLinear), hasFunctions },
      });
      i = end - 1;
    }
    const isMasked = !isOfNode && effects[i]!.sees !== undefined; // as below
    if (isMasked && links.length > before)
      add({ name: `where ${type} is`, ...maskLink(i, source, links.length) });
    const { result } = effects[i]!; // the last of those done together
    if (result !== undefined) named.set(result, links.length);
  }
  return links;
}

/** Takes what an effect made where the things are that it is of, and what it was given elsewhere. */
const maskLink = (i: number, source: number, treated: number): Omit<EffectLink, 'name'> => ({
  ...{ shader: 'masked', floats: MASKED_FLOATS, reads: [source, treated], constants: {} },
  readsThings: true,
  write: (_, words, effects) => {
    words[MASKED_SEES] = effects[i]!.sees ?? 0xffffffff; // one of the list
  },
});

/** Behind the last effect that goes into the pass of the one at `first`: others ask for none of those between. */
function endOfColors(effects: readonly Effect[], first: number): number {
  let end = first + 1;
  while (end < effects.length && end - first < MOST_OPERATIONS && effects[end - 1]!.result === undefined) {
    const next = effects[end] as Effect | null; // end < length
    const isAlone = next?.in !== undefined || next?.sees !== effects[first]!.sees;
    if (!next || !COLOR_TYPES.has(next.type) || isAlone) break;
    end++;
  }
  return end;
}

const COLOR_TYPES: ReadonlySet<string> = new Set(COLOR_EFFECTS);

const isLinear = ({ colorInterpolation }: Effect): boolean => colorInterpolation === 'linearRGB';

/** One of two numbers, where there may be one for both. */
const along = (given: number | readonly number[] | undefined, axis: number, usual: number): number =>
  given === undefined ? usual : typeof given === 'number' ? given : (given[axis] ?? usual);

/** @param link its name without a number; its `reads` left out: what was added before */
type Add = (link: Omit<EffectLink, 'reads'> & { reads?: readonly number[] }) => void;

function addBlur(
  add: Add,
  i: number,
  name: string,
  constants: EffectLink['constants'],
  source: number,
): void {
  const both = { shader: 'blur', floats: BLUR_FLOATS, constants } as const;
  add({ name: `${name} across`, ...both, reads: [source], write: writeBlur(i, 0) });
  add({ name: `${name} down`, ...both, write: writeBlur(i, 1) });
}

/** Deviations from which on the sum of a Gaussian's weights is its integral within a ten-thousandth. */
const SMOOTH = 64;

/** The sum of the weights of effect-blur.wgsl. */
function weightsOf(deviation: number, shift: number): number {
  // Between -3 and 3 deviations: 0.9973 of all.
  if (deviation > SMOOTH) return 0.9973002 * deviation * Math.sqrt(2 * Math.PI);
  const part = Math.round(shift) - shift;
  const reach = Math.ceil(deviation * 3);
  let sum = 0;
  for (let i = -reach; i <= reach; i++) sum += Math.exp((-0.5 * (i - part) ** 2) / deviation ** 2);
  return sum;
}

const EDGES: readonly EdgeMode[] = ['duplicate', 'wrap', 'none'];

const writeBlur =
  (i: number, axis: number): EffectLink['write'] =>
  (values, _, effects, { scale }) => {
    const effect = effects[i] as BlurEffect | DropShadowEffect; // its type was looked at
    const deviation = scale * along(effect.stdDeviation, axis, effect.type === 'blur' ? 0 : 2);
    values[BLUR_DIRECTION + axis] = 1;
    values[BLUR_DEVIATION] = deviation;
    const shift = effect.type === 'blur' ? 0 : scale * (effect.offset?.[axis] ?? 2);
    values[BLUR_SHIFT] = shift;
    values[BLUR_WEIGHTS] = weightsOf(deviation, shift);
    values[BLUR_EDGE] = EDGES.indexOf((effect.type === 'blur' ? effect.edgeMode : undefined) ?? 'none');
  };

const writeColors =
  (first: number, end: number): EffectLink['write'] =>
  (values, _, effects) => {
    let used = 0;
    for (let i = first; i < end; i++) {
      const at = COLOR_OPERATIONS_OPERATIONS + (i - first) * OPERATION_FLOATS;
      const effect = effects[i] as ColorEffect; // its type was looked at
      used = writeColorOperation(effect, values, at, COLOR_OPERATIONS_TABLES, used);
    }
  };

const writeShadow =
  (i: number): EffectLink['write'] =>
  (values, _, effects) => {
    const effect = effects[i] as DropShadowEffect; // its type was looked at
    const { color } = effect;
    for (let k = 0; k < 4; k++) values[DROP_SHADOW_COLOR + k] = color?.[k] ?? (k === 3 ? 1 : 0);
  };

const writeOffset =
  (i: number): EffectLink['write'] =>
  (values, _, effects, { scale }) => {
    const effect = effects[i] as OffsetEffect; // its type was looked at
    values[OFFSET_BY] = scale * (effect.dx ?? 0);
    values[OFFSET_BY + 1] = scale * (effect.dy ?? 0);
  };

const writeMorphology =
  (i: number, axis: number): EffectLink['write'] =>
  (values, _, effects, { scale }) => {
    const effect = effects[i] as MorphologyEffect; // its type was looked at
    const { operator, radius } = effect;
    // One that is 0 leaves the picture, as in SVG.
    const isOff = along(radius, 0, 0) <= 0 || along(radius, 1, 0) <= 0;
    values[MORPHOLOGY_DIRECTION + axis] = 1;
    values[MORPHOLOGY_RADIUS] = isOff ? 0 : Math.floor(scale * along(radius, axis, 0));
    values[MORPHOLOGY_IS_ERODE] = operator === 'dilate' ? 0 : 1;
  };

/** Columns and rows of a matrix at most. */
const MOST_ORDER = 8;

const writeConvolve =
  (i: number): EffectLink['write'] =>
  (values, _, effects) => {
    const effect = effects[i] as ConvolveEffect; // its type was looked at
    const { bias = 0, edgeMode = 'duplicate', kernelMatrix, order, preserveAlpha } = effect;
    const columns = Math.min(MOST_ORDER, along(order, 0, 3));
    const rows = Math.min(MOST_ORDER, along(order, 1, 3));
    // What is missing is told while developing.
    const weights = kernelMatrix as ArrayLike<number> | undefined;
    let sum = 0;
    for (let k = 0; k < columns * rows; k++) sum += values[CONVOLVE_WEIGHTS + k] = weights?.[k] ?? 0;
    values[CONVOLVE_ORDER] = columns;
    values[CONVOLVE_ORDER + 1] = rows;
    values[CONVOLVE_AIM] = effect.targetX ?? Math.floor(columns / 2);
    values[CONVOLVE_AIM + 1] = effect.targetY ?? Math.floor(rows / 2);
    values[CONVOLVE_DIVISOR] = effect.divisor || sum || 1;
    values[CONVOLVE_BIAS] = bias;
    values[CONVOLVE_EDGE] = EDGES.indexOf(edgeMode);
    values[CONVOLVE_KEEPS_ALPHA] = preserveAlpha ? 1 : 0;
  };

const writeFlood =
  (i: number): EffectLink['write'] =>
  (values, _, effects) => {
    const { floodColor, floodOpacity = 1 } = effects[i] as FloodEffect; // its type was looked at
    for (let k = 0; k < 3; k++) values[FLOOD_COLOR + k] = (floodColor?.[k] ?? 0) * floodOpacity;
    values[FLOOD_COLOR + 3] = floodOpacity;
  };

/** In the order of effect-blend.wgsl. */
const modeOf = (effect: BlendEffect | CompositeEffect): number =>
  effect.type === 'blend'
    ? BLEND_MODES.indexOf(effect.mode ?? 'normal')
    : BLEND_MODES.length + COMPOSITE_OPERATORS.indexOf(effect.operator ?? 'over');

const writeBlend =
  (i: number): EffectLink['write'] =>
  (values, _, effects) => {
    const { k1 = 0, k2 = 0, k3 = 0, k4 = 0 } = effects[i] as CompositeEffect; // its type was looked at
    values[BLEND_FACTORS] = k1;
    values[BLEND_FACTORS + 1] = k2;
    values[BLEND_FACTORS + 2] = k3;
    values[BLEND_FACTORS + 3] = k4;
  };

const writeDisplacement =
  (i: number): EffectLink['write'] =>
  (values, _, effects, { area, scale }) => {
    const effect = effects[i] as DisplacementEffect; // its type was looked at
    values[DISPLACEMENT_SCALE] = scale * (effect.scale ?? 0);
    values[DISPLACEMENT_X_CHANNEL] = MAP_CHANNELS.indexOf(effect.xChannel ?? 'alpha');
    values[DISPLACEMENT_Y_CHANNEL] = MAP_CHANNELS.indexOf(effect.yChannel ?? 'alpha');
    values[DISPLACEMENT_CORNER] = area.left;
    values[DISPLACEMENT_CORNER + 1] = area.top;
    values[DISPLACEMENT_SIZE] = area.width;
    values[DISPLACEMENT_SIZE + 1] = area.height;
    values[DISPLACEMENT_IS_STRAIGHT] = typeof effect.map === 'string' ? 0 : 1;
  };

const writeTurbulence =
  (i: number): EffectLink['write'] =>
  (values, _, effects, { area, scale }) => {
    const { baseFrequency, numOctaves = 1 } = effects[i] as TurbulenceEffect; // its type was looked at
    values[TURBULENCE_FREQUENCY] = along(baseFrequency, 0, 0);
    values[TURBULENCE_FREQUENCY + 1] = along(baseFrequency, 1, 0);
    // Finer ones are below a step of 255.
    values[TURBULENCE_OCTAVES] = Math.min(16, numOctaves);
    values[TURBULENCE_STEP] = 1 / scale;
    values[TURBULENCE_CORNER] = area.left;
    values[TURBULENCE_CORNER + 1] = area.top;
  };

function writeLattice(i: number): EffectTable['write'] {
  let written: number | undefined;
  return (values, effects) => {
    const { seed = 0 } = effects[i] as TurbulenceEffect; // its type was looked at
    if (Object.is(seed, written)) return 0;
    written = seed;
    writeNoiseLattice(seed, values);
    return LATTICE_FLOATS;
  };
}
