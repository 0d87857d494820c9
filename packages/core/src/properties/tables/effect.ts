import {
  AMOUNT_EFFECTS,
  BLEND_MODES,
  COMPOSITE_OPERATORS,
  EFFECT_TYPES,
  MAP_CHANNELS,
} from '../../effects/effect.js';
import {
  aboveZero,
  angle,
  boolean,
  given,
  number,
  object,
  positive,
  share,
  string,
  vector,
  whole,
  word,
} from '../define.js';
import type { Property, Table } from '../property.js';

/** A function of `component-transfer`. */
export const TRANSFER_TABLE: Table = {
  type: word('What a channel becomes, of 0 to 1.', ['identity', 'table', 'discrete', 'linear', 'gamma']),
  tableValues: { line: 'Values at even steps.', type: 'numbers', only: ['table', 'discrete'] },
  slope: number('Of a straight line.', { default: 1, only: ['linear'] }),
  intercept: number('Of a straight line, where the channel is 0.', { default: 0, only: ['linear'] }),
  amplitude: number('Before the power.', { default: 1, only: ['gamma'] }),
  exponent: number('Of the power.', { default: 1, only: ['gamma'] }),
  offset: {
    ...number('Added to the power.', { default: 0, only: ['gamma'] }),
  },
};

/** One number, or one across and one down. */
const across = (line: string, more: Partial<Property> = {}): Property => ({
  ...positive(`${line} One number, or one across and one down.`, { unit: 'pixels', ...more }),
  or: ['numbers'],
});

/** Effects of the trade with an amount. */
const AMOUNTS_OF_TRADE = [
  'bloom',
  'sharpen',
  'chromatic-aberration',
  'lens-distortion',
  'film-grain',
  'lut',
  'ambient-occlusion',
  'temporal-antialiasing',
  'screen-space-reflections',
  'light-shafts',
  'dither',
];

