export type Vec = readonly [number, number, number];

export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const add = (a: Vec, b: Vec, by = 1): Vec => [a[0] + b[0] * by, a[1] + b[1] * by, a[2] + b[2] * by];
export const minus = (a: Vec, b: Vec): Vec => add(a, b, -1);
export const times = (a: Vec, by: number): Vec => [a[0] * by, a[1] * by, a[2] * by];
export const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const length = (a: Vec): number => Math.hypot(a[0], a[1], a[2]);
/** Of length 1; what has none stays as it is. */
export const unit = (a: Vec): Vec => times(a, 1 / (length(a) || 1));
/** Turned by a unit quaternion xyzw. */
export function turned([x, y, z, w]: ArrayLike<number> & Iterable<number>, v: Vec): Vec {
  const q: Vec = [x!, y!, z!]; // four by contract
  const t = times(cross(q, v), 2);
  return add(add(v, t, w!), cross(q, t));
}
/** Two directions that stand square on one and on each other. */
export function squareOn(axis: Vec): [Vec, Vec] {
  const other: Vec = Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const u = unit(cross(other, axis));
  return [u, cross(axis, u)];
}
