import { isNumbers } from '../../errors/in-words.js';
import { attributeFloats, type Geometry } from '../../geometry/geometry.js';
import { triangleCount } from '../../geometry/triangles.js';
import { encodedOf, type Image, type Material } from '../../material/material.js';
import { affineFromMatrix, affineFromTrs } from '../../math/affine.js';
import { inUnits } from '../../properties/in-units.js';
import { KINDS } from '../../properties/kinds.js';
import type { Table } from '../../properties/property.js';
import type { Mesh } from '../../scene/components.js';
import type { AssetNode, ModelAsset } from './asset.js';
import { shownRoots } from './roots.js';

/** One thing that two models do not have in common. */
export interface AssetDifference {
  kind: 'node' | 'mesh' | 'material' | 'clip' | 'light' | 'camera' | 'skin';
  /** Of what: names from the root down for nodes; its own name, or its number. */
  name: string;
  /** What differs, in words. */
  what: string;
}

export interface DiffOptions {
  /** Numbers may differ by so much, of the larger of 1 and themselves. Default 1e-6: what 32 bits round. */
  tolerance?: number;
}

/**
 * What differs between two models: nodes by their names and where they are, meshes by what they are made of, materials by name
 * and member, clips by name, length and channels. The order of vertices and of lists in the file does not count, nor how
 * numbers are stored.
 */
export function diffAssets(
  a: ModelAsset,
  b: ModelAsset,
  { tolerance = 1e-6 }: DiffOptions = {},
): AssetDifference[] {
  const found: AssetDifference[] = [];
  const tell = (kind: AssetDifference['kind'], name: string, what: string): void =>
    void found.push({ kind, name, what });
  pairNodes(a, b, (path, left, right) => {
    if (!left || !right) return tell('node', path, left ? 'is only in the first' : 'is only in the second');
    const [p, q] = [localOf(left), localOf(right)];
    const farthest = Math.max(...p.map((value, i) => Math.abs(value - q[i]!) / Math.max(1, Math.abs(value)))); // twelve
    if (farthest > tolerance) tell('node', path, `stands elsewhere: ${shortMatrix(p)} and ${shortMatrix(q)}`);
    if ((left.visible ?? true) !== (right.visible ?? true)) tell('node', path, 'is hidden in one of them');
    if (JSON.stringify(left.extras) !== JSON.stringify(right.extras)) tell('node', path, 'has other extras');
    if ((left.instances?.count ?? 0) !== (right.instances?.count ?? 0))
      tell('node', path, `has ${left.instances?.count ?? 0} instances and ${right.instances?.count ?? 0}`);
    if ((left.skin?.joints.length ?? 0) !== (right.skin?.joints.length ?? 0))
      tell('skin', path, `has ${left.skin?.joints.length ?? 0} joints and ${right.skin?.joints.length ?? 0}`);
    compareParts(left, right, path, tolerance, tell);
    for (const what of meshDifferences(left.mesh, right.mesh, tolerance)) tell('mesh', path, what);
  });
  const [material, clip] = [(i: number) => `material ${i}`, (i: number) => `clip ${i}`];
  pair(byName(materialsOf(a), material), byName(materialsOf(b), material), (name, left, right) => {
    if (!left || !right)
      return tell('material', name, left ? 'is only in the first' : 'is only in the second');
    for (const what of memberDifferences(left, right, KINDS.material.table, tolerance))
      tell('material', name, what);
  });
  pair(byName(a.animations, clip), byName(b.animations, clip), (name, left, right) => {
    if (!left || !right) return tell('clip', name, left ? 'is only in the first' : 'is only in the second');
    if (Math.abs(left.duration - right.duration) > tolerance)
      tell('clip', name, `takes ${left.duration} s and ${right.duration} s`);
    if (left.channels.length !== right.channels.length)
      tell('clip', name, `has ${left.channels.length} channels and ${right.channels.length}`);
  });
  return found;
}

