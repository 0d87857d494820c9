import type { Eye } from './eye.js';
import { add, cross, dot, squareOn, times, type Vec } from './vectors.js';

export type Tool = 'move' | 'rotate' | 'scale';
export type GripName = 'x' | 'y' | 'z' | 'yz' | 'zx' | 'xy' | 'view';

/** A part of the handles that a hand takes hold of. */
export interface Grip {
  name: GripName;
  /** Lines on the screen, by pairs of numbers; what is hit is near one. */
  lines: number[][];
  /** Corners of what is filled, and hit inside. */
  fill?: number[];
  /** A mark at its end. */
  tip?: { x: number; y: number; kind: 'arrow' | 'box'; angle: number };
  /** Which of three colors: 0 to 2 for the axes, 3 for the view. */
  color: 0 | 1 | 2 | 3;
}

/** Where the handles stand. */
export interface HandleFrame {
  at: Vec;
  /** Of length 1. */
  axes: readonly [Vec, Vec, Vec];
}

/** CSS pixels: the handles are as large on the screen, wherever they stand. */
const REACH = 86;
const NAMES = ['x', 'y', 'z'] as const;
const PLANES = ['yz', 'zx', 'xy'] as const;
const SEGMENTS = 48;

/** The parts of the handles as they are seen. */
export function gripsOf(tool: Tool, { at, axes }: HandleFrame, eye: Eye): Grip[] {
  const size = REACH * eye.pixelAt(at);
  const middle = eye.project(at);
  if (!eye.isFlat && middle.w <= 0) return [];
  return tool === 'rotate' ? rings(at, axes, size, eye) : arrows(tool, at, axes, size, eye);
}

/** How large the handles are at a place, metres. */
export const handleReach = (at: Vec, eye: Eye): number => REACH * eye.pixelAt(at);

function arrows(tool: Tool, at: Vec, axes: HandleFrame['axes'], size: number, eye: Eye): Grip[] {
  const grips: Grip[] = [];
  const from = eye.project(at);
  // What is nearer to the eye lies on top: it is drawn last, and hit first.
  const sorted = [0, 1, 2].sort((a, b) => dot(axes[b]!, eye.forward) - dot(axes[a]!, eye.forward)); // three
  for (const k of sorted) {
    const to = eye.project(add(at, axes[k]!, size)); // three
    const angle = Math.atan2(to.y - from.y, to.x - from.x);
    const short = Math.hypot(to.x - from.x, to.y - from.y);
    grips.push({
      name: NAMES[k]!, // three
      lines: [
        [
          from.x + Math.cos(angle) * Math.min(9, short),
          from.y + Math.sin(angle) * Math.min(9, short),
          to.x,
          to.y,
        ],
      ],
      tip: { x: to.x, y: to.y, kind: tool === 'move' ? 'arrow' : 'box', angle },
      color: k as 0 | 1 | 2,
    });
  }
  for (const k of sorted) {
    const [u, v] = [axes[(k + 1) % 3]!, axes[(k + 2) % 3]!]; // three
    // Seen edge-on a plane is a line that nobody can hit.
    if (Math.abs(dot(axes[k]!, eye.forward)) < 0.12) continue; // three
    const corner = (a: number, b: number): number[] => {
      const { x, y } = eye.project(add(add(at, u, a * size), v, b * size));
      return [x, y];
    };
    grips.push({
      name: PLANES[k]!, // three
      lines: [],
      fill: [...corner(0.24, 0.24), ...corner(0.46, 0.24), ...corner(0.46, 0.46), ...corner(0.24, 0.46)],
      color: k as 0 | 1 | 2,
    });
  }
  grips.push({ name: 'view', lines: [circle(from.x, from.y, 8)], fill: circle(from.x, from.y, 8), color: 3 });
  return grips;
}

function rings(at: Vec, axes: HandleFrame['axes'], size: number, eye: Eye): Grip[] {
  const grips: Grip[] = [];
  const { x, y } = eye.project(at);
  grips.push({ name: 'view', lines: [circle(x, y, REACH * 1.18)], color: 3 });
  for (const k of [0, 1, 2] as const) {
    const [u, v] = squareOn(axes[k]);
    // The half that faces the eye: behind the node nobody takes hold.
    const toEye = times(eye.forward, -1);
    const lines: number[][] = [];
    let line: number[] = [];
    for (let i = 0; i <= SEGMENTS; i++) {
      const angle = (i / SEGMENTS) * 2 * Math.PI;
      const out = add(times(u, Math.cos(angle)), v, Math.sin(angle));
      const isFront = dot(out, toEye) > -0.05 || Math.abs(dot(axes[k], toEye)) > 0.97;
      if (isFront) {
        const place = eye.project(add(at, out, size));
        line.push(place.x, place.y);
      } else if (line.length > 0) {
        lines.push(line);
        line = [];
      }
    }
    if (line.length > 0) lines.push(line);
    grips.push({ name: NAMES[k], lines, color: k });
  }
  return grips;
}

function circle(x: number, y: number, radius: number): number[] {
  const points: number[] = [];
  for (let i = 0; i <= 32; i++) {
    const angle = (i / 32) * 2 * Math.PI;
    points.push(x + Math.cos(angle) * radius, y + Math.sin(angle) * radius);
  }
  return points;
}

/** CSS pixels within which a line is hit. */
const NEAR = 8;

/** The part under the pointer: those that lie on top first. */
export function gripAt(grips: readonly Grip[], x: number, y: number): GripName | undefined {
  let best: GripName | undefined;
  let least = NEAR;
  for (const { fill, lines, name, tip } of [...grips].reverse()) {
    if (fill && isInside(fill, x, y)) return name;
    for (const line of lines)
      for (let i = 0; i + 3 < line.length; i += 2) {
        const away = awayFrom(x, y, line[i]!, line[i + 1]!, line[i + 2]!, line[i + 3]!); // i + 3 < length
        if (away < least) [least, best] = [away, name];
      }
    if (tip && Math.hypot(tip.x - x, tip.y - y) < NEAR + 3) return name;
  }
  return best;
}

function awayFrom(x: number, y: number, x0: number, y0: number, x1: number, y1: number): number {
  const [dx, dy] = [x1 - x0, y1 - y0];
  const along = Math.max(0, Math.min(1, ((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(x - x0 - along * dx, y - y0 - along * dy);
}

function isInside(corners: readonly number[], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = corners.length - 2; i < corners.length; j = i, i += 2) {
    const [xi, yi, xj, yj] = [corners[i]!, corners[i + 1]!, corners[j]!, corners[j + 1]!]; // pairs
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) inside = !inside;
  }
  return inside;
}

/** What a part moves along: an axis of length 1, or the normal of a plane. */
export function directionOf(name: GripName, { axes }: HandleFrame, eye: Pick<Eye, 'forward'>): Vec {
  const k = 'xyz'.indexOf(name);
  if (k >= 0) return axes[k]!; // three
  if (name === 'view') return times(eye.forward, -1);
  const j = PLANES.indexOf(name as (typeof PLANES)[number]);
  return cross(axes[(j + 1) % 3]!, axes[(j + 2) % 3]!); // three
}
