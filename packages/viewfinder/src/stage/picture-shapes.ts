import { box, type Geometry, geometryFrom, type Model, plane, Scene, sphere } from 'umber-lens';

/** What pictures of nodes may be on: shapes, what is chosen in the scene, and a model out of a file. */
export const PICTURE_SHAPES = ['ball', 'cube', 'plane', 'cloth', 'chosen', 'model'] as const;
export type PictureShape = (typeof PICTURE_SHAPES)[number];

/** What a picture is of: geometries, each where it stands in all of it. */
export interface ShapeParts {
  parts: readonly { geometry: Geometry; matrix?: Float64Array }[];
  rotation: readonly [number, number, number, number];
  /** What is moved into the middle of a picture, and what all of it is scaled by then. */
  middle: readonly [number, number, number];
  scale: number;
}

/** Squares of a cloth along a side. */
const FOLDS = 24;
/** Of what does not fill its picture by itself: as large as a ball is. */
const RADIUS = 0.94;

/** A square that hangs in folds, as a height over X and Z. */
function cloth(): Geometry {
  const [position, normal, texcoord0, indices]: [number[], number[], number[], number[]] = [[], [], [], []];
  for (let row = 0; row <= FOLDS; row++)
    for (let column = 0; column <= FOLDS; column++) {
      const [u, v] = [column / FOLDS, row / FOLDS];
      const [x, z] = [1.8 * u - 0.9, 1.8 * v - 0.9];
      const [a, b] = [5 * x + 1.5 * z, 3 * z - 2 * x];
      position.push(x, 0.1 * Math.sin(a) + 0.06 * Math.sin(b), z);
      const [dx, dz] = [0.5 * Math.cos(a) - 0.12 * Math.cos(b), 0.15 * Math.cos(a) + 0.18 * Math.cos(b)];
      const length = Math.hypot(dx, 1, dz);
      normal.push(-dx / length, 1 / length, -dz / length);
      texcoord0.push(u, v);
      if (row === FOLDS || column === FOLDS) continue;
      const at = row * (FOLDS + 1) + column;
      const below = at + FOLDS + 1;
      indices.push(at, below, at + 1, at + 1, below, below + 1);
    }
  return geometryFrom({ position, normal, texcoord0 }, indices);
}

const UPRIGHT = [Math.SQRT1_2, 0, 0, Math.SQRT1_2] as const;
const FROM_THE_SIDE = [0.0923, -0.3823, 0.0386, 0.9186] as const;
const SHAPES: Readonly<
  Record<
    Exclude<PictureShape, 'chosen' | 'model'>,
    { make: () => Geometry; rotation: ShapeParts['rotation'] }
  >
> = {
  ball: { make: () => sphere({ radius: RADIUS }), rotation: [0, 0, 0, 1] },
  cube: {
    make: () => box({ width: 1.15, height: 1.15, depth: 1.15 }),
    rotation: [0.2706, -0.3536, 0.1121, 0.8883],
  },
  plane: { make: () => plane({ width: 1.8, depth: 1.8 }), rotation: UPRIGHT },
  cloth: { make: cloth, rotation: UPRIGHT },
};

/** A shape by its name. */
export function shapeCalled(name: Exclude<PictureShape, 'chosen' | 'model'>): ShapeParts {
  const { make, rotation } = SHAPES[name];
  return { parts: [{ geometry: make() }], rotation, middle: [0, 0, 0], scale: 1 };
}

/** A geometry by itself: what bends or copies it belongs to nodes of a scene. */
export function shapeOf(geometry: Geometry): ShapeParts {
  const { placement, targets, ...plain } = geometry;
  return fitted([{ geometry: placement || targets ? plain : geometry }]);
}

/** A model with all that it shows, as it stands there. @throws Error where it shows nothing */
export function shapeOfModel(model: Model): ShapeParts {
  const scene = new Scene();
  model.placeIn(scene);
  scene.update();
  const parts = [...scene.meshes].flatMap(([node, { primitives }]) =>
    primitives.map(({ geometry }) => {
      const { placement: _placement, targets: _targets, ...plain } = geometry;
      return { geometry: plain, matrix: node.readWorldMatrix(new Float64Array(16)) };
    }),
  );
  if (parts.length === 0) throw new Error('the model shows nothing');
  return fitted(parts);
}

/** How parts fill a picture together. */
function fitted(parts: ShapeParts['parts']): ShapeParts {
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  for (const { geometry, matrix: m } of parts) {
    const { max, min } = geometry.bounds;
    for (let corner = 0; corner < 8; corner++) {
      const at = [0, 1, 2].map((k) => ((corner >> k) & 1 ? max : min)[k]!); // three each, here and below
      for (let k = 0; k < 3; k++) {
        const place = m ? m[k]! * at[0]! + m[4 + k]! * at[1]! + m[8 + k]! * at[2]! + m[12 + k]! : at[k]!; // sixteen
        least[k] = Math.min(least[k]!, place);
        most[k] = Math.max(most[k]!, place);
      }
    }
  }
  const middle = least.map((low, k) => (low + most[k]!) / 2) as [number, number, number];
  const radius = Math.hypot(...least.map((low, k) => (most[k]! - low) / 2));
  return { parts, rotation: FROM_THE_SIDE, middle, scale: RADIUS / Math.max(1e-6, radius) };
}
