import type { Meant, Property, Table } from './property.js';

const number = (range?: Property['range'], more: Partial<Property> = {}): Property => ({
  type: 'number',
  ...(range ? { range } : {}),
  ...more,
});
const FROM_0: Property['range'] = [0, Infinity];
const SHARE = number([0, 1]);
const numbers = (length: number, range?: Property['range'], more: Partial<Property> = {}): Property => ({
  type: 'numbers',
  length,
  ...(range ? { range } : {}),
  ...more,
});
const color = (length = 3): Property => numbers(length, [0, 1], { unit: 'linear color' });
/** Light may be brighter than white. */
const radiance = (length = 3): Property => numbers(length, FROM_0, { unit: 'linear color' });
const word = (...words: string[]): Property => ({ type: 'word', words });
const BOOLEAN: Property = { type: 'boolean' };
const STRING: Property = { type: 'string' };
const GIVEN: Property = { type: 'given' };
const FUNCTION: Property = { type: 'function' };
const TEXTURE: Property = { type: 'texture' };
const radians = (min: number, max: number): Property => number([min, max], { unit: 'radians' });

/** glTF 2.0 and the ratified extensions of materials, with what is our own. */
export const MATERIAL_TABLE: Table = {
  name: STRING,
  baseColorFactor: numbers(4, [0, Infinity], { unit: 'linear color' }),
  baseColorTexture: TEXTURE,
  metallicFactor: SHARE,
  roughnessFactor: SHARE,
  metallicRoughnessTexture: TEXTURE,
  normalTexture: TEXTURE,
  occlusionTexture: TEXTURE,
  emissiveFactor: radiance(),
  emissiveStrength: number(FROM_0),
  emissiveTexture: TEXTURE,
  alphaMode: word('opaque', 'mask', 'blend'),
  alphaCutoff: number(FROM_0),
  doubleSided: BOOLEAN,
  batch: BOOLEAN,
  clearcoatFactor: SHARE,
  clearcoatTexture: TEXTURE,
  clearcoatRoughnessFactor: SHARE,
  clearcoatRoughnessTexture: TEXTURE,
  clearcoatNormalTexture: TEXTURE,
  sheenColorFactor: radiance(),
  sheenColorTexture: TEXTURE,
  sheenRoughnessFactor: SHARE,
  sheenRoughnessTexture: TEXTURE,
  specularFactor: number(FROM_0),
  specularTexture: TEXTURE,
  specularColorFactor: radiance(),
  specularColorTexture: TEXTURE,
  glossinessFactor: SHARE,
  ior: number(FROM_0),
  transmissionFactor: SHARE,
  transmissionTexture: TEXTURE,
  thicknessFactor: number(FROM_0),
  thicknessTexture: TEXTURE,
  attenuationDistance: number(FROM_0),
  attenuationColor: color(),
  dispersion: number(FROM_0),
  iridescenceFactor: SHARE,
  iridescenceTexture: TEXTURE,
  iridescenceIor: number([1, Infinity]),
  iridescenceThicknessMinimum: number(FROM_0),
  iridescenceThicknessMaximum: number(FROM_0),
  iridescenceThicknessTexture: TEXTURE,
  anisotropyStrength: SHARE,
  anisotropyRotation: number(),
  anisotropyTexture: TEXTURE,
  diffuseTransmissionFactor: SHARE,
  diffuseTransmissionTexture: TEXTURE,
  diffuseTransmissionColorFactor: color(),
  diffuseTransmissionColorTexture: TEXTURE,
  unlit: BOOLEAN,
  shader: GIVEN,
  settings: { type: 'object' },
  kept: GIVEN,
  extras: GIVEN,
};

/** Words of the trade for what glTF calls otherwise. */
export const MATERIAL_MEANT: Meant = {
  color: 'baseColorFactor (linear RGBA)',
  colour: 'baseColorFactor (linear RGBA)',
  albedo: 'baseColorFactor (linear RGBA)',
  diffuse: 'baseColorFactor (linear RGBA)',
  texture: 'baseColorTexture: { texture }',
  image: 'baseColorTexture: { texture }',
  roughness: 'roughnessFactor',
  metallic: 'metallicFactor',
  metalness: 'metallicFactor',
  emissive: 'emissiveFactor',
  opacity: "the fourth number of baseColorFactor, with alphaMode: 'blend'",
  alpha: "the fourth number of baseColorFactor, with alphaMode: 'blend'",
  transparent: "alphaMode: 'blend'",
  uniforms: 'settings',
};

