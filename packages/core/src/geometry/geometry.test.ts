import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import {
  asTriangles,
  attributeFloats,
  box,
  capsule,
  cone,
  convexHull,
  cylinder,
  disc,
  eachTriangle,
  type Geometry,
  geometryFrom,
  icosphere,
  lathe,
  plane,
  polyhedron,
  sphere,
  torus,
  tube,
  triangleCount,
  vertexCount,
  withFlatNormals,
  withSmoothNormals,
  withTangents,
} from '../engine.js';

interface Measures {
  volume: number;
  area: number;
  /** Corners whose normal points away from the side their triangle winds on. */
  wrongNormals: number;
  /** Edges that do not meet exactly one other edge of the opposite direction, by position. */
  openEdges: number;
}

/** Volume by the divergence theorem, area, and how well faces, normals and edges fit together. */
function measure(geometry: Geometry): Measures {
  const p = attributeFloats(geometry.attributes['position']!);
  const n = attributeFloats(geometry.attributes['normal']!);
  const at = (i: number): number[] => [p[i * 3]!, p[i * 3 + 1]!, p[i * 3 + 2]!];
  const key = (i: number): string =>
    at(i)
      .map((v) => Math.round(v * 1e5) + 0)
      .join();
  const edges = new Map<string, number>();
  let [volume, area, wrongNormals] = [0, 0, 0];
  eachTriangle(geometry, (a, b, c) => {
    const [A, B, C] = [at(a), at(b), at(c)];
    const [u, v] = [B.map((x, k) => x - A[k]!), C.map((x, k) => x - A[k]!)];
    const normal = [
      u[1]! * v[2]! - u[2]! * v[1]!,
      u[2]! * v[0]! - u[0]! * v[2]!,
      u[0]! * v[1]! - u[1]! * v[0]!,
    ];
    area += Math.hypot(...normal) / 2;
    volume += normal.reduce((sum, x, k) => sum + x * A[k]!, 0) / 6;
    for (const i of [a, b, c]) {
      if (normal.reduce((sum, x, k) => sum + x * n[i * 3 + k]!, 0) <= 0) wrongNormals++;
    }
    for (const [from, to] of [
      [a, b],
      [b, c],
      [c, a],
    ] as const) {
      const back = `${key(to)} ${key(from)}`;
      if (edges.get(back)) edges.set(back, edges.get(back)! - 1);
      else edges.set(`${key(from)} ${key(to)}`, (edges.get(`${key(from)} ${key(to)}`) ?? 0) + 1);
    }
  });
  return { volume, area, wrongNormals, openEdges: [...edges.values()].filter(Boolean).length };
}

/** Closed shapes with the volume that solid geometry gives them, and how near a fine mesh must come. */
const SOLIDS: [string, Geometry, number, number][] = [
  ['box', box({ width: 2, height: 3, depth: 4, cells: [2, 3, 1] }), 24, 1e-6],
  ['sphere', sphere({ radius: 1, slices: 96, stacks: 48 }), (4 / 3) * Math.PI, 0.005],
  ['icosphere', icosphere({ radius: 1, subdivisions: 5 }), (4 / 3) * Math.PI, 0.005],
  ['cylinder', cylinder({ topRadius: 1, bottomRadius: 1, height: 2, slices: 128 }), 2 * Math.PI, 0.001],
  [
    'cut cone',
    cylinder({ topRadius: 1, bottomRadius: 2, height: 3, slices: 128, stacks: 3 }),
    7 * Math.PI,
    0.001,
  ],
  ['cone', cone({ radius: 1, height: 3, slices: 128 }), Math.PI, 0.001],
  [
    'capsule',
    capsule({ radius: 1, height: 2, slices: 128, stacks: 32 }),
    2 * Math.PI + (4 / 3) * Math.PI,
    0.002,
  ],
  ['torus', torus({ radius: 2, tubeRadius: 0.5, rings: 128, sides: 64 }), 2 * Math.PI ** 2 * 2 * 0.25, 0.003],
  [
    'lathe',
    lathe({
      profile: [
        [0, 0],
        [1, 0],
        [1, 2],
        [0, 2],
      ],
      slices: 128,
    }),
    2 * Math.PI,
    0.001,
  ],
  [
    'tube',
    tube({
      path: [
        [0, 0, 0],
        [0, 0, 4],
      ],
      radius: 0.5,
      sides: 96,
    }),
    Math.PI,
    0.002,
  ],
  ['tetrahedron', polyhedron({ kind: 'tetrahedron', radius: 1 }), 8 / (9 * Math.sqrt(3)), 1e-5],
  ['octahedron', polyhedron({ kind: 'octahedron', radius: 1 }), 4 / 3, 1e-5],
  ['cube', polyhedron({ kind: 'cube', radius: 1 }), 8 / (3 * Math.sqrt(3)), 1e-5],
  ['icosahedron', polyhedron({ kind: 'icosahedron', radius: 1 }), 2.53615, 1e-5],
  ['dodecahedron', polyhedron({ kind: 'dodecahedron', radius: 1 }), 2.785164, 1e-5],
];

