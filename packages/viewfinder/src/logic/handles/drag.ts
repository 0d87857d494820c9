import { add, cross, dot, length, minus, times, unit, type Vec } from './vectors.js';

/** A line of sight in the world. */
export interface Sight {
  origin: Vec;
  direction: Vec;
}

/** How directly an axis has to point at the eye, as a sine, to be dragged across the screen instead. */
const EDGE_ON = 0.08;

/**
 * Where on an axis a line of sight passes nearest, in units of the axis; undefined where the axis points (almost) at the eye.
 * (Closest points of two lines: Ericson, "Real-Time Collision Detection", 5.1.8.)
 */
export function alongAxis({ direction, origin }: Sight, from: Vec, axis: Vec): number | undefined {
  const d = unit(direction);
  const b = dot(axis, d);
  const aa = dot(axis, axis);
  const sine = aa - b * b;
  if (sine < aa * EDGE_ON * EDGE_ON) return undefined;
  const r = minus(from, origin);
  return (b * dot(d, r) - dot(axis, r)) / sine;
}

/** Where a line of sight meets a plane; undefined where it runs along it, or away from it. */
export function onPlane({ direction, origin }: Sight, at: Vec, normal: Vec, edge = EDGE_ON): Vec | undefined {
  const d = unit(direction);
  const slope = dot(d, normal);
  if (Math.abs(slope) < edge) return undefined;
  const by = dot(minus(at, origin), normal) / slope;
  return by > 0 ? add(origin, d, by) : undefined;
}

/** The angle about an axis from one place to another, radians, -pi to pi. */
export function angleAbout(axis: Vec, from: Vec, to: Vec): number {
  const flat = (v: Vec): Vec => minus(v, times(axis, dot(v, axis)));
  const [a, b] = [flat(from), flat(to)];
  return Math.atan2(dot(axis, cross(a, b)), dot(a, b));
}

/** A movement that a hand makes, from where it took hold. */
export interface Hold {
  sight: Sight;
  /** CSS pixels. */
  x: number;
  y: number;
}

/** How the world lies on the screen where things are taken hold of. */
export interface ScreenFrame {
  right: Vec;
  up: Vec;
  /** Metres a CSS pixel. */
  pixel: number;
}

/**
 * How far an axis is dragged, metres. Where it points at the eye, its movement on the screen counts: up is along it.
 */
export function draggedAlong(axis: Vec, at: Vec, start: Hold, now: Hold, { pixel }: ScreenFrame): number {
  const from = alongAxis(start.sight, at, axis);
  const to = alongAxis(now.sight, at, axis);
  if (from !== undefined && to !== undefined) return to - from;
  return (start.y - now.y) * pixel;
}

/** How far a plane is dragged. Where it is seen edge-on, the movement on the screen counts. */
export function draggedOver(normal: Vec, at: Vec, start: Hold, now: Hold, frame: ScreenFrame): Vec {
  const from = onPlane(start.sight, at, normal);
  const to = onPlane(now.sight, at, normal);
  if (from && to) return minus(to, from);
  const moved = add(
    times(frame.right, (now.x - start.x) * frame.pixel),
    frame.up,
    (start.y - now.y) * frame.pixel,
  );
  return minus(moved, times(normal, dot(moved, normal)));
}

/**
 * By what angle a ring is dragged, radians. Where it is seen edge-on, a way as long as its radius is a radian.
 *
 * @param radius of the ring, metres
 */
export function draggedAround(
  axis: Vec,
  at: Vec,
  radius: number,
  start: Hold,
  now: Hold,
  frame: ScreenFrame,
): number {
  const from = onPlane(start.sight, at, axis, 0.2);
  const to = onPlane(now.sight, at, axis, 0.2);
  if (from && to) return angleAbout(axis, minus(from, at), minus(to, at));
  // Along the ring as it is seen: square on its axis and on the way of looking.
  const tangent = unit(cross(axis, cross(frame.right, frame.up)));
  const moved = add(
    times(frame.right, (now.x - start.x) * frame.pixel),
    frame.up,
    (start.y - now.y) * frame.pixel,
  );
  return dot(moved, length(tangent) > 0 ? tangent : frame.right) / radius;
}

/** To the nearest step; 0 takes none. */
export const snapped = (value: number, step: number): number =>
  step > 0 ? Math.round(value / step) * step : value;
