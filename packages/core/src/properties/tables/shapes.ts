import { aboveZero, angle, boolean, given, number, positive, vector, whole, word } from '../define.js';
import type { Property, Table } from '../property.js';

const metres = (line: string, usual: number): Property => aboveZero(line, { unit: 'metres', default: usual });
const count = (line: string, least: number, usual?: number): Property =>
  whole(line, { range: [least, Infinity], ...(usual === undefined ? {} : { default: usual }) });
const capped = boolean('Whether its ends are closed.', { default: true });
const SLICES = count('Slices around the Y axis.', 3, 32);

/** What shapes take, by the function that makes them. */
export const SHAPE_TABLES = {
  plane: {
    width: metres('Along X.', 1),
    depth: metres('Along Z.', 1),
    cells: vector('Along X and along Z.', 2, {
      range: [1, Infinity],
      isWhole: true,
      default: [1, 1],
    }),
  },
  disc: {
    radius: metres('From the middle to the rim.', 0.5),
    innerRadius: positive('Of a hole in the middle, below `radius`.', { unit: 'metres', default: 0 }),
    slices: SLICES,
  },
  box: {
    width: metres('Along X.', 1),
    height: metres('Along Y.', 1),
    depth: metres('Along Z.', 1),
    cells: vector('Along X, Y and Z.', 3, {
      range: [1, Infinity],
      isWhole: true,
      default: [1, 1, 1],
    }),
  },
  sphere: {
    radius: metres('From the middle.', 0.5),
    slices: SLICES,
    stacks: count('From pole to pole.', 2, 16),
  },
  icosphere: {
    radius: metres('From the middle.', 0.5),
    subdivisions: whole('Times each triangle is cut in four: 20 triangles to 327,680.', {
      range: [0, 7],
      default: 3,
    }),
  },
  cylinder: {
    topRadius: positive('Of its top; one of the two may be 0.', { unit: 'metres', default: 0.5 }),
    bottomRadius: positive('Of its foot.', { unit: 'metres', default: 0.5 }),
    height: metres('Along Y.', 1),
    slices: SLICES,
    stacks: count('From end to end.', 1, 1),
    capped,
  },
  cone: {
    radius: metres('Of its foot.', 0.5),
    height: metres('Along Y.', 1),
    slices: SLICES,
    stacks: count('From foot to tip.', 1, 1),
    capped: boolean('Whether its foot is closed.', { default: true }),
  },
  capsule: {
    radius: metres('Of the round ends.', 0.25),
    height: positive('Of the straight part between them.', { unit: 'metres', default: 0.5 }),
    slices: SLICES,
    stacks: count('Of each round end.', 1, 8),
  },
  torus: {
    radius: metres('From the middle to the middle of the tube.', 0.4),
    tubeRadius: metres('Of the tube.', 0.15),
    rings: count('Of the tube along its way around the axis.', 3, 48),
    sides: count('Of the tube around itself.', 3, 16),
  },
  lathe: {
    profile: given('Outline as [radius, height] pairs from the bottom up, metres.'),
    slices: SLICES,
    creaseAngle: angle('Corners of the outline sharper than this stay sharp.', [0, Math.PI], {
      default: Math.PI / 6,
    }),
  },
  tube: {
    path: given('Points the middle line runs through, two or more, metres.'),
    radius: metres('Of the tube.', 0.05),
    closed: boolean('Whether the last point is joined to the first.', { default: false }),
    rings: count('Along the whole path. Default 8 for each of its points.', 1),
    sides: count('Around.', 3, 8),
    capped: boolean('Whether the ends of an open tube are closed.', { default: true }),
  },
  polyhedron: {
    kind: word('How many faces it has.', [
      'tetrahedron',
      'octahedron',
      'cube',
      'dodecahedron',
      'icosahedron',
    ]),
    radius: metres('From the middle to the corners.', 0.5),
  },
  convexHull: {
    points: given('Any points, four or more that are not in one plane, 4,096 at most.'),
  },
} as const satisfies Readonly<Record<string, Table>>;

/** What `new Swarm` takes. */
export const SWARM_TABLE: Table = {
  name: { line: 'Its name.', type: 'string', names: 'itself' },
  geometry: given('What is drawn of each instance. This, or `levels`, or `shapes`.'),
  levels: given('Levels of detail, nearest first, 4 at most.'),
  shapes: given('Several shapes, each with its levels; `shapeOf` says which instance has which.'),
  shapeOf: given('Number of its shape, by instance.'),
  material: { line: 'What it is made of.', type: 'object' },
  overlays: given('Materials that each instance is drawn with once more, over its own, in order.'),
  transforms: given('Where the instances stand.'),
  colors: given("4 an instance: linear RGBA, by which the vertices' color is multiplied."),
  settings: {
    line: "Values for what the material's shader takes by instance, by name, flat.",
    type: 'object',
  },
  share: number('Of the instances that are drawn.', { range: [0, 1], default: 1, isFixed: false }),
  density: {
    line: 'Leaves out some where they are small.',
    type: 'object',
    of: {
      minPixels: aboveZero('Below so many of its height some are left out.', { unit: 'pixels' }),
      minShare: number('Share that is always drawn.', { range: [0, 1], default: 0.05 }),
      grow: number('How much wider the others become: 1 makes up for all that is left out.', {
        range: [0, 1],
        default: 0.5,
      }),
    },
  },
  boundsMargin: positive('By which shaders move vertices at most. Left out: what the compiler found.', {
    unit: 'metres',
  }),
  seed: number('What the order of thinning is drawn from.', { default: 1 }),
  weights: given('Of the morph targets.'),
  extras: given("Data of the user's own."),
};

/** One level of one shape of a swarm. */
export const SWARM_LEVEL_TABLE: Table = {
  geometry: given('What is drawn.'),
  material: { line: 'What it is made of.', type: 'object' },
  overlays: given('Materials over it, in order. Left out: those of the swarm.'),
  minPixels: positive('It is drawn where it is this high on the screen, or higher.', { unit: 'pixels' }),
  extras: given("Data of the user's own."),
  variants: given('Materials by the name of a variant.'),
  kept: given('Extensions that are kept for others.'),
  targets: given('Morph targets.'),
};