test.each(SOLIDS)('%s is closed, faces outwards and has its volume', (_, geometry, volume, tolerance) => {
  const measured = measure(geometry);
  expect(measured.openEdges).toBe(0);
  expect(measured.wrongNormals).toBe(0);
  expect(Math.abs(measured.volume / volume - 1)).toBeLessThan(tolerance);
});

test('flat shapes face up and have their area', () => {
  expect(measure(plane({ width: 2, depth: 3, cells: [4, 1] })).area).toBeCloseTo(6, 6);
  const ring = measure(disc({ radius: 2, innerRadius: 1, slices: 256 }));
  expect(ring.area).toBeCloseTo(3 * Math.PI, 2);
  expect(ring.wrongNormals).toBe(0);
});

test.each(SOLIDS)('normals of %s have unit length and bounds hold every vertex', (_, geometry) => {
  const n = attributeFloats(geometry.attributes['normal']!);
  const lengths = Array.from({ length: n.length / 3 }, (_, i) => Math.hypot(...n.slice(i * 3, i * 3 + 3)));
  expect(lengths.filter((length) => !(Math.abs(length - 1) < 5e-6))).toEqual([]);
  const p = attributeFloats(geometry.attributes['position']!);
  for (let k = 0; k < 3; k++) {
    const axis = p.filter((_v, i) => i % 3 === k);
    expect(geometry.bounds.min[k]).toBeCloseTo(
      axis.reduce((a, b) => Math.min(a, b)),
      6,
    );
    expect(geometry.bounds.max[k]).toBeCloseTo(
      axis.reduce((a, b) => Math.max(a, b)),
      6,
    );
  }
});

test('a closed tube closes without a twist at its seam', () => {
  const path = Array.from({ length: 24 }, (_, i): [number, number, number] => {
    const t = (i / 24) * 2 * Math.PI;
    return [Math.cos(t), 0.4 * Math.sin(3 * t), Math.sin(t)];
  });
  expect(measure(tube({ path, closed: true, radius: 0.1, rings: 192 }))).toMatchObject({
    openEdges: 0,
    wrongNormals: 0,
  });
});

test('tangents lie in the surface along growing u, bitangents against growing v', () => {
  for (const geometry of [withTangents(box()), withTangents(sphere()), withTangents(plane())]) {
    const n = attributeFloats(geometry.attributes['normal']!);
    const t = attributeFloats(geometry.attributes['tangent']!);
    const uv = attributeFloats(geometry.attributes['texcoord0']!);
    const p = attributeFloats(geometry.attributes['position']!);
    const wrong: number[][] = [];
    for (let i = 0; i < n.length / 3; i++) {
      const dot = n[i * 3]! * t[i * 4]! + n[i * 3 + 1]! * t[i * 4 + 1]! + n[i * 3 + 2]! * t[i * 4 + 2]!;
      if (!(Math.abs(dot) < 1e-5) || t[i * 4 + 3] !== 1) wrong.push([i, dot, t[i * 4 + 3]!]);
    }
    expect(wrong).toEqual([]);
    eachTriangle(geometry, (a, b) => {
      const along = [0, 1, 2].reduce((sum, k) => sum + (p[b * 3 + k]! - p[a * 3 + k]!) * t[a * 4 + k]!, 0);
      const du = uv[b * 2]! - uv[a * 2]!;
      const dv = uv[b * 2 + 1]! - uv[a * 2 + 1]!;
      if (dv === 0 && Math.abs(along) > 1e-3) expect(Math.sign(along)).toBe(Math.sign(du));
    });
  }
});

test('a mirrored texture has handedness -1', () => {
  const geometry = geometryFrom(
    {
      position: [0, 0, 0, 1, 0, 0, 0, 1, 0],
      normal: [0, 0, 1, 0, 0, 1, 0, 0, 1],
      texcoord0: [1, 1, 0, 1, 1, 0],
    },
    [0, 1, 2],
  );
  expect([...attributeFloats(withTangents(geometry).attributes['tangent']!)].slice(0, 4)).toEqual([
    -1, 0, 0, -1,
  ]);
});

