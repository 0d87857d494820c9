import { watchMade, watchOptions } from '#watch';
import { LensError } from '../errors/lens-error.js';
import type { Geometry } from './geometry.js';
import { AROUND, length, MOST_SEGMENTS, segments } from './limits.js';
import { circle, Surface } from './surface.js';
import { cross, dot, unit } from '../math/vectors.js';

export interface LatheOptions {
  /**
   * Outline as [radius, height] pairs from the bottom up, metres; the outside is to the right of
   * the way, so a closed cup goes up outside and down inside.
   */
  profile: readonly (readonly [number, number])[];
  /** Around, 3 or more. Default 32. */
  slices?: number;
  /** Corners of the outline sharper than this stay sharp, radians. Default pi / 6. */
  creaseAngle?: number;
}

/** Turns an outline about the Y axis, as on a potter's wheel. */
export function lathe(options: LatheOptions): Geometry {
  watchOptions('lathe', options);
  const { profile } = options;
  if (profile.length < 2 || profile.length > MOST_SEGMENTS) {
    throw new LensError('geometry/profile', `a profile of ${profile.length} points cannot be turned`, {
      hint: `Give 2 to ${MOST_SEGMENTS} points, each [radius, height].`,
    });
  }
  profile.forEach(([r, y], i) => {
    length(`radius of profile point ${i}`, r, 0, true);
    length(`height of profile point ${i}`, y, -Infinity, true);
  });
  const rings = outline(profile, options.creaseAngle ?? Math.PI / 6).reverse();
  const count = segments('slices', options.slices ?? AROUND, 3);
  const total = rings[0]!.along || 1; // at least two rings: checked above
  const surface = new Surface();
  // A ring stands twice at a crease; the cells between the two are empty and drop out.
  surface.grid(
    count,
    rings.length - 1,
    (u, v) => {
      const ring = rings[Math.round(v * (rings.length - 1))]!;
      const [sin, cos] = circle(u);
      return {
        position: [-sin * ring.r, ring.y, -cos * ring.r],
        normal: [-sin * ring.nr, ring.ny, -cos * ring.nr],
      };
    },
    (u, v) => [u, 1 - rings[Math.round(v * (rings.length - 1))]!.along / total],
  );
  return watchMade(surface.finish('lathe'), 'lathe', options);
}

interface Ring {
  r: number;
  y: number;
  nr: number;
  ny: number;
  along: number;
}

/** Rings with normals; a corner sharper than the crease gives two rings at one place. */
function outline(profile: LatheOptions['profile'], creaseAngle: number): Ring[] {
  const points = profile.filter(
    (p, i) => i === 0 || p[0] !== profile[i - 1]![0] || p[1] !== profile[i - 1]![1],
  );
  if (points.length < 2) throw new LensError('geometry/profile', 'all points of the profile are one');
  const sides = points.slice(1).map(([r, y], i) => unit([y - points[i]![1], points[i]![0] - r, 0]));
  const rings: Ring[] = [];
  let along = 0;
  points.forEach(([r, y], i) => {
    if (i > 0) along += Math.hypot(r - points[i - 1]![0], y - points[i - 1]![1]);
    const before = sides[i - 1] ?? sides[i]!;
    const after = sides[i] ?? before;
    const isCrease = before[0] * after[0] + before[1] * after[1] < Math.cos(creaseAngle);
    const normals = isCrease ? [before, after] : [unit([before[0] + after[0], before[1] + after[1], 0])];
    for (const [nr, ny] of normals) rings.push({ r, y, nr, ny, along });
  });
  return rings;
}

export interface TubeOptions {
  /** Points the middle line runs through, at least two, metres. */
  path: readonly (readonly [number, number, number])[];
  /** Metres. Default 0.05. */
  radius?: number;
  /** Joins the last point to the first. Default false. */
  closed?: boolean;
  /** Along the whole path. Default 8 for each of its points. */
  rings?: number;
  /** Around, 3 or more. Default 8. */
  sides?: number;
  /** Closes the ends of an open tube. Default true. */
  capped?: boolean;
}

/**
 * A tube along a smooth curve through points (centripetal Catmull-Rom). The cross-section is carried
 * along without twisting, by double reflection (Wang and others, "Computation of Rotation Minimizing
 * Frames", 2008); what a closed tube twists in all is spread over its length.
 */
