import earcut from 'earcut';

/** Corners above which a polygon that is not convex becomes a fan: searching for ears takes the square of them and more. */
const MOST_CORNERS = 1000;

/**
 * Cuts a polygon of any shape into triangles, in the plane that it lies in best. One of more than a thousand corners becomes a
 * fan around its first, which is right for convex ones alone.
 *
 * @param corners of the polygon
 * @param positions 3 a place
 * @param places numbers of the corners' places, from `first` on
 * @param take hears of each triangle: numbers of corners, wound as the polygon is
 */
export function cutPolygon(
  corners: number,
  positions: { at(i: number): number },
  places: { at(i: number): number },
  first: number,
  take: (a: number, b: number, c: number) => void,
): void {
  if (corners === 3) {
    take(0, 1, 2);
    return;
  }
  const normal = normalOf(corners, positions, places, first);
  if (corners > MOST_CORNERS || isConvex(corners, positions, places, first, normal)) {
    for (let k = 2; k < corners; k++) take(0, k - 1, k);
    return;
  }
  // Seen along the axis that it faces most, turned so that it runs the other way round than what earcut gives.
  const [ax, ay, az] = [Math.abs(normal[0]!), Math.abs(normal[1]!), Math.abs(normal[2]!)];
  const [u, v, facing] =
    az >= ax && az >= ay ? [0, 1, normal[2]!] : ay >= ax ? [2, 0, normal[1]!] : [1, 2, normal[0]!];
  const flat: number[] = [];
  for (let k = 0; k < corners; k++) {
    const at = places.at(first + k) * 3;
    flat.push(positions.at(at + u), positions.at(at + v));
  }
  const cut = earcut(flat);
  // All corners on one line: a fan has no area either, but loses nothing.
  if (cut.length === 0) for (let k = 2; k < corners; k++) take(0, k - 1, k);
  for (let i = 0; i < cut.length; i += 3) {
    const [a, b, c] = [cut[i]!, cut[i + 1]!, cut[i + 2]!]; // whole triangles
    const isAsSeen = areaOf(flat, a, b, c) > 0 === facing > 0;
    take(a, isAsSeen ? b : c, isAsSeen ? c : b);
  }
}

const areaOf = (flat: readonly number[], a: number, b: number, c: number): number =>
  (flat[b * 2]! - flat[a * 2]!) * (flat[c * 2 + 1]! - flat[a * 2 + 1]!) -
  (flat[c * 2]! - flat[a * 2]!) * (flat[b * 2 + 1]! - flat[a * 2 + 1]!);

/** Newell's method: right for what is not quite flat, too. */
function normalOf(
  corners: number,
  positions: { at(i: number): number },
  places: { at(i: number): number },
  first: number,
): [number, number, number] {
  const n: [number, number, number] = [0, 0, 0];
  for (let k = 0; k < corners; k++) {
    const p = places.at(first + k) * 3;
    const q = places.at(first + ((k + 1) % corners)) * 3;
    for (let axis = 0; axis < 3; axis++) {
      const [i, j] = [(axis + 1) % 3, (axis + 2) % 3];
      n[axis]! += (positions.at(p + i) - positions.at(q + i)) * (positions.at(p + j) + positions.at(q + j));
    }
  }
  return n;
}

/** Whether a fan around the first corner covers it: all turns go the same way. */
function isConvex(
  corners: number,
  positions: { at(i: number): number },
  places: { at(i: number): number },
  first: number,
  normal: readonly number[],
): boolean {
  const at = (k: number, axis: number): number => positions.at(places.at(first + (k % corners)) * 3 + axis);
  for (let k = 0; k < corners; k++) {
    let turn = 0;
    for (let axis = 0; axis < 3; axis++) {
      const [i, j] = [(axis + 1) % 3, (axis + 2) % 3];
      const [ui, uj] = [at(k + 1, i) - at(k, i), at(k + 1, j) - at(k, j)];
      const [vi, vj] = [at(k + 2, i) - at(k + 1, i), at(k + 2, j) - at(k + 1, j)];
      turn += (ui * vj - uj * vi) * normal[axis]!; // three
    }
    if (turn < 0) return false;
  }
  // A star turns one way and goes around twice: five corners or more may.
  return corners < 5 || goesAroundOnce(corners, at);
}

function goesAroundOnce(corners: number, at: (k: number, axis: number) => number): boolean {
  let angle = 0;
  for (let k = 0; k < corners; k++) {
    const u = [0, 1, 2].map((axis) => at(k + 1, axis) - at(k, axis));
    const v = [0, 1, 2].map((axis) => at(k + 2, axis) - at(k + 1, axis));
    const dot = u.reduce((sum, value, axis) => sum + value * v[axis]!, 0);
    const lengths = Math.hypot(...u) * Math.hypot(...v);
    if (lengths > 0) angle += Math.acos(Math.max(-1, Math.min(1, dot / lengths)));
  }
  return angle < 3 * Math.PI;
}
