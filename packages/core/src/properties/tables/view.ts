import {
  aboveZero,
  boolean,
  callback,
  given,
  number,
  object,
  positive,
  share,
  string,
  vector,
  word,
} from '../define.js';
import type { Table } from '../property.js';
import { FINISH } from './effect.js';

const AUTOMATIC_EXPOSURE_TABLE: Table = {
  brightness: aboveZero("What the picture's mean is to be, linear and as it is shown.", { default: 0.18 }),
  min: number('That it may add at least.', { unit: 'stops', default: -6 }),
  max: number('That it may add at most.', { unit: 'stops', default: 6 }),
  halfLife: positive('In which half of a change of light is made up for; 0 is at once.', {
    unit: 'seconds',
    default: 0.4,
  }),
};

const VIGNETTE_TABLE: Table = {
  size: positive('Where it begins: 0 the middle, 1 the edges.', { default: 0.7 }),
  softness: positive('From there to where it is whole.', { default: 0.7 }),
  roundness: share('0 follows the shape of the picture, 1 is a circle.', { default: 0 }),
  color: vector('What the corners go over to.', 3, {
    range: [0, 1],
    color: 'encoded',
    default: [0, 0, 0],
  }),
  weight: share('How much of it there is.', { default: 0.5 }),
};

/** `lens.look`. */
export const LOOK_TABLE: Table = {
  exposure: number('Each doubles the light.', { range: [-64, 64], unit: 'stops', default: 0 }),
  toneMapping: word(
    'The curve from radiance to what a screen can show.',
    ['soft', 'none', 'reinhard', 'aces', 'agx', 'neutral'],
    { default: 'soft' },
  ),
  whiteBalance: number('Color temperature of the light that is to look white.', {
    range: [1667, 25000],
    unit: 'kelvin',
    default: 6504,
  }),
  automaticExposure: {
    ...object('Whether stops follow the picture, besides `exposure`.', AUTOMATIC_EXPOSURE_TABLE),
    or: ['boolean'],
    default: false,
  },
  transparency: word(
    'How transparent surfaces are put over each other: by things, or by pixels.',
    ['sorted', 'peeled'],
    { default: 'sorted' },
  ),
  contrast: positive('About the middle: 0 is grey.', { default: 1 }),
  saturation: positive('0 takes the colors away.', { default: 1 }),
  vignette: object('A frame that darkens towards the corners.', VIGNETTE_TABLE),
};

/** `lens.view.culling`. */
export const CULLING_TABLE: Table = {
  occlusion: boolean('Whether what stands wholly behind other things is left out, on WebGPU.', {
    default: false,
  }),
  gpu: boolean('Whether the GPU chooses tiles and levels of swarms, on WebGPU.', { default: false }),
  clusters: boolean('Whether large scenes are looked at cluster by cluster.', { default: true }),
};

/** `lens.view`. */
export const VIEW_TABLE: Table = {
  renderPath: word('How opaque things are drawn.', ['forward', 'prepass', 'deferred'], {
    default: 'forward',
  }),
  show: string('A single quantity of the surfaces instead of their light: one of `SHOWS`.', {
    default: 'shaded',
  }),
  minPixels: positive('Things that are less high on the screen are left out.', {
    unit: 'pixels',
    default: 0,
  }),
  onDemand: boolean('Whether a frame in which nothing changed is not drawn again.', { default: false }),
  culling: object('What is left out before it is drawn.', CULLING_TABLE),
  finish: FINISH,
};

const DYNAMIC_RESOLUTION_TABLE: Table = {
  milliseconds: aboveZero('That a frame should take.', { unit: 'milliseconds', default: 1000 / 60 }),
  minScale: number('Least share of the full width and height.', { range: [0.2, 1], default: 0.35 }),
};

/** What `openLens` takes. */
export const LENS_TABLE: Table = {
  antialias: boolean('Whether edges are smooth, by four samples a pixel.', { default: true }),
  stencil: boolean('Whether there is a stencil, for materials that ask for it.', { default: false }),
  pixelRatio: aboveZero("Pixels a CSS pixel. Left out: the screen's own."),
  maxPixelRatio: aboveZero("The most that are followed of the screen's own. Default: all."),
  dynamicResolution: {
    ...object(
      'Fewer pixels where frames take too long. Default: where no GPU does the work.',
      DYNAMIC_RESOLUTION_TABLE,
    ),
    or: ['boolean'],
  },
  shadowTexels: aboveZero('Most texels of all shadow maps together.', {
    unit: 'texels',
    default: 8 * 1024 * 1024,
  }),
  pipelines: word(
    'Whether a frame waits for its pipelines, or leaves out what is not ready.',
    ['wait', 'placeholder'],
    { default: 'wait' },
  ),
  uploadMilliseconds: positive(
    'Of a frame, in which geometries may be uploaded for the first time. Default: all at once.',
    { unit: 'milliseconds' },
  ),
  pipelineMilliseconds: positive('Of a frame, in which pipelines may be begun. Default: all at once.', {
    unit: 'milliseconds',
  }),
  treeMilliseconds: positive('Of a frame, for the clusters of large scenes.', {
    unit: 'milliseconds',
    default: 2,
  }),
  view: object('How `lens.view` begins.', VIEW_TABLE),
  look: object('How `lens.look` begins.', LOOK_TABLE),
  onMessage: callback('Hears what is likely to be wrong with the picture. Default: the console.'),
  backend: word('Which GPU interface is used. Left out: WebGPU where there is one.', ['webgpu', 'webgl2']),
  powerPreference: word("Which GPU, where a machine has two. Left out: the browser's choice.", [
    'low-power',
    'high-performance',
  ]),
  gpu: given('A WebGPU device of your own.'),
  onError: callback('Hears of what the GPU refuses. Default: the console.'),
};
