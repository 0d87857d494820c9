import type { NodeSpec } from './history/edit.js';

/** A material to begin with, warm and matt. */
const PLAIN = { baseColorFactor: [0.62, 0.55, 0.46, 1], metallicFactor: 0, roughnessFactor: 0.7 };

const shape =
  (name: string, options: object = {}) =>
  (): NodeSpec => ({ name, mesh: { shape: name, ...options, material: { ...PLAIN } } as never });

/** Turned down a little, and aside. */
const DOWN = [-60, 30, 0];

/** What can be added, by what it is called. */
export const NEW_NODES = {
  'empty node': (): NodeSpec => ({ name: 'node' }),
  box: shape('box'),
  sphere: shape('sphere'),
  icosphere: shape('icosphere'),
  cylinder: shape('cylinder'),
  cone: shape('cone'),
  capsule: shape('capsule'),
  torus: shape('torus'),
  plane: shape('plane', { width: 4, depth: 4 }),
  disc: shape('disc'),
  'point light': (): NodeSpec => ({
    name: 'point light',
    light: { type: 'point', intensity: 40, range: 10 },
  }),
  'spot light': (): NodeSpec => ({
    name: 'spot light',
    degrees: [-90, 0, 0],
    light: { type: 'spot', intensity: 200, range: 12, innerConeAngle: 0.35, outerConeAngle: 0.6 },
  }),
  'directional light': (): NodeSpec => ({
    name: 'directional light',
    degrees: DOWN,
    light: { type: 'directional', intensity: 3 },
  }),
  'area light': (): NodeSpec => ({
    name: 'area light',
    degrees: [-90, 0, 0],
    light: { type: 'area', intensity: 60, size: [1, 1] },
  }),
  'ambient light': (): NodeSpec => ({ name: 'ambient light', light: { type: 'ambient', intensity: 0.3 } }),
  'hemisphere light': (): NodeSpec => ({
    name: 'hemisphere light',
    light: { type: 'hemisphere', intensity: 0.6, groundColor: [0.3, 0.25, 0.2] },
  }),
  camera: (): NodeSpec => ({ name: 'camera', camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } }),
} as const satisfies Readonly<Record<string, () => NodeSpec>>;

export type NewNode = keyof typeof NEW_NODES;