test('smooth normals do not depend on how the quads of a cube were split', () => {
  const { attributes, indices } = box();
  const bare: Geometry = {
    attributes: { position: attributes['position']! },
    indices: indices!,
    bounds: box().bounds,
  };
  const smooth = attributeFloats(withSmoothNormals(bare).attributes['normal']!);
  const p = attributeFloats(attributes['position']!);
  // By symmetry a corner's normal is its own diagonal.
  for (let i = 0; i < p.length; i++) expect(smooth[i]).toBeCloseTo((p[i]! * 2) / Math.sqrt(3), 5);
  const creased = attributeFloats(withSmoothNormals(bare, 0.5).attributes['normal']!);
  attributeFloats(attributes['normal']!).forEach((value, i) => expect(creased[i]).toBeCloseTo(value, 6));
});

test('flat normals give each triangle its own corners and keep other attributes with them', () => {
  const flat = withFlatNormals(icosphere({ radius: 1, subdivisions: 1 }));
  expect(vertexCount(flat)).toBe(80 * 3);
  expect(measure(flat).wrongNormals).toBe(0);
  expect(flat.attributes['texcoord0']!.count).toBe(240);
});

test('strips and fans become the triangles they stand for', () => {
  const position = [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0];
  const listed = (geometry: Geometry): number[][] => {
    const out: number[][] = [];
    eachTriangle(geometry, (a, b, c) => out.push([a, b, c]));
    return out;
  };
  const strip = geometryFrom({ position }, undefined, { mode: 'triangle-strip' });
  const fan = geometryFrom({ position }, undefined, { mode: 'triangle-fan' });
  expect(listed(strip)).toEqual([
    [0, 1, 2],
    [1, 3, 2],
  ]);
  expect(listed(fan)).toEqual([
    [1, 2, 0],
    [2, 3, 0],
  ]);
  expect(triangleCount(strip)).toBe(2);
  expect([...asTriangles(fan).indices!]).toEqual([1, 2, 0, 2, 3, 0]);
});

test('the hull of random points holds them all and is closed', () => {
  const coordinate = fc.double({ min: -1, max: 1, noNaN: true });
  holds(
    fc.property(
      fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 8, maxLength: 40 }),
      (points) => {
        let hull: Geometry;
        try {
          hull = convexHull({ points: [...points, [1, 1, 1], [-1, -1, 1], [-1, 1, -1], [1, -1, -1]] });
        } catch {
          throw new Error('four points of it span a solid');
        }
        const measured = measure(hull);
        // Slivers thinner than the keys of the edges may leave a seam; the volume tells a hole.
        expect(measured.volume).toBeGreaterThan(8 / 3 - 1e-6);
        expect(measured.volume).toBeLessThanOrEqual(8 + 1e-6);
      },
    ),
    { numRuns: 40 },
  );
});

test.each([
  ['a radius of zero', () => sphere({ radius: 0 }), 'radius is 0'],
  ['a size that is not a number', () => box({ width: Number.NaN }), 'width is NaN'],
  ['two segments around', () => cylinder({ slices: 2 }), 'slices is 2'],
  ['a million segments', () => plane({ cells: [1e6, 1] }), 'cells[0] is 1000000'],
  ['one count for two axes', () => plane({ cells: 4 as never }), 'cells is 4'],
  ['too many subdivisions', () => icosphere({ subdivisions: 12 }), 'subdivisions'],
  ['a profile of one point', () => lathe({ profile: [[1, 0]] }), '1 points'],
  [
    'a path of one place',
    () =>
      tube({
        path: [
          [0, 0, 0],
          [0, 0, 0],
        ],
      }),
    '1 points',
  ],
  [
    'points in a plane',
    () =>
      convexHull({
        points: [
          [0, 0, 0],
          [1, 0, 0],
          [0, 1, 0],
          [1, 1, 0],
        ],
      }),
    'no solid',
  ],
  ['a hole wider than the disc', () => disc({ radius: 1, innerRadius: 1 }), 'radius is 1'],
  [
    'an index beyond the vertices',
    () => geometryFrom({ position: [0, 0, 0] }, [1]),
    'index 0 of a geometry is 1',
  ],
  [
    'an array of the wrong length',
    () => geometryFrom({ position: [0, 0, 0], normal: [1] }),
    '"normal" has 1 numbers',
  ],
])('%s is refused by name', (_, act, message) => {
  expect(act).toThrow(message);
});