export const SHADOW_TABLE: Table = {
  distance: number([0, Infinity], { isOpen: true, unit: 'metres' }),
  cascades: number([1, 4]),
  near: number([0, Infinity], { isOpen: true, unit: 'metres' }),
  bias: number(FROM_0),
};

/** KHR_lights_punctual, with lights of an extent and from all around. */
export const LIGHT_TABLE: Table = {
  type: word('directional', 'point', 'spot', 'area', 'ambient', 'hemisphere'),
  name: STRING,
  color: radiance(),
  intensity: number(FROM_0),
  range: number([0, Infinity], { isOpen: true, unit: 'metres' }),
  radius: number(FROM_0),
  angle: radians(0, Math.PI / 2),
  shadow: { type: 'object', of: SHADOW_TABLE, or: ['boolean'] },
  innerConeAngle: radians(0, Math.PI / 2),
  outerConeAngle: radians(0, Math.PI / 2),
  groundColor: radiance(),
  shape: word('rectangle', 'disc'),
  size: numbers(2, [0, Infinity], { isOpen: true, unit: 'metres' }),
  extras: GIVEN,
};

export const CAMERA_TABLE: Table = {
  type: word('perspective', 'orthographic'),
  name: STRING,
  yfov: number([0, Math.PI], { isOpen: true, unit: 'radians' }),
  aspectRatio: number([0, Infinity], { isOpen: true }),
  xmag: number([0, Infinity], { isOpen: true, unit: 'metres' }),
  ymag: number([0, Infinity], { isOpen: true, unit: 'metres' }),
  znear: number(FROM_0),
  zfar: number([0, Infinity], { isOpen: true }),
  extras: GIVEN,
};

export const CAMERA_MEANT: Meant = {
  fov: 'yfov (radians, vertical)',
  near: 'znear',
  far: 'zfar',
  aspect: 'nothing: the picture follows its own shape',
};

export const FOG_TABLE: Table = {
  type: word('linear', 'exponential', 'squared'),
  color: { ...radiance(), or: ['string'] },
  near: number(FROM_0),
  far: number([0, Infinity], { isOpen: true }),
  density: number(FROM_0),
  height: { type: 'object', of: { base: number(), falloff: number([0, Infinity], { isOpen: true }) } },
  overBackdrop: SHARE,
};

export const IMAGE_LIGHT_TABLE: Table = {
  panorama: { type: 'object' },
  intensity: number(FROM_0),
  rotation: number(),
};

export const CLEAR_COLOR_TABLE: Table = {
  clearColor: numbers(4, FROM_0, { unit: 'linear color' }),
};

export const BACKDROP_TABLE: Table = {
  panorama: { type: 'object' },
  blur: SHARE,
  intensity: number(FROM_0),
  rotation: number(),
};

export const LOOK_TABLE: Table = {
  exposure: number([-64, 64]),
  toneMapping: word('soft', 'none', 'reinhard', 'aces', 'agx', 'neutral'),
  whiteBalance: number([1667, 25000]),
  automaticExposure: {
    type: 'object',
    or: ['boolean'],
    of: {
      brightness: number([0, Infinity], { isOpen: true }),
      min: number(),
      max: number(),
      halfLife: number(FROM_0),
    },
  },
  transparency: word('sorted', 'peeled'),
  contrast: number(FROM_0),
  saturation: number(FROM_0),
  vignette: {
    type: 'object',
    of: {
      size: number(FROM_0),
      softness: number(FROM_0),
      roundness: SHARE,
      color: color(),
      weight: SHARE,
    },
  },
};

export const NODE_TABLE: Table = {
  name: STRING,
  parent: GIVEN,
  translation: numbers(3),
  rotation: numbers(4),
  scale: numbers(3),
  matrix: numbers(16),
  visible: BOOLEAN,
  castsShadow: BOOLEAN,
  receivesShadow: BOOLEAN,
  mesh: { type: 'given' },
  camera: { type: 'object', of: CAMERA_TABLE },
  light: { type: 'object' },
  settings: { type: 'object' },
  extras: GIVEN,
};

