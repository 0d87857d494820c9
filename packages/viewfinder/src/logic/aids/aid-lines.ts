import type { Bounds, Light, SceneNode } from '@umber-lens/core/engine';
import { add, squareOn, times, type Vec } from '../handles/vectors.js';

/** A line through places of the world. */
export type Line = readonly Vec[];

const SEGMENTS = 32;

function circle(at: Vec, u: Vec, v: Vec, radius: number): Line {
  return Array.from({ length: SEGMENTS + 1 }, (_, i) => {
    const angle = (i / SEGMENTS) * 2 * Math.PI;
    return add(add(at, u, radius * Math.cos(angle)), v, radius * Math.sin(angle));
  });
}

/** Axes and place of a node in the world, the axes of length 1. */
function placeOf(node: SceneNode): { at: Vec; x: Vec; y: Vec; z: Vec } {
  const m = node.readWorld(new Float64Array(12));
  const axis = (k: number): Vec => {
    const v: Vec = [m[k]!, m[k + 4]!, m[k + 8]!]; // twelve
    return times(v, 1 / (Math.hypot(...v) || 1));
  };
  return { at: [m[3]!, m[7]!, m[11]!], x: axis(0), y: axis(1), z: axis(2) }; // as above
}

/** What a light reaches: a range as circles, a cone, a direction, an area. @param size metres, for what has no size of its own */
export function lightLines(node: SceneNode, light: Light, size: number): Line[] {
  const { at, x, y, z } = placeOf(node);
  const ahead = times(z, -1);
  switch (light.type) {
    case 'point': {
      const reach = light.range ?? size;
      const round = [circle(at, x, y, reach), circle(at, y, z, reach), circle(at, z, x, reach)];
      return light.radius ? [...round, circle(at, x, y, light.radius)] : round;
    }
    case 'spot': {
      const reach = light.range ?? size * 3;
      const cone = (angle: number): Line[] => {
        const end = add(at, ahead, reach * Math.cos(angle));
        const radius = reach * Math.sin(angle);
        const sides = [x, times(x, -1), y, times(y, -1)].map((side): Line => [at, add(end, side, radius)]);
        return [circle(end, x, y, radius), ...sides];
      };
      const inner = light.innerConeAngle ?? 0;
      const outer = cone(light.outerConeAngle ?? Math.PI / 4);
      return inner > 0.01 ? [...outer, cone(inner)[0]!] : outer; // it has a rim
    }
    case 'directional': {
      const rays = [
        [0, 0],
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
      ].map(([a, b]): Line => {
        const from = add(add(at, x, a! * size * 0.4), y, b! * size * 0.4); // pairs
        return [from, add(from, ahead, size * 1.6)];
      });
      return [circle(at, x, y, size * 0.4), ...rays];
    }
    case 'area': {
      const m = node.readWorld(new Float64Array(12));
      const stretch = (k: number): number => Math.hypot(m[k]!, m[k + 4]!, m[k + 8]!); // twelve
      const [width = 1, height = 1] = Array.from(light.size ?? [1, 1]);
      const [w, h] = [(width * stretch(0)) / 2, (height * stretch(1)) / 2];
      const out: Line = [at, add(at, ahead, Math.max(w, h))];
      if (light.shape === 'disc') return [circle(at, times(x, w), times(y, h), 1), out];
      const corner = (a: number, b: number): Vec => add(add(at, x, a * w), y, b * h);
      return [[corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1), corner(-1, -1)], out];
    }
    default:
      return [circle(at, [1, 0, 0], [0, 0, 1], size * 0.5), [at, add(at, [0, 1, 0], size * 0.5)]];
  }
}

/** What a camera sees, up to a distance. @param aspect width over height of the picture */
export function cameraLines(node: SceneNode, aspect: number, depth: number): Line[] {
  const { camera } = node;
  if (!camera) return [];
  const { at, x, y, z } = placeOf(node);
  const far = Math.min(camera.zfar ?? Infinity, depth);
  const rim = (away: number): Vec[] => {
    const [w, h] =
      camera.type === 'perspective'
        ? [away * Math.tan(camera.yfov / 2) * aspect, away * Math.tan(camera.yfov / 2)]
        : [Math.max(camera.xmag, camera.ymag * aspect), Math.max(camera.ymag, camera.xmag / aspect)];
    const middle = add(at, z, -away);
    return [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ].map(([a, b]) => add(add(middle, x, a! * w), y, b! * h)); // pairs
  };
  const [near, end] = [rim(camera.znear), rim(far)];
  const closed = (corners: Vec[]): Line => [...corners, corners[0]!]; // four
  // Up, so that nobody turns it over unseen.
  const [, , right, left] = end;
  const top = add(times(add(left!, right!), 0.5), y, far * 0.12); // four
  return [
    closed(near),
    closed(end),
    ...near.map((corner, i): Line => [corner, end[i]!]),
    [left!, top, right!],
  ]; // four each
}

export function boxLines({ max, min }: Bounds): Line[] {
  const corner = (i: number): Vec => [
    i & 1 ? max[0] : min[0],
    i & 2 ? max[1] : min[1],
    i & 4 ? max[2] : min[2],
  ];
  const edges = [
    [0, 1],
    [1, 3],
    [3, 2],
    [2, 0],
    [4, 5],
    [5, 7],
    [7, 6],
    [6, 4],
    [0, 4],
    [1, 5],
    [2, 6],
    [3, 7],
  ];
  return edges.map(([a, b]): Line => [corner(a!), corner(b!)]); // pairs
}

/** From each joint to those below it. */
export function skeletonLines(joints: readonly SceneNode[]): Line[] {
  const own = new Set(joints);
  return joints.flatMap((joint): Line[] => {
    const { parent } = joint;
    return parent && own.has(parent) ? [[placeOf(parent).at, placeOf(joint).at]] : [];
  });
}

/** The three axes of a node, each by itself. */
export function axisLines(node: SceneNode, size: number): readonly [Line, Line, Line] {
  const { at, x, y, z } = placeOf(node);
  return [
    [at, add(at, x, size)],
    [at, add(at, y, size)],
    [at, add(at, z, size)],
  ];
}

/** Steps from the middle of the grid to its edge. */
export const GRID_REACH = 30;

/** Where a grid lies, in steps of metres. */
export interface GridPlace {
  step: number;
  x: number;
  z: number;
}

/** Where the grid about a place lies. @param pixel metres to a pixel there */
export function gridPlace(about: Vec, pixel: number): GridPlace {
  // A step is 30 pixels at least.
  const step = 10 ** Math.ceil(Math.log10(Math.max(1e-6, pixel * 30)));
  return { step, x: 10 * Math.round(about[0] / step / 10), z: 10 * Math.round(about[2] / step / 10) };
}

/** A circle that lies on a surface. */
export function surfaceCircle(at: Vec, normal: Vec, radius: number): Line {
  const [u, v] = squareOn(normal);
  return circle(at, u, v, radius);
}
