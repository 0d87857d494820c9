import { watchMade, watchOptions } from '#watch';
import { type Geometry, geometryFrom } from './geometry.js';
import { AROUND, AROUND_THIN, length, segments } from './limits.js';
import { addDisc, circle, Surface } from './surface.js';
import { unit } from '../math/vectors.js';

export interface SphereOptions {
  /** Metres. Default 0.5. */
  radius?: number;
  /** Around the Y axis, 3 or more. Default 32. */
  slices?: number;
  /** From pole to pole, 2 or more. Default 16. */
  stacks?: number;
}

/** A sphere by latitude and longitude; the texture's middle faces +Z, its top is the +Y pole. */
export function sphere(options: SphereOptions = {}): Geometry {
  watchOptions('sphere', options);
  const radius = length('radius', options.radius ?? 0.5);
  const surface = new Surface();
  surface.grid(
    segments('slices', options.slices ?? AROUND, 3),
    segments('stacks', options.stacks ?? AROUND / 2, 2),
    (u, v) => {
      const normal = around(u, ...circle(v / 2));
      return { position: [normal[0] * radius, normal[1] * radius, normal[2] * radius], normal };
    },
  );
  return watchMade(surface.finish('sphere'), 'sphere', options);
}

/** The point at `u` of a turn around Y, seen from outside with u to the right and u = 0.5 at +Z. */
function around(u: number, r: number, y: number): [number, number, number] {
  const [sin, cos] = circle(u);
  return [-sin * r, y, -cos * r];
}

export interface IcosphereOptions {
  /** Metres. Default 0.5. */
  radius?: number;
  /** Times each triangle is cut in four: 0 (20 triangles) to 7 (327,680). Default 3. */
  subdivisions?: number;
}

/** A sphere of nearly equal triangles: an icosahedron, subdivided. Texture as on `sphere`. */
export function icosphere(options: IcosphereOptions = {}): Geometry {
  watchOptions('icosphere', options);
  const radius = length('radius', options.radius ?? 0.5);
  const subdivisions = options.subdivisions ?? 3;
  segments('subdivisions', subdivisions, 0, 7);
  const { points, triangles } = icosahedron();
  for (let i = 0; i < subdivisions; i++) cutInFour(points, triangles);
  const position: number[] = [];
  const texcoord0: number[] = [];
  const indices: number[] = [];
  // Triangles across the seam and at the poles get vertices of their own, so that u never runs back.
  const seen = new Map<string, number>();
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => points[triangles[t + k]!]!); // in range by construction
    let us = corners.map(([x, , z]) => 0.5 + Math.atan2(x, z) / (2 * Math.PI));
    if (Math.max(...us) - Math.min(...us) > 0.5) us = us.map((u) => (u < 0.5 ? u + 1 : u));
    corners.forEach(([, y], k) => {
      if (Math.abs(y) > 1 - 1e-9) us[k] = (us[(k + 1) % 3]! + us[(k + 2) % 3]!) / 2;
    });
    corners.forEach(([x, y, z], k) => {
      const u = us[k]!;
      const key = `${triangles[t + k]} ${u.toFixed(6)}`;
      let index = seen.get(key);
      if (index === undefined) {
        index = position.length / 3;
        seen.set(key, index);
        position.push(x * radius, y * radius, z * radius);
        texcoord0.push(u, Math.acos(Math.max(-1, Math.min(1, y))) / Math.PI);
      }
      indices.push(index);
    });
  }
  const normal = position.map((p) => p / radius);
  return watchMade(
    geometryFrom({ position, normal, texcoord0 }, indices, { name: 'icosphere' }),
    'icosphere',
    options,
  );
}

type Point = [number, number, number];

/** Twelve unit points: poles, and two rings of five at latitude atan(1/2). */
export function icosahedron(): { points: Point[]; triangles: number[] } {
  const points: Point[] = [[0, 1, 0]];
  const y = 1 / Math.sqrt(5);
  const r = 2 / Math.sqrt(5);
  for (let i = 0; i < 5; i++) points.push([r * circle(i / 5)[0], y, r * circle(i / 5)[1]]);
  for (let i = 0; i < 5; i++) points.push([r * circle((i + 0.5) / 5)[0], -y, r * circle((i + 0.5) / 5)[1]]);
  points.push([0, -1, 0]);
  const triangles: number[] = [];
  for (let i = 0; i < 5; i++) {
    const next = (i + 1) % 5;
    triangles.push(0, 1 + i, 1 + next);
    triangles.push(1 + i, 6 + i, 1 + next);
    triangles.push(1 + next, 6 + i, 6 + next);
    triangles.push(6 + i, 11, 6 + next);
  }
  return { points, triangles };
}

function cutInFour(points: Point[], triangles: number[]): void {
  const middles = new Map<number, number>();
  const middle = (a: number, b: number): number => {
    const key = a < b ? a * 1e7 + b : b * 1e7 + a;
    let index = middles.get(key);
    if (index === undefined) {
      const [p, q] = [points[a]!, points[b]!];
      index = points.push(unit([p[0] + q[0], p[1] + q[1], p[2] + q[2]])) - 1;
      middles.set(key, index);
    }
    return index;
  };
  const whole = triangles.splice(0);
  for (let t = 0; t < whole.length; t += 3) {
    const [a, b, c] = [whole[t]!, whole[t + 1]!, whole[t + 2]!];
    const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)];
    triangles.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca);
  }
}