export function tube(options: TubeOptions): Geometry {
  watchOptions('tube', options);
  const path = options.path.filter(
    (p, i) => i === 0 || Math.hypot(...p.map((x, k) => x - options.path[i - 1]![k]!)) > 0,
  );
  const closed = options.closed ?? false;
  if (path.length < (closed ? 3 : 2)) {
    throw new LensError(
      'geometry/path',
      `a ${closed ? 'closed ' : ''}tube cannot follow ${path.length} points`,
      {
        hint: `Give at least ${closed ? 3 : 2} different points.`,
      },
    );
  }
  path.flat().forEach((value, i) => length(`number ${i} of the path`, value, -Infinity, true));
  const radius = length('radius', options.radius ?? 0.05);
  const around = segments('sides', options.sides ?? 8, 3);
  const count = segments('rings', options.rings ?? Math.min(MOST_SEGMENTS, path.length * 8), 1);
  const frames = carryFrames(
    Array.from({ length: count + 1 }, (_, i) => curvePoint(path, i / count, closed)),
    closed,
  );
  const surface = new Surface();
  const direction = (frame: Frame, v: number): Vec => {
    const [sin, cos] = circle(v);
    return add(scaled(frame.side, cos), scaled(frame.over, sin));
  };
  surface.grid(count, around, (u, v) => {
    const frame = frames[Math.round(u * count)]!; // grid asks at whole steps
    const normal = direction(frame, v);
    return { position: add(frame.at, scaled(normal, radius)), normal };
  });
  if (!closed && (options.capped ?? true)) {
    for (const [frame, sign] of [
      [frames[0]!, -1],
      [frames[count]!, 1],
    ] as const) {
      const normal = scaled(frame.along, sign);
      const middle = surface.vertex(frame.at, normal, 0.5, 0.5);
      const rim = Array.from({ length: around + 1 }, (_, i) => {
        const d = direction(frame, i / around);
        const [sin, cos] = circle(i / around);
        return surface.vertex(add(frame.at, scaled(d, radius)), normal, 0.5 + cos / 2, 0.5 + sin / 2);
      });
      for (let i = 0; i < around; i++) {
        surface.triangle(middle, rim[sign > 0 ? i : i + 1]!, rim[sign > 0 ? i + 1 : i]!);
      }
    }
  }
  return watchMade(surface.finish('tube'), 'tube', options);
}

type Vec = [number, number, number];

interface Frame {
  at: Vec;
  along: Vec;
  side: Vec;
  over: Vec;
}

const add = (a: Vec, b: Vec): Vec => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const scaled = (a: Vec, f: number): Vec => [a[0] * f, a[1] * f, a[2] * f];

/** Centripetal Catmull-Rom by the pyramid of Barry and Goldman (1988): no cusps, no loops. */
export function curvePoint(
  path: readonly (readonly [number, number, number])[],
  t: number,
  closed: boolean,
): Vec {
  const spans = closed ? path.length : path.length - 1;
  const span = Math.min(spans - 1, Math.floor(t * spans));
  const at = (i: number): Vec => {
    if (closed) return [...path[(i + path.length) % path.length]!] as Vec;
    // Beyond the ends the curve goes on straight.
    if (i < 0) return add(scaled([...path[0]!] as Vec, 2), scaled([...path[1]!] as Vec, -1));
    const n = path.length;
    if (i >= n) return add(scaled([...path[n - 1]!] as Vec, 2), scaled([...path[n - 2]!] as Vec, -1));
    return [...path[i]!] as Vec;
  };
  const p = [at(span - 1), at(span), at(span + 1), at(span + 2)] as const;
  const knots = [0, 0, 0, 0];
  for (let i = 1; i < 4; i++) {
    knots[i] =
      knots[i - 1]! + Math.sqrt(Math.hypot(...add(p[i]!, scaled(p[i - 1]!, -1)))) || knots[i - 1]! + 1e-6;
  }
  const x = knots[1]! + (t * spans - span) * (knots[2]! - knots[1]!);
  const mix = (a: Vec, b: Vec, i: number, j: number): Vec => {
    const f = (x - knots[i]!) / (knots[j]! - knots[i]!);
    return add(scaled(a, 1 - f), scaled(b, f));
  };
  const a1 = mix(p[0], p[1], 0, 1);
  const a2 = mix(p[1], p[2], 1, 2);
  const a3 = mix(p[2], p[3], 2, 3);
  return mix(mix(a1, a2, 0, 2), mix(a2, a3, 1, 3), 1, 2);
}

function carryFrames(points: Vec[], closed: boolean): Frame[] {
  const last = points.length - 1;
  const tangent = (i: number): Vec => {
    const before = i > 0 ? points[i - 1]! : closed ? points[last - 1]! : points[0]!;
    const after = i < last ? points[i + 1]! : closed ? points[1]! : points[last]!;
    return unit(add(after, scaled(before, -1)));
  };
  const along = tangent(0);
  const helper: Vec = Math.abs(along[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const side = unit(cross(helper, along));
  const frames: Frame[] = [{ at: points[0]!, along, side, over: cross(along, side) }];
  for (let i = 1; i <= last; i++) {
    const from = frames[i - 1]!;
    const v1 = add(points[i]!, scaled(from.at, -1));
    const c1 = dot(v1, v1) || 1;
    const sideMirrored = add(from.side, scaled(v1, (-2 / c1) * dot(v1, from.side)));
    const alongMirrored = add(from.along, scaled(v1, (-2 / c1) * dot(v1, from.along)));
    const to = tangent(i);
    const v2 = add(to, scaled(alongMirrored, -1));
    const c2 = dot(v2, v2) || 1;
    const carried = unit(add(sideMirrored, scaled(v2, (-2 / c2) * dot(v2, sideMirrored))));
    frames.push({ at: points[i]!, along: to, side: carried, over: cross(to, carried) });
  }
  if (closed) {
    const end = frames[last]!;
    const start = frames[0]!;
    const twist = Math.atan2(dot(cross(end.side, start.side), start.along), dot(end.side, start.side));
    frames.forEach((frame, i) => {
      const angle = (twist * i) / last;
      const turned = add(scaled(frame.side, Math.cos(angle)), scaled(frame.over, Math.sin(angle)));
      frame.side = unit(turned);
      frame.over = cross(frame.along, frame.side);
    });
  }
  return frames;
}
