/** Where a link goes: from a card's right side to an input's left one, around the cards between. */
export interface Place {
  x: number;
  y: number;
}

export interface Box extends Place {
  width: number;
  height: number;
}

/** Free room that links keep beside cards, pixels. */
const ROOM = 11;
/** How far links go straight before they turn. */
const STUB = 18;
/** With more cards than that links are not led around: that would be looked for longer than a frame. */
const MOST_CARDS = 200;

/** How far a curve swings out. */
const bendOf = (from: Place, to: Place): number => Math.max(30, Math.abs(to.x - from.x) * 0.5);

/** A place of the curve between two, 0 to 1. */
function onCurve(from: Place, to: Place, t: number): Place {
  const bend = bendOf(from, to);
  const s = 1 - t;
  const mixed = (a: number, b: number, c: number, d: number): number =>
    s * s * s * a + 3 * s * s * t * b + 3 * s * t * t * c + t * t * t * d;
  return {
    x: mixed(from.x, from.x + bend, to.x - bend, to.x),
    y: mixed(from.y, from.y, to.y, to.y),
  };
}

const STEPS = 24;

/** Places along a link, a curve or with corners. */
export function along(points: readonly Place[]): Place[] {
  if (points.length === 2)
    return Array.from({ length: STEPS + 1 }, (_, i) => onCurve(points[0]!, points[1]!, i / STEPS)); // two
  return points.flatMap((to, i) => {
    const from = points[i - 1];
    if (!from) return [to];
    return Array.from({ length: 8 }, (_, k) => ({
      x: from.x + ((to.x - from.x) * (k + 1)) / 8,
      y: from.y + ((to.y - from.y) * (k + 1)) / 8,
    }));
  });
}

const isIn = ({ x, y }: Place, box: Box): boolean =>
  x > box.x + 2 && x < box.x + box.width - 2 && y > box.y + 2 && y < box.y + box.height - 2;

const crosses = (a: Place, b: Place, box: Box): boolean =>
  Math.max(a.x, b.x) > box.x + 2 &&
  Math.min(a.x, b.x) < box.x + box.width - 2 &&
  Math.max(a.y, b.y) > box.y + 2 &&
  Math.min(a.y, b.y) < box.y + box.height - 2;

/**
 * The corners of a link: two where the curve between them meets no card, else a way along upright and level lines that meets none. Where there
 * is none, the curve.
 */
export function routeOf(from: Place, to: Place, boxes: readonly Box[]): Place[] {
  const direct = [from, to];
  if (boxes.length > MOST_CARDS) return direct;
  const places = along(direct);
  if (!boxes.some((box) => places.some((place) => isIn(place, box)))) return direct;
  const middle = (from.y + to.y) / 2;
  const lanes = boxes
    .flatMap(({ height, y }) => [y - ROOM, y + height + ROOM])
    .sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle));
  const [x1, x2] = [from.x + STUB, to.x - STUB];
  for (const y of lanes) {
    const points = [from, { x: x1, y: from.y }, { x: x1, y }, { x: x2, y }, { x: x2, y: to.y }, to];
    const isFree = points.every((b, i) => {
      const a = points[i - 1];
      return !a || !boxes.some((box) => crosses(a, b, box));
    });
    if (isFree) return points;
  }
  return direct;
}

/** A box that a link does not leave. */
export function boundsOfLink(points: readonly Place[]): { from: Place; to: Place } {
  const [first, last] = [points[0]!, points.at(-1)!]; // two at least
  // A curve swings out to the right of its start, and to the left of its end.
  const bend = points.length === 2 ? bendOf(first, last) : 0;
  const xs = [...points.map(({ x }) => x), first.x + bend, last.x - bend];
  const ys = points.map(({ y }) => y);
  return {
    from: { x: Math.min(...xs), y: Math.min(...ys) },
    to: { x: Math.max(...xs), y: Math.max(...ys) },
  };
}

/** Draws a link as a line that is seen from far off: without round corners. */
export function traceLink(
  points: readonly Place[],
  onto: Pick<CanvasRenderingContext2D, 'moveTo' | 'lineTo' | 'bezierCurveTo'>,
): void {
  const [from, to] = [points[0]!, points.at(-1)!]; // as above
  onto.moveTo(from.x, from.y);
  if (points.length === 2) {
    const bend = bendOf(from, to);
    onto.bezierCurveTo(from.x + bend, from.y, to.x - bend, to.y, to.x, to.y);
    return;
  }
  for (const { x, y } of points) onto.lineTo(x, y);
}

/** How round corners are, pixels. */
const ROUND = 9;

/** A link as a path of SVG. */
export function pathOf(points: readonly Place[]): string {
  const [from, to] = [points[0]!, points.at(-1)!]; // two at least
  if (points.length === 2) {
    const bend = bendOf(from, to);
    return `M${from.x} ${from.y}C${from.x + bend} ${from.y} ${to.x - bend} ${to.y} ${to.x} ${to.y}`;
  }
  let path = `M${from.x} ${from.y}`;
  for (let i = 1; i < points.length - 1; i++) {
    const [before, at, next] = [points[i - 1]!, points[i]!, points[i + 1]!]; // within them
    const [into, out] = [towards(at, before), towards(at, next)];
    path += `L${into.x} ${into.y}Q${at.x} ${at.y} ${out.x} ${out.y}`;
  }
  return `${path}L${to.x} ${to.y}`;
}

function towards(from: Place, to: Place): Place {
  const length = Math.hypot(to.x - from.x, to.y - from.y);
  const share = length > 0 ? Math.min(ROUND, length / 2) / length : 0;
  return { x: from.x + (to.x - from.x) * share, y: from.y + (to.y - from.y) * share };
}

/** How far a place lies from a link. */
export const farFrom = (place: Place, points: readonly Place[]): number =>
  Math.min(...along(points).map(({ x, y }) => Math.hypot(x - place.x, y - place.y)));
