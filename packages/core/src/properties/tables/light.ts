import {
  given,
  aboveZero,
  angle,
  EXTRAS,
  NAME,
  number,
  object,
  positive,
  radiance,
  share,
  vector,
  whole,
  word,
} from '../define.js';
import type { Meant, Table } from '../property.js';

export const SHADOW_TABLE: Table = {
  distance: aboveZero(
    'Directional lights: from the camera, up to which there are shadows. Left out: as far as the scene reaches.',
    { unit: 'metres' },
  ),
  cascades: whole('Directional lights: how many maps share that distance, 1 to 4.', {
    range: [1, 4],
    default: 3,
  }),
  near: aboveZero('Point and spot lights: nothing nearer to the light throws shadows.', {
    unit: 'metres',
    default: 0.05,
  }),
  bias: positive('Factor on the distance by which surfaces are lifted out of their own shadow.', {
    default: 1,
  }),
};

const THROWS = ['directional', 'point', 'spot', 'area'];

/** KHR_lights_punctual, with lights of an extent and from all around. */
export const LIGHT_TABLE: Table = {
  type: word(
    'Where its light comes from. All but `ambient` and `hemisphere` stand at their node; `directional`, `spot` and `area` shine along its -Z.',
    ['directional', 'point', 'spot', 'area', 'ambient', 'hemisphere'],
    { isFixed: true },
  ),
  name: NAME,
  color: radiance('Its color.', { default: [1, 1, 1], file: 'color' }),
  intensity: positive('How bright it is.', {
    unit: {
      directional: 'lux',
      point: 'candela',
      spot: 'candela',
      area: 'candela / metre²',
      ambient: 'lux',
      hemisphere: 'lux',
    },
    default: 1,
    file: 'intensity',
  }),
  range: aboveZero('Beyond which there is no light. Left out: no limit.', {
    unit: 'metres',
    only: ['point', 'spot'],
    file: 'range',
  }),
  radius: positive('From its middle to its rim: the edges of its shadows are as soft as that.', {
    unit: 'metres',
    only: ['point', 'spot'],
    default: 0,
  }),
  angle: angle('How wide it looks, for soft edges of shadows. The sun: 0.0093.', [0, Math.PI / 2], {
    only: ['directional'],
    default: 0,
  }),
  shadow: {
    ...object('Whether it throws shadows, and how.', SHADOW_TABLE, { only: THROWS, default: false }),
    or: ['boolean'],
  },
  innerConeAngle: angle('From the axis to where the light begins to fade.', [0, Math.PI / 2], {
    only: ['spot'],
    default: 0,
    file: 'spot/innerConeAngle',
  }),
  outerConeAngle: angle('From the axis to where the light ends.', [0, Math.PI / 2], {
    only: ['spot'],
    default: Math.PI / 4,
    file: 'spot/outerConeAngle',
  }),
  groundColor: radiance('Color of its light from below.', { only: ['hemisphere'], default: [0, 0, 0] }),
  shape: word('What shines.', ['rectangle', 'disc'], { only: ['area'], default: 'rectangle' }),
  size: vector("Along the node's X and Y.", 2, {
    unit: 'metres',
    range: [0, Infinity],
    isOpen: true,
    only: ['area'],
    default: [1, 1],
  }),
  sees: whole('Bits of what it lights: nodes whose `visibleTo` has one of them.', {
    range: [0, 0xffffffff],
    default: 0xffffffff,
    only: ['directional', 'point', 'spot', 'area'],
  }),
  extras: EXTRAS,
};

/** Words of the trade for what lights call otherwise. */
export const LIGHT_MEANT: Meant = {
  castsShadow: 'shadow: true',
  castShadow: 'shadow: true',
  power: 'intensity (candela of a point light: lumen / (4 pi))',
  distance: 'range (metres)',
  skyColor: 'color',
  penumbra: 'innerConeAngle and outerConeAngle (radians)',
  width: 'size: [width, height] (metres)',
  height: 'size: [width, height] (metres)',
};

const panorama = object('Radiance by direction, of `loadEnvironment` or `skyPanorama`.');
const rotation = number('About the Y axis.', { unit: 'radians', default: 0 });
const intensity = positive('Factor on its light.', { default: 1 });

export const IMAGE_LIGHT_TABLE: Table = { panorama, intensity, rotation };

export const BACKDROP_TABLE: Table = {
  panorama,
  blur: share('0 is sharp, 1 as soft as light on something matt.', { default: 0 }),
  intensity,
  rotation,
};

export const FOG_TABLE: Table = {
  type: word('How it grows with distance: from `near` to `far`, by `density`, or by its square.', [
    'linear',
    'exponential',
    'squared',
  ]),
  color: {
    ...radiance("Color of the air, before exposure; 'sky' takes it from the image light."),
    or: ['string'],
  },
  near: positive('Where it begins.', { unit: 'metres', only: ['linear'], default: 1 }),
  far: aboveZero('Where nothing else is seen.', { unit: 'metres', only: ['linear'], default: 100 }),
  density: positive('How thick it is.', {
    unit: '1 / metre',
    only: ['exponential', 'squared'],
    default: 0.02,
  }),
  height: object(
    'Where it lies low: it thins out above a height. Left out: the same everywhere.',
    {
      base: number('From this height on it thins out.', { unit: 'metres' }),
      falloff: aboveZero('By a factor of e each so many.', { unit: 'metres' }),
    },
    { only: ['exponential'] },
  ),
  overBackdrop: share("How much of it lies before the backdrop. Default 0 with 'sky', else 1."),
};

export const CLIPPING_TABLE: Table = {
  planes: given('Up to six planes of the world, each [x, y, z, w]: what is behind one is cut away.'),
  node: object('Only this node is cut, with all below it. Left out: everything.'),
};

/** Members of a scene that say what is around its nodes. */
export const SCENE_TABLE: Table = {
  name: NAME,
  clearColor: vector('What is seen where nothing is drawn, shown as given, whatever the exposure.', 4, {
    range: [0, Infinity],
    color: 'linear',
    default: [0, 0, 0, 0],
  }),
  backdrop: object('A panorama in front of the clear color.', BACKDROP_TABLE),
  imageLight: object('Light from all around, by an image.', IMAGE_LIGHT_TABLE),
  fog: object('Air between the camera and things.', FOG_TABLE),
  clipping: object('Planes that cut things open.', CLIPPING_TABLE),
};