export interface CylinderOptions {
  /** Metres. Default 0.5 each; one of the two may be 0. */
  topRadius?: number;
  bottomRadius?: number;
  /** Along Y, metres. Default 1. */
  height?: number;
  /** Around, 3 or more. Default 32. */
  slices?: number;
  /** From end to end, 1 or more. Default 1. */
  stacks?: number;
  /** Closes both ends. Default true. */
  capped?: boolean;
}

/** A cylinder (or cut cone) about the Y axis, its middle at the origin. */
export function cylinder(options: CylinderOptions = {}): Geometry {
  watchOptions('cylinder', options);
  const top = length('topRadius', options.topRadius ?? 0.5, 0, true);
  const bottom = length('bottomRadius', options.bottomRadius ?? 0.5, top === 0 ? 0 : 0, top > 0);
  const height = length('height', options.height ?? 1);
  const around_ = segments('slices', options.slices ?? AROUND, 3);
  const surface = new Surface();
  const slope = unit([height, bottom - top, 0]);
  surface.grid(around_, segments('stacks', options.stacks ?? 1, 1), (u, v) => ({
    position: around(u, top + (bottom - top) * v, height * (0.5 - v)),
    normal: around(u, slope[0], slope[1]),
  }));
  if (options.capped ?? true) {
    if (top > 0) addDisc(surface, top, height / 2, around_, true);
    if (bottom > 0) addDisc(surface, bottom, -height / 2, around_, false);
  }
  return watchMade(surface.finish('cylinder'), 'cylinder', options);
}

export interface ConeOptions {
  /** Of the foot, metres. Default 0.5. */
  radius?: number;
  height?: number;
  slices?: number;
  stacks?: number;
  capped?: boolean;
}

/** A cone about the Y axis, its tip up, the middle of its height at the origin. */
export function cone(options: ConeOptions = {}): Geometry {
  watchOptions('cone', options);
  const { radius, ...rest } = options;
  const geometry = cylinder({ ...rest, topRadius: 0, bottomRadius: length('radius', radius ?? 0.5) });
  geometry.name = 'cone';
  return watchMade(geometry, 'cone', options);
}

export interface CapsuleOptions {
  /** Of the round ends, metres. Default 0.25. */
  radius?: number;
  /** Of the straight part between them, metres, 0 or more. Default 0.5. */
  height?: number;
  slices?: number;
  /** Of each round end, 1 or more. Default 8. */
  stacks?: number;
}

/** A cylinder with half spheres for ends, about the Y axis. Texture v follows the outline's length. */
export function capsule(options: CapsuleOptions = {}): Geometry {
  watchOptions('capsule', options);
  const radius = length('radius', options.radius ?? 0.25);
  const height = length('height', options.height ?? 0.5, 0, true);
  const cap = segments('stacks', options.stacks ?? 8, 1);
  const arc = (radius * Math.PI) / 2;
  const total = 2 * arc + height;
  const rows = 2 * cap + 1;
  const surface = new Surface();
  const ring = (v: number): { sin: number; cos: number; y: number; along: number } => {
    const j = Math.round(v * rows);
    const lower = j > cap;
    const [sin, cos] = circle((lower ? j - 1 : j) / (4 * cap));
    return {
      sin,
      cos,
      y: cos * radius + (lower ? -height / 2 : height / 2),
      along: lower ? arc + height + ((j - 1 - cap) / cap) * arc : (j / cap) * arc,
    };
  };
  surface.grid(
    segments('slices', options.slices ?? AROUND, 3),
    rows,
    (u, v) => {
      const { sin, cos, y } = ring(v);
      return { position: around(u, sin * radius, y), normal: around(u, sin, cos) };
    },
    (u, v) => [u, ring(v).along / total],
  );
  return watchMade(surface.finish('capsule'), 'capsule', options);
}

export interface TorusOptions {
  /** From the middle to the middle of the tube, metres. Default 0.4. */
  radius?: number;
  /** Of the tube, metres. Default 0.15. */
  tubeRadius?: number;
  /** Of the tube along its way around the axis, 3 or more. Default 48. */
  rings?: number;
  /** Of the tube around itself, 3 or more. Default 16. */
  sides?: number;
}

/** A ring lying in the XZ plane. */
export function torus(options: TorusOptions = {}): Geometry {
  watchOptions('torus', options);
  const tube = length('tubeRadius', options.tubeRadius ?? 0.15);
  const radius = length('radius', options.radius ?? 0.4);
  const surface = new Surface();
  surface.grid(
    segments('rings', options.rings ?? AROUND + AROUND_THIN, 3),
    segments('sides', options.sides ?? AROUND_THIN, 3),
    (u, v) => {
      // From the inside, over the top, to the outside and back below.
      const [sin, cos] = circle(v);
      return {
        position: around(u, radius - cos * tube, sin * tube),
        normal: around(u, -cos, sin),
      };
    },
  );
  return watchMade(surface.finish('torus'), 'torus', options);
}
