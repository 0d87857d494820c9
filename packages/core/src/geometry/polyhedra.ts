import { watchMade, watchOptions } from '#watch';
import { LensError } from '../errors/lens-error.js';
import type { Geometry } from './geometry.js';
import { length } from './limits.js';
import { icosahedron } from './round-shapes.js';
import { Surface } from './surface.js';
import { cross, dot, unit } from '../math/vectors.js';

type Point = [number, number, number];

export interface PolyhedronOptions {
  kind: 'tetrahedron' | 'octahedron' | 'cube' | 'dodecahedron' | 'icosahedron';
  /** From the middle to the corners, metres. Default 0.5. */
  radius?: number;
}

/** A regular solid with flat faces. */
export function polyhedron(options: PolyhedronOptions): Geometry {
  watchOptions('polyhedron', options);
  const radius = length('radius', options.radius ?? 0.5);
  const corners = SOLIDS[options.kind];
  if (!corners) {
    throw new LensError('geometry/kind', `there is no regular solid "${String(options.kind)}"`, {
      hint: `Choose one of ${Object.keys(SOLIDS).join(', ')}.`,
    });
  }
  const points = corners().map((p) => unit(p).map((x) => x * radius) as Point);
  const geometry = convexHull({ points });
  geometry.name = options.kind;
  return watchMade(geometry, 'polyhedron', options);
}

const signs = [-1, 1];
const cubeCorners = (): Point[] =>
  signs.flatMap((x) => signs.flatMap((y) => signs.map((z): Point => [x, y, z])));

const SOLIDS: Record<PolyhedronOptions['kind'], () => Point[]> = {
  tetrahedron: () => cubeCorners().filter(([x, y, z]) => x * y * z > 0),
  octahedron: () =>
    [0, 1, 2].flatMap((k) => signs.map((s) => [0, 1, 2].map((i) => (i === k ? s : 0)) as Point)),
  cube: cubeCorners,
  dodecahedron: () => {
    const phi = (1 + Math.sqrt(5)) / 2;
    const rectangles = signs.flatMap((a) =>
      signs.flatMap((b): Point[] => [
        [0, a / phi, b * phi],
        [a / phi, b * phi, 0],
        [b * phi, 0, a / phi],
      ]),
    );
    return [...cubeCorners(), ...rectangles];
  },
  icosahedron: () => icosahedron().points,
};

export interface ConvexHullOptions {
  /** Any points, at least four of them not in one plane; at most 4096. Those inside are dropped. */
  points: readonly (readonly [number, number, number])[];
}

/**
 * The smallest convex solid around points, with flat faces, built by adding point after point:
 * O(points x faces). Texture coordinates project each face along its main axis.
 */
export function convexHull(options: ConvexHullOptions): Geometry {
  watchOptions('convexHull', options);
  const { points } = options;
  if (points.length > 4096)
    throw new LensError('geometry/hull', `${points.length} points: at most 4096 are taken`);
  points.flat().forEach((value, i) => length(`number ${i} of the points`, value, -Infinity, true));
  const faces = hullFaces(points as Point[]);
  const low = [0, 1, 2].map((k) => points.reduce((m, p) => Math.min(m, p[k]!), Infinity));
  const size = [0, 1, 2].map((k) => points.reduce((m, p) => Math.max(m, p[k]! - low[k]!), 0) || 1);
  const surface = new Surface();
  for (const { corners, normal } of faces) {
    const main = [0, 1, 2].reduce(
      (best, k) => (Math.abs(normal[k]!) > Math.abs(normal[best]!) ? k : best),
      0,
    );
    const [s, t] = [
      [2, 1],
      [0, 2],
      [0, 1],
    ][main]! as [number, number];
    const [a, b, c] = corners.map((i) => {
      const p = points[i]!;
      return surface.vertex(p, normal, (p[s]! - low[s]!) / size[s]!, 1 - (p[t]! - low[t]!) / size[t]!);
    });
    surface.triangle(a!, b!, c!); // three corners a face
  }
  return watchMade(surface.finish('convex hull'), 'convexHull', options);
}

interface Face {
  corners: [number, number, number];
  normal: Point;
  /** Distance of the face's plane from the origin along its normal. */
  offset: number;
}

function hullFaces(points: Point[]): Face[] {
  const extent = points.reduce((m, p) => Math.max(m, Math.abs(p[0]), Math.abs(p[1]), Math.abs(p[2])), 0);
  const near = extent * 1e-9;
  const face = (a: number, b: number, c: number): Face => {
    const [p, q, r] = [points[a]!, points[b]!, points[c]!];
    const normal = unit(cross(minus(q, p), minus(r, p)));
    return { corners: [a, b, c], normal, offset: dot(normal, p) };
  };
  const height = (f: Face, p: Point): number => dot(f.normal, p) - f.offset;
  const farthest = (measure: (p: Point) => number): number =>
    points.reduce((best, p, i) => (measure(p) > measure(points[best]!) ? i : best), 0);

  const a = farthest((p) => -p[0]);
  const b = farthest((p) => norm(minus(p, points[a] ?? p)));
  const line = unit(minus(points[b] ?? [0, 0, 0], points[a] ?? [0, 0, 0]));
  const c = farthest((p) => norm(cross(line, minus(p, points[a] ?? p))));
  const base = points.length < 4 ? undefined : face(a, b, c);
  const d = base ? farthest((p) => Math.abs(height(base, p))) : 0;
  if (!base || norm(base.normal) === 0 || Math.abs(height(base, points[d]!)) <= near) {
    throw new LensError('geometry/hull', 'the points span no solid', {
      hint: 'Give at least four points that do not lie in one plane.',
    });
  }
  const [x, y, z] = height(base, points[d]!) > 0 ? [a, c, b] : [a, b, c];
  let faces = [face(x, y, z), face(x, d, y), face(y, d, z), face(z, d, x)];
  points.forEach((p, i) => {
    const seen = faces.filter((f) => height(f, p) > near);
    if (seen.length === 0) return;
    // The edges between seen and unseen faces appear once among the seen: the horizon.
    const edges = new Map<string, [number, number]>();
    for (const { corners } of seen) {
      for (let k = 0; k < 3; k++) {
        const [from, to] = [corners[k]!, corners[(k + 1) % 3]!];
        if (!edges.delete(`${to} ${from}`)) edges.set(`${from} ${to}`, [from, to]);
      }
    }
    const gone = new Set(seen);
    faces = faces.filter((f) => !gone.has(f));
    for (const [from, to] of edges.values()) faces.push(face(from, to, i));
  });
  return faces;
}

const minus = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const norm = (a: Point): number => Math.hypot(a[0], a[1], a[2]);
