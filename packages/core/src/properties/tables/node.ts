import { aboveZero, boolean, EXTRAS, given, NAME, object, positive, vector, whole, word } from '../define.js';
import type { Meant, Table } from '../property.js';
import { EFFECTS } from './effect.js';
import { LIGHT_TABLE } from './light.js';
import { MATERIAL_TABLE } from './material.js';

export const CAMERA_TABLE: Table = {
  type: word('Whether what is far looks small.', ['perspective', 'orthographic'], {
    isFixed: true,
  }),
  name: NAME,
  yfov: aboveZero('How much it sees from bottom to top.', {
    range: [0, Math.PI],
    unit: 'radians',
    only: ['perspective'],
    file: 'perspective/yfov',
  }),
  aspectRatio: aboveZero(
    'Width over height that its author had in mind; what is drawn follows the picture itself.',
    { only: ['perspective'], file: 'perspective/aspectRatio' },
  ),
  xmag: aboveZero('Half of the width that it sees.', {
    unit: 'metres',
    only: ['orthographic'],
    file: 'orthographic/xmag',
  }),
  ymag: aboveZero('Half of the height that it sees.', {
    unit: 'metres',
    only: ['orthographic'],
    file: 'orthographic/ymag',
  }),
  znear: positive('Nothing nearer is drawn.', { unit: 'metres', file: 'znear' }),
  zfar: aboveZero('Nothing farther is drawn. Left out, of a perspective: no limit.', {
    unit: 'metres',
    file: 'zfar',
  }),
  sees: whole('Bits of what it sees: nodes whose `visibleTo` has one of them.', {
    range: [0, 0xffffffff],
    default: 0xffffffff,
  }),
  nearPlane: vector(
    'In place of znear: a plane in the world, its normal towards what is seen, and its distance. What lies behind it is not drawn.',
    4,
  ),
  extras: EXTRAS,
};

export const CAMERA_MEANT: Meant = {
  fov: 'yfov (radians, vertical)',
  near: 'znear',
  far: 'zfar',
  aspect: 'nothing: the picture follows its own shape',
};

export const NODE_TABLE: Table = {
  name: NAME,
  parent: given('The node it hangs from. Left out: the scene itself.'),
  translation: vector('Where it is, in its parent.', 3, {
    unit: 'metres',
    default: [0, 0, 0],
    file: 'translation',
  }),
  rotation: vector('How it is turned, in its parent: a unit quaternion xyzw.', 4, {
    default: [0, 0, 0, 1],
    file: 'rotation',
  }),
  scale: vector('How large it is, along its own axes.', 3, { default: [1, 1, 1], file: 'scale' }),
  matrix: vector('In place of the three above: 4x4 by columns, the last row 0 0 0 1.', 16),
  visible: boolean('Whether it shows, with all that hangs from it.', {
    default: true,
    file: 'extensions/KHR_node_visibility/visible',
  }),
  castsShadow: boolean('Whether it throws shadows.', { default: true }),
  receivesShadow: boolean('Whether shadows fall on it.', { default: true }),
  visibleTo: given(
    'Bits of the cameras that see it and what is below it: those of their `sees`. Default all.',
  ),
  effects: EFFECTS,
  mesh: given('What it draws: a mesh, a primitive, or several.'),
  camera: object('A camera that stands there and looks along -Z.', CAMERA_TABLE),
  light: object('A light that stands there and shines along -Z.', LIGHT_TABLE),
  settings: object("Its own values for what its materials' shaders take by instance, by name."),
  extras: EXTRAS,
};

export const NODE_MEANT: Meant = {
  position: 'translation',
  geometry: 'mesh: { geometry, material }',
  material: 'mesh: { geometry, material }',
  quaternion: 'rotation (unit quaternion xyzw)',
  children: 'parent, at each child',
};

/** What a node draws. */
export const MESH_TABLE: Table = {
  name: NAME,
  primitives: given('Each a geometry with its material.'),
  weights: { line: 'Of the morph targets, for nodes that give none.', type: 'numbers', file: 'weights' },
  boundsMargin: positive('By which shaders move its vertices at most. Left out: what the compiler found.', {
    unit: 'metres',
  }),
  extras: EXTRAS,
};

export const PRIMITIVE_TABLE: Table = {
  geometry: given('Its vertices and triangles.'),
  material: object("What it is made of. Left out: glTF's default material.", MATERIAL_TABLE),
  overlays: given('Materials that it is drawn with once more, over the first, in order.'),
  variants: object('Materials by the name of a variant; see `setVariant`.'),
  standard: given('The material without a variant, where a variant is shown.'),
  kept: given('Extensions that are kept for others.'),
  extras: EXTRAS,
};