/** An effect of `lens.view.finish` or of a node. */
export const EFFECT_TABLE: Table = {
  type: word('What it does, as CSS and SVG have it.', EFFECT_TYPES),
  colorInterpolation: word('Which values it computes with.', ['sRGB', 'linearRGB'], { default: 'sRGB' }),
  amount: number('How much of it: of those of CSS as there, default 1; of others see each.', {
    only: [...AMOUNT_EFFECTS, ...AMOUNTS_OF_TRADE],
  }),
  focus: {
    ...aboveZero('What is in focus: a distance, or a node.', { unit: 'metres', only: ['depth-of-field'] }),
    or: ['given'],
  },
  fStop: aboveZero('Aperture: 1.4 blurs much, 22 little.', { default: 2.8, only: ['depth-of-field'] }),
  sensorHeight: aboveZero('Of the sensor.', { unit: 'metres', default: 0.024, only: ['depth-of-field'] }),
  maxRadius: aboveZero(
    'Of `depth-of-field` the largest disc, default 14; of `motion-blur` the longest streak, default 32, 32 at most.',
    { unit: 'pixels', only: ['depth-of-field', 'motion-blur'] },
  ),
  shutter: share('Of the time from frame to frame that it is open.', { default: 0.5, only: ['motion-blur'] }),
  resolution: number("Of the picture's pixels along each side that are drawn in each frame.", {
    range: [0.5, 1],
    default: 1,
    only: ['temporal-antialiasing'],
  }),
  maxRoughness: share('Rougher surfaces mirror nothing.', {
    default: 0.5,
    only: ['screen-space-reflections'],
  }),
  maxDistance: aboveZero('That a ray goes at most.', {
    unit: 'metres',
    default: 20,
    only: ['screen-space-reflections'],
  }),
  thickness: aboveZero('Behind what is seen that count as filled.', {
    unit: 'metres',
    default: 0.3,
    only: ['screen-space-reflections'],
  }),
  from: {
    ...given('What light comes from: a node, or a place in the world.', { only: ['light-shafts'] }),
    or: ['numbers'],
  },
  reach: share('Of the way to the light.', { default: 0.8, only: ['light-shafts'] }),
  spread: share('How far light spreads.', { default: 0.7, only: ['bloom'] }),
  threshold: positive(
    'Of `bloom` the light that spreads, default all; of `smooth-edges` the jump that is an edge, default 0.05.',
    {
      only: ['bloom', 'smooth-edges'],
    },
  ),
  size: aboveZero('Of a grain.', { unit: 'pixels', default: 1.5, only: ['film-grain'] }),
  shader: given('A shader of your own, with the hook `effect`.', { only: ['shader'] }),
  settings: given("Values of the shader's settings, by name.", { only: ['shader'] }),
  table: given('Of colors, as `readCube` gives it.', { only: ['lut'] }),
  angle: angle('By which colors turn about the axis of greys.', undefined, {
    default: 0,
    only: ['hue-rotate'],
  }),
  stdDeviation: across('Of the Gaussian.', { only: ['blur', 'drop-shadow'] }),
  values: vector('By rows: red, green, blue, alpha, each of red, green, blue, alpha and 1.', 20, {
    only: ['color-matrix'],
  }),
  red: object('What red becomes.', TRANSFER_TABLE, { only: ['component-transfer'] }),
  green: object('What green becomes.', TRANSFER_TABLE, { only: ['component-transfer'] }),
  blue: object('What blue becomes.', TRANSFER_TABLE, { only: ['component-transfer'] }),
  alpha: object('What alpha becomes.', TRANSFER_TABLE, { only: ['component-transfer'] }),
  offset: vector('To the right and down.', 2, { unit: 'pixels', default: [2, 2], only: ['drop-shadow'] }),
  color: vector('Of the shadow, default black; of the line, and of light, default white.', 4, {
    range: [0, 1],
    color: 'encoded',
    only: ['drop-shadow', 'outline', 'light-shafts'],
  }),
  occludedColor: vector('Of the line where something nearer hides it. Left out: it is hidden.', 4, {
    range: [0, 1],
    color: 'encoded',
    only: ['outline'],
  }),
  width: aboveZero('Of the line.', { range: [0, 16], unit: 'pixels', default: 2, only: ['outline'] }),
  dx: number('To the right.', { unit: 'pixels', default: 0, only: ['offset'] }),
  dy: number('Down.', { unit: 'pixels', default: 0, only: ['offset'] }),
  operator: word(
    'Of `morphology` whether it thins or fattens, default `erode`; of `composite` what of both stays, default `over`.',
    ['erode', 'dilate', ...COMPOSITE_OPERATORS],
    { only: ['morphology', 'composite'] },
  ),
  mode: word('How colors of both mix.', BLEND_MODES, { default: 'normal', only: ['blend'] }),
  in: string(
    'What it is made of: `SourceGraphic`, or the `result` of an effect. Left out: the effect before.',
  ),
  in2: string('What lies below, as `in` has it.', {
    default: 'SourceGraphic',
    only: ['blend', 'composite', 'shader'],
  }),
  result: string('A name by which effects after it find what it made.', { names: 'itself' }),
  sees: whole('Of a whole picture: bits of what it treats. Left out: all is treated.', {
    range: [0, 0xffffffff],
  }),
  k1: number('Factor of both together, where the operator is `arithmetic`.', {
    default: 0,
    only: ['composite'],
  }),
  k2: number('Factor of the upper one.', { default: 0, only: ['composite'] }),
  k3: number('Factor of the lower one.', { default: 0, only: ['composite'] }),
  k4: number('Added.', { default: 0, only: ['composite'] }),
  map: {
    ...given('A texture, or the `result` of an effect, whose colors say how far.', {
      only: ['displacement'],
    }),
  },
  scale: number('From a channel of 0 to one of 1.', { unit: 'pixels', default: 0, only: ['displacement'] }),
  xChannel: word('That says how far across.', MAP_CHANNELS, { default: 'alpha', only: ['displacement'] }),
  yChannel: word('That says how far down.', MAP_CHANNELS, { default: 'alpha', only: ['displacement'] }),
  noise: word('Clouds about one half, or veins.', ['turbulence', 'fractalNoise'], {
    default: 'turbulence',
    only: ['turbulence'],
  }),
  baseFrequency: {
    ...positive('Waves a pixel. One number, or one across and one down.', {
      default: 0,
      only: ['turbulence'],
    }),
    or: ['numbers'],
  },
  numOctaves: whole('Finer noises on top.', { range: [0, 16], default: 1, only: ['turbulence'] }),
  seed: number('What chance begins with.', { default: 0, only: ['turbulence'] }),
  floodColor: vector('Of everything.', 3, {
    range: [0, 1],
    color: 'encoded',
    default: [0, 0, 0],
    only: ['flood'],
  }),
  floodOpacity: share('How much of it there is.', { default: 1, only: ['flood'] }),
  radius: {
    ...positive(
      'Of `morphology` how far around a pixel it looks, pixels, default 0: one number, or one across and one down; of `ambient-occlusion` metres beyond which nothing hides the light, default 0.5.',
      { only: ['morphology', 'ambient-occlusion'] },
    ),
    or: ['numbers'],
  },
  order: {
    ...whole('Columns and rows of the matrix. One number, or two.', {
      range: [1, 8],
      default: 3,
      only: ['convolve'],
    }),
    or: ['numbers'],
  },
  kernelMatrix: { line: 'Weights by rows, turned by half.', type: 'numbers', only: ['convolve'] },
  divisor: number('What the sum is divided by. Left out: the sum of the matrix.', { only: ['convolve'] }),
  bias: number('Added, times alpha.', { default: 0, only: ['convolve'] }),
  targetX: whole('Column of the matrix that lies on the pixel. Left out: the middle.', {
    range: [0, 7],
    only: ['convolve'],
  }),
  targetY: whole('Row of the matrix that lies on the pixel. Left out: the middle.', {
    range: [0, 7],
    only: ['convolve'],
  }),
  edgeMode: word(
    'What lies outside of the picture. Left out: of a `convolve` duplicate, of a `blur` none.',
    ['duplicate', 'wrap', 'none'],
    { only: ['blur', 'convolve'] },
  ),
  preserveAlpha: boolean('Whether alpha stays, and colors count without it.', {
    default: false,
    only: ['convolve'],
  }),
};

/** `node.effects`. What they hold is looked at when they are drawn: effects are named with their number. */
export const EFFECTS: Property = given(
  'Effects on it and all below it, one after the other: a list of effects.',
);

/** `lens.view.finish`. */
export const FINISH: Property = given('Effects on the shown picture, one after the other.', {
  of: EFFECT_TABLE,
});
