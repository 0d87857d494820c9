/** A corner of a polygon: its place in the box's space, and what it is at its own: place and normal. */
export type Corner = [
  x: number,
  y: number,
  z: number,
  px: number,
  py: number,
  pz: number,
  nx: number,
  ny: number,
  nz: number,
];

/**
 * A polygon cut to the box -1..1, side by side (Sutherland and Hodgman, 1974). What corners bring along is mixed by where an
 * edge is cut.
 */
export function clipToBox(corners: readonly Corner[]): Corner[] {
  let polygon = [...corners];
  for (let axis = 0; axis < 3; axis++) {
    for (const side of [1, -1]) {
      const inside = (corner: Corner): number => 1 - side * corner[axis]!; // three coordinates
      const cut: Corner[] = [];
      polygon.forEach((from, i) => {
        const to = polygon[(i + 1) % polygon.length]!; // not empty
        const [a, b] = [inside(from), inside(to)];
        if (a >= 0) cut.push(from);
        if (a >= 0 === b >= 0) return;
        const share = a / (a - b);
        cut.push(from.map((value, k) => value + (to[k]! - value) * share) as Corner);
      });
      polygon = cut;
      if (polygon.length < 3) return [];
    }
  }
  return polygon;
}
