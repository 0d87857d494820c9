import {
  type AssetNode,
  box,
  cylinder,
  type Geometry,
  geometryFrom,
  type Material,
  type Mesh,
  sphere,
  torus,
  axisAngle,
  withSmoothNormals,
  type WritableAsset,
} from '@umber-lens/core/engine';

type Vec3 = [number, number, number];

const paint = (name: string, color: Vec3, roughnessFactor = 0.6): Material => ({
  name,
  baseColorFactor: [...color, 1],
  metallicFactor: 0,
  roughnessFactor,
});

const RED = paint('red paint', [0.42, 0.06, 0.04], 0.5);
const BLACK = paint('black paint', [0.03, 0.03, 0.035], 0.5);
const CREAM = paint('cream paint', [0.72, 0.64, 0.5]);
const DECK = paint('deck boards', [0.33, 0.22, 0.13], 0.85);
const RUBBER = paint('tyres', [0.02, 0.02, 0.02], 0.9);
const GLASS: Material = { ...paint('panes', [0.06, 0.1, 0.12], 0.15), metallicFactor: 0.2 };
const BRASS: Material = { ...paint('brass', [0.8, 0.56, 0.22], 0.3), metallicFactor: 1 };
/** It can be lit without the portholes. */
const LAMP: Material = { ...BRASS, name: 'lamp glass' };

/**
 * Cross-sections of the hull from stern to bow: place along Z, half breadth at the water and at the rail, and the
 * heights of keel and rail.
 */
const SECTIONS: [z: number, water: number, rail: number, keel: number, top: number][] = [
  [-3, 0.5, 0.85, -0.35, 0.78],
  [-2.6, 0.95, 1.15, -0.6, 0.74],
  [-1.5, 1.25, 1.35, -0.75, 0.7],
  [0, 1.32, 1.42, -0.78, 0.74],
  [1.3, 1.15, 1.38, -0.74, 0.86],
  [2.3, 0.72, 1.15, -0.62, 1.05],
  [2.9, 0.28, 0.68, -0.42, 1.22],
  [3.2, 0.03, 0.08, -0.1, 1.34],
];

/** One strip of the hull between two heights of every section: `low` and `high` give half breadth and height. */
function strip(
  low: (s: (typeof SECTIONS)[number]) => [number, number],
  high: (s: (typeof SECTIONS)[number]) => [number, number],
): Geometry {
  const position: number[] = [];
  const indices: number[] = [];
  for (const side of [1, -1]) {
    const first = position.length / 3;
    SECTIONS.forEach((section, i) => {
      for (const [x, y] of [low(section), high(section)]) position.push(side * x, y, section[0]);
      if (i === 0) return;
      const [a, b, c, d] = [0, 1, 2, 3].map((k) => first + (i - 1) * 2 + k) as [
        number,
        number,
        number,
        number,
      ];
      indices.push(...(side > 0 ? [a, b, d, a, d, c] : [a, d, b, a, c, d]));
    });
  }
  return geometryFrom({ position }, indices);
}

/** The flat end at the stern, and the deck. */
function lids(): { stern: Geometry; deck: Geometry } {
  const [z, water, rail, keel, top] = SECTIONS[0]!; // there are eight
  const stern = geometryFrom(
    { position: [-water, 0.1, z, water, 0.1, z, rail, top, z, -rail, top, z, 0, keel, z] },
    [0, 2, 1, 0, 3, 2, 0, 1, 4],
  );
  const position = SECTIONS.flatMap(([at, , breadth, , height]) => [
    -breadth + 0.05,
    height - 0.18,
    at,
    breadth - 0.05,
    height - 0.18,
    at,
  ]);
  const indices = SECTIONS.slice(1).flatMap((_, i) => {
    const a = i * 2;
    return [a, a + 2, a + 3, a, a + 3, a + 1];
  });
  return { stern, deck: geometryFrom({ position }, indices) };
}

