import type { Property, Table } from '@umber-lens/core/engine';

const BOOLEAN: Property = { type: 'boolean' };
const GIVEN: Property = { type: 'given' };
const KEYS: Property = { type: 'object' };
const ABOVE_0: Property = { type: 'number', range: [0, Infinity], isOpen: true };
const FROM_0: Property = { type: 'number', range: [0, Infinity] };
const PLACE: Property = { type: 'numbers', length: 3 };
const RANGE: Property = { type: 'numbers', length: 2 };
const ANGLE: Property = { type: 'number', range: [-2 * Math.PI, 2 * Math.PI], unit: 'radians' };

const RIG: Table = {
  keyboard: BOOLEAN,
  keySpeed: FROM_0,
  label: { type: 'string' },
  resting: BOOLEAN,
  keys: KEYS,
};
const FREE_LOOK: Table = {
  ...RIG,
  look: { type: 'word', words: ['drag', 'lock'] },
  turnSpeed: ANGLE,
  speed: FROM_0,
  boost: FROM_0,
  halfLife: FROM_0,
};

/** What `orbitRig` takes. */
export const ORBIT_RIG_TABLE: Table = {
  ...RIG,
  target: PLACE,
  distanceRange: { ...RANGE, range: [0, Infinity], unit: 'metres' },
  elevationRange: { ...RANGE, range: [-Math.PI / 2, Math.PI / 2], unit: 'radians' },
  halfLife: FROM_0,
  turnSpeed: ANGLE,
};

export const PLAN_RIG_TABLE: Table = {
  ...RIG,
  side: { type: 'string' },
  target: PLACE,
  height: ABOVE_0,
  heightRange: { ...RANGE, range: [0, Infinity], unit: 'metres' },
  distance: ABOVE_0,
  halfLife: FROM_0,
};

export const FLY_RIG_TABLE: Table = FREE_LOOK;

export const WALK_RIG_TABLE: Table = {
  ...FREE_LOOK,
  height: ABOVE_0,
  radius: FROM_0,
  step: FROM_0,
  slope: { type: 'number', range: [0, Math.PI / 2], unit: 'radians' },
  gravity: FROM_0,
  jump: FROM_0,
  filter: { type: 'function' },
};

export const FOLLOW_RIG_TABLE: Table = {
  ...RIG,
  offset: PLACE,
  lookAt: PLACE,
  turns: BOOLEAN,
  halfLife: FROM_0,
  staysInSight: BOOLEAN,
  element: GIVEN,
};

export const PATH_RIG_TABLE: Table = {
  ...RIG,
  speed: { type: 'number' },
  lookAt: GIVEN,
  repeats: BOOLEAN,
  element: GIVEN,
};

export const POINTER_EVENTS_TABLE: Table = { filter: { type: 'function' }, tolerance: FROM_0 };

/** Words of the trade for what rigs call otherwise. */
export const RIG_MEANT = {
  minDistance: 'distanceRange: [min, max]',
  maxDistance: 'distanceRange: [min, max]',
  minElevation: 'elevationRange: [min, max]',
  maxElevation: 'elevationRange: [min, max]',
  minHeight: 'heightRange: [min, max]',
  maxHeight: 'heightRange: [min, max]',
  inertia: 'halfLife (seconds)',
  damping: 'halfLife (seconds)',
  fov: "yfov of the camera node's camera",
} as const;