export const NODE_MEANT: Meant = {
  position: 'translation',
  geometry: 'mesh: { geometry, material }',
  material: 'mesh: { geometry, material }',
  quaternion: 'rotation (unit quaternion xyzw)',
  children: 'parent, at each child',
};

export const CULLING_TABLE: Table = { occlusion: BOOLEAN, gpu: BOOLEAN, clusters: BOOLEAN };

/** `lens.view`. */
export const VIEW_TABLE: Table = {
  renderPath: word('forward', 'prepass', 'deferred'),
  show: STRING,
  minPixels: number(FROM_0),
  onDemand: BOOLEAN,
  culling: { type: 'object', of: CULLING_TABLE },
};

/** What `openLens` takes. */
export const LENS_TABLE: Table = {
  antialias: BOOLEAN,
  pixelRatio: number([0, Infinity], { isOpen: true }),
  maxPixelRatio: number([0, Infinity], { isOpen: true }),
  dynamicResolution: { type: 'object', or: ['boolean'] },
  shadowTexels: number([0, Infinity], { isOpen: true }),
  pipelines: word('wait', 'placeholder'),
  uploadMilliseconds: number(FROM_0),
  pipelineMilliseconds: number(FROM_0),
  treeMilliseconds: number(FROM_0),
  view: { type: 'object', of: VIEW_TABLE },
  look: { type: 'object', of: LOOK_TABLE },
  onMessage: FUNCTION,
  backend: word('webgpu', 'webgl2'),
  powerPreference: word('low-power', 'high-performance'),
  gpu: GIVEN,
  onError: FUNCTION,
};

const RIG: Table = {
  keyboard: BOOLEAN,
  keySpeed: number(FROM_0),
  label: STRING,
  resting: BOOLEAN,
  keys: { type: 'object' },
};
const TURN_SPEED = radians(-2 * Math.PI, 2 * Math.PI);
const FREE_LOOK: Table = {
  ...RIG,
  look: word('drag', 'lock'),
  turnSpeed: TURN_SPEED,
  speed: number(FROM_0),
  boost: number(FROM_0),
  halfLife: number(FROM_0),
};
const ABOVE_0 = number([0, Infinity], { isOpen: true });

/** What rigs and pointer events take, by the function that makes them. */
export const RIG_TABLES: Readonly<Record<string, Table>> = {
  orbitRig: {
    ...RIG,
    target: numbers(3),
    distanceRange: numbers(2, FROM_0, { unit: 'metres' }),
    elevationRange: numbers(2, [-Math.PI / 2, Math.PI / 2], { unit: 'radians' }),
    halfLife: number(FROM_0),
    turnSpeed: TURN_SPEED,
  },
  planRig: {
    ...RIG,
    side: STRING,
    target: numbers(3),
    height: ABOVE_0,
    heightRange: numbers(2, FROM_0, { unit: 'metres' }),
    distance: ABOVE_0,
    halfLife: number(FROM_0),
  },
  flyRig: FREE_LOOK,
  walkRig: {
    ...FREE_LOOK,
    height: ABOVE_0,
    radius: number(FROM_0),
    step: number(FROM_0),
    slope: radians(0, Math.PI / 2),
    gravity: number(FROM_0),
    jump: number(FROM_0),
    filter: FUNCTION,
  },
  followRig: {
    ...RIG,
    offset: numbers(3),
    lookAt: numbers(3),
    turns: BOOLEAN,
    halfLife: number(FROM_0),
    staysInSight: BOOLEAN,
    element: GIVEN,
  },
  pathRig: { ...RIG, speed: number(), lookAt: GIVEN, repeats: BOOLEAN, element: GIVEN },
  pointerEvents: { filter: FUNCTION, tolerance: number(FROM_0) },
};

/** Words of the trade for what rigs call otherwise. */
export const RIG_MEANT: Meant = {
  minDistance: 'distanceRange: [min, max]',
  maxDistance: 'distanceRange: [min, max]',
  minElevation: 'elevationRange: [min, max]',
  maxElevation: 'elevationRange: [min, max]',
  minHeight: 'heightRange: [min, max]',
  maxHeight: 'heightRange: [min, max]',
  inertia: 'halfLife (seconds)',
  damping: 'halfLife (seconds)',
  fov: "yfov of the camera node's camera",
};