/** Calls with each key of either, the first's in its order. */
function pair<T>(
  a: ReadonlyMap<string, T>,
  b: ReadonlyMap<string, T>,
  visit: (key: string, left: T | undefined, right: T | undefined) => void,
): void {
  for (const [key, left] of a) visit(key, left, b.get(key));
  for (const [key, right] of b) if (!a.has(key)) visit(key, undefined, right);
}

/** Calls with nodes that have the same names from the root down; what the second alone has comes last. Trees may be of any depth. */
function pairNodes(
  a: ModelAsset,
  b: ModelAsset,
  visit: (path: string, left: AssetNode | undefined, right: AssetNode | undefined) => void,
): void {
  type Level = [path: string, left: readonly AssetNode[], right: readonly AssetNode[]];
  type Step = [path: string, left: AssetNode | undefined, right: AssetNode | undefined];
  const unnamed = (): string => '(unnamed)';
  const steps = ([above, left, right]: Level): Step[] => {
    const list: Step[] = [];
    pair(byName(left, unnamed), byName(right, unnamed), (name, ...both) =>
      list.push([`${above}/${name}`, ...both]),
    );
    return list;
  };
  const ofSecond: Step[] = [];
  const follow = (begin: Step[], isOfSecond: boolean): void => {
    const stack = begin.reverse();
    for (let step = stack.pop(); step; step = stack.pop()) {
      const [path, left, right] = step;
      if (!left && !isOfSecond) {
        ofSecond.push(step);
        continue;
      }
      visit(path, left, right);
      const below = steps([path, left?.children ?? [], right?.children ?? []]);
      for (let i = below.length - 1; i >= 0; i--) stack.push(below[i]!); // in range
    }
  };
  follow(steps(['', shownRoots(a), shownRoots(b)]), false);
  follow(ofSecond, true);
}

/** By names; those without one as `usual` says, and those that share one by their number among them. */
function byName<T extends { name?: string }>(
  list: readonly T[],
  usual: (i: number) => string,
): Map<string, T> {
  const found = new Map<string, T>();
  const taken = new Map<string, number>();
  list.forEach((one, i) => {
    const own = one.name ?? usual(i);
    let times = taken.get(own) ?? 0;
    let key: string;
    do key = ++times > 1 ? `${own} #${times}` : own;
    while (found.has(key));
    taken.set(own, times);
    found.set(key, one);
  });
  return found;
}

const materialsOf = ({ nodes }: ModelAsset): Material[] => [
  ...new Set(nodes.flatMap(({ mesh }) => mesh?.primitives.flatMap(({ material }) => material ?? []) ?? [])),
];

function localOf({ matrix, translation, rotation, scale }: AssetNode): Float64Array {
  const out = new Float64Array(12);
  if (matrix) affineFromMatrix(out, 0, matrix);
  else affineFromTrs(out, 0, translation ?? [0, 0, 0], 0, rotation ?? [0, 0, 0, 1], 0, scale ?? [1, 1, 1], 0);
  return out;
}

/** The place alone: what most differ by. */
const shortMatrix = (m: Float64Array): string =>
  `(${[3, 7, 11].map((k) => Number(m[k]!.toPrecision(4))).join(', ')})`;

function compareParts(
  left: AssetNode,
  right: AssetNode,
  path: string,
  tolerance: number,
  tell: (kind: AssetDifference['kind'], name: string, what: string) => void,
): void {
  for (const kind of ['light', 'camera'] as const) {
    const [p, q] = [left[kind], right[kind]];
    if (!p !== !q) tell(kind, path, `carries ${p ? 'one in the first' : 'one in the second'} alone`);
    else if (p && q)
      for (const what of memberDifferences(p, q, KINDS[kind].table, tolerance)) tell(kind, path, what);
  }
}