/** The harbour's tug, ready to be written. It floats at y = 0 with its bow towards +Z. */
export function tug(): WritableAsset {
  const nodes: AssetNode[] = [];
  const add = (
    name: string,
    geometry: Geometry,
    material: Material,
    translation: Vec3 = [0, 0, 0],
    rotation?: [number, number, number, number],
  ): void => {
    const mesh: Mesh = { name, primitives: [{ geometry, material }] };
    nodes.push({ name, children: [], mesh, translation, ...(rotation ? { rotation } : {}) });
  };
  const smooth = (geometry: Geometry): Geometry => withSmoothNormals(geometry, 0.7);
  const { stern, deck } = lids();
  add(
    'hull below',
    smooth(
      strip(
        ([, w, , k]) => [w * 0.25, k],
        ([, w]) => [w, 0.1],
      ),
    ),
    RED,
  );
  add(
    'hull above',
    smooth(
      strip(
        ([, w]) => [w, 0.1],
        ([, , r, , t]) => [r, t],
      ),
    ),
    BLACK,
  );
  add(
    'rail',
    smooth(
      strip(
        ([, , r, , t]) => [r, t],
        ([, , r, , t]) => [Math.max(0, r - 0.1), t + 0.05],
      ),
    ),
    CREAM,
  );
  add(
    'bulwark',
    smooth(
      strip(
        ([, , r, , t]) => [Math.max(0, r - 0.1), t + 0.05],
        ([, , r, , t]) => [Math.max(0, r - 0.1), t - 0.2],
      ),
    ),
    CREAM,
  );
  add('stern', smooth(stern), BLACK);
  add('deck', smooth(deck), DECK);
  add('cabin', box({ width: 1.5, height: 0.9, depth: 2.1 }), CREAM, [0, 1, 0.1]);
  add('cabin roof', box({ width: 1.66, height: 0.08, depth: 2.26 }), RED, [0, 1.48, 0.1]);
  add('wheelhouse', box({ width: 1.15, height: 0.8, depth: 0.95 }), CREAM, [0, 1.9, 0.5]);
  add('wheelhouse roof', box({ width: 1.36, height: 0.09, depth: 1.2 }), RED, [0, 2.34, 0.54]);
  [-0.37, 0, 0.37].forEach((x, i) =>
    add(`front pane ${i + 1}`, box({ width: 0.3, height: 0.38, depth: 0.04 }), GLASS, [x, 2.02, 0.98]),
  );
  [-1, 1].forEach((side) => {
    add('side pane', box({ width: 0.04, height: 0.36, depth: 0.6 }), GLASS, [side * 0.58, 2.02, 0.5]);
    [-0.55, 0, 0.55].forEach((z) =>
      add(
        'porthole',
        torus({ radius: 0.13, tubeRadius: 0.025, rings: 24, sides: 10 }),
        BRASS,
        [side * 0.76, 1.08, z],
        axisAngle([0, 0, 1], Math.PI / 2),
      ),
    );
    [-2.2, -1.2, -0.2, 0.8, 1.7].forEach((z, i) => {
      const breadth = [1.22, 1.36, 1.4, 1.4, 1.3][i]!; // as many as places
      add(
        'tyre',
        torus({ radius: 0.23, tubeRadius: 0.09, rings: 24, sides: 12 }),
        RUBBER,
        [side * (breadth + 0.06), 0.42, z],
        axisAngle([0, 0, 1], Math.PI / 2),
      );
    });
  });
  add(
    'funnel',
    cylinder({ topRadius: 0.27, bottomRadius: 0.31, height: 1.1, slices: 28 }),
    RED,
    [0, 2, -0.62],
  );
  add(
    'funnel band',
    cylinder({ topRadius: 0.295, bottomRadius: 0.3, height: 0.2, slices: 28 }),
    CREAM,
    [0, 2.28, -0.62],
  );
  add(
    'funnel top',
    cylinder({ topRadius: 0.29, bottomRadius: 0.29, height: 0.14, slices: 28 }),
    BLACK,
    [0, 2.56, -0.62],
  );
  add(
    'mast',
    cylinder({ topRadius: 0.03, bottomRadius: 0.05, height: 1.4, slices: 10 }),
    CREAM,
    [0, 3.05, 0.35],
  );
  add('lamp', sphere({ radius: 0.09, slices: 16, stacks: 10 }), LAMP, [0, 3.78, 0.35]);
  add(
    'towing post',
    cylinder({ topRadius: 0.1, bottomRadius: 0.12, height: 0.5, slices: 16 }),
    BLACK,
    [0, 0.78, -1.9],
  );
  add('bow fender', sphere({ radius: 0.26, slices: 20, stacks: 12 }), RUBBER, [0, 0.75, 3.15]);
  return { nodes, scenes: [{ name: 'tug', nodes }], generator: 'Umber Lens demo assets' };
}