function meshDifferences(a: Mesh | undefined, b: Mesh | undefined, tolerance: number): string[] {
  if (a === b || (!a && !b)) return [];
  if (!a || !b) return [a ? 'is only in the first' : 'is only in the second'];
  if (a.primitives.length !== b.primitives.length)
    return [`has ${a.primitives.length} primitives and ${b.primitives.length}`];
  return a.primitives.flatMap(({ geometry }, i) =>
    geometryDifferences(geometry, b.primitives[i]!.geometry, tolerance).map((what) =>
      a.primitives.length > 1 ? `primitive ${i}: ${what}` : what,
    ),
  );
}

function geometryDifferences(a: Geometry, b: Geometry, tolerance: number): string[] {
  const out: string[] = [];
  const [mine, theirs] = [a, b].map((of) => Object.keys(of.attributes).sort().join(', '));
  if (mine !== theirs) out.push(`has ${mine}; and ${theirs}`);
  const [t, u] = [triangleCount(a), triangleCount(b)];
  if (t !== u) out.push(`has ${t} triangles and ${u}`);
  const [p, q] = [a, b].map((of) => of.attributes['position']!.count); // each has positions
  if (p !== q) out.push(`has ${p} vertices and ${q}`);
  const size = Math.max(...a.bounds.max.map((value, k) => value - a.bounds.min[k]!), 1e-30);
  const moved = [...a.bounds.min, ...a.bounds.max].some(
    (value, k) => Math.abs(value - [...b.bounds.min, ...b.bounds.max][k]!) > size * Math.max(tolerance, 1e-6),
  );
  if (moved) out.push('reaches elsewhere');
  if ((a.targets?.length ?? 0) !== (b.targets?.length ?? 0))
    out.push(`has ${a.targets?.length ?? 0} targets and ${b.targets?.length ?? 0}`);
  if (out.length === 0 && p === q) {
    for (const name of Object.keys(a.attributes)) {
      const far = farthest(attributeFloats(a.attributes[name]!), attributeFloats(b.attributes[name]!)); // both have it
      const scale = name === 'position' ? size : 1;
      if (far > scale * tolerance) out.push(`differs in ${name} by up to ${Number(far.toPrecision(3))}`);
    }
  }
  return out;
}

function farthest(a: Float32Array, b: Float32Array): number {
  let most = 0;
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i]! - b[i]!)); // as long as each other
  return most;
}

/** What differs in the members of two things of one kind: what is left out counts as its default. Names do not count. */
function memberDifferences(a: object, b: object, table: Table, tolerance: number): string[] {
  const out: string[] = [];
  const of = (thing: object, key: string): unknown => (thing as Record<string, unknown>)[key];
  const { type } = a as { type?: string };
  for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
    const property = table[key] ?? { line: '', type: 'given' };
    if (property.names === 'itself') continue;
    const [p, q] = [of(a, key) ?? property.default, of(b, key) ?? property.default];
    if (isTexture(p) || isTexture(q)) {
      if (!isTexture(p) || !isTexture(q))
        out.push(`${key} is only in the ${isTexture(p) ? 'first' : 'second'}`);
      else if (!isSameImage(p.texture.image, q.texture.image)) out.push(`${key} is another picture`);
    } else if (!isSame(p, q, tolerance))
      out.push(`${key} is ${inUnits(p, property, type)} and ${inUnits(q, property, type)}`);
  }
  return out;
}

const isTexture = (value: unknown): value is { texture: { image: Image } } =>
  typeof value === 'object' && value !== null && 'texture' in value;

function isSameImage(a: Image, b: Image): boolean {
  const [p, q] = [encodedOf(a)?.bytes, encodedOf(b)?.bytes];
  return (
    a === b ||
    (p !== undefined && q !== undefined && p.length === q.length && p.every((byte, i) => byte === q[i]))
  );
}

function isSame(a: unknown, b: unknown, tolerance: number): boolean {
  if (typeof a === 'number' && typeof b === 'number')
    return Math.abs(a - b) <= tolerance * Math.max(1, Math.abs(a));
  if (isNumbers(a) && isNumbers(b))
    return a.length === b.length && Array.from(a).every((value, i) => isSame(value, b[i], tolerance));
  return JSON.stringify(a) === JSON.stringify(b);
}
