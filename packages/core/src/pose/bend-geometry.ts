import {
  attributeFloats,
  attributeFrom,
  type Attribute,
  type Geometry,
  vertexCount,
} from '../geometry/geometry.js';

declare module '../geometry/geometry.js' {
  interface Placements {
    /** Each vertex has a record of how joints and targets bend it. */
    pose: { readonly kind: 'pose' };
  }
}

/** Attribute of a bent geometry: where each vertex's record begins, counted in four words. */
export const BEND = '#bend';

/** Flags of what a record's targets move besides positions, in the order in which it is written. */
const PARTS = [
  ['normal', 1],
  ['tangent', 2],
  ['color0', 4],
  ['texcoord', 8],
] as const;

/** Words of records, made room for as they come. */
export class Records {
  words = new Uint32Array(1024);
  count = 0;
  private floats = new Float32Array(this.words.buffer);

  /** Four words; returns where they stand, counted in four words. */
  addWords(a: number, b: number, c: number, d: number): number {
    const at = this.reserve();
    this.words[at] = a;
    this.words[at + 1] = b;
    this.words[at + 2] = c;
    this.words[at + 3] = d;
    return at / 4;
  }

  /** The first of them a word, or a number with the others. */
  addFloats(a: number, b: number, c: number, d: number): void {
    const at = this.reserve();
    this.floats[at] = a;
    this.floats[at + 1] = b;
    this.floats[at + 2] = c;
    this.floats[at + 3] = d;
  }

  addEntry(target: number, x: number, y: number, z: number): void {
    this.addFloats(0, x, y, z);
    this.words[this.count - 4] = target;
  }

  private reserve(): number {
    const at = this.count;
    this.count += 4;
    if (this.count > this.words.length) {
      const words = new Uint32Array(this.words.length * 2);
      words.set(this.words);
      this.words = words;
      this.floats = new Float32Array(words.buffer);
    }
    return at;
  }
}

/**
 * The geometry with a record for each vertex of how it is bent, in words of 32 bits, four at a time:
 *
 *     entries, parts (1 normals, 2 tangents, 4 colours, 8 coordinates), influences / 4, 0
 *     for each four influences: joints 0 and 1, joints 2 and 3 (16 bits each, the first lower), 0, 0; weights as floats
 *     for each target that moves the vertex: its number, and by how much as floats xyz; then by part normal xyz 0,
 *     tangent xyz 0, colour rgba, coordinates 0 xy and 1 xy
 *
 * So a target costs vertices that it does not move nothing. Weights of joints are brought to a sum of 1.
 *
 * @param isSkinned whether joints count
 */
export function bendGeometry(geometry: Geometry, records: Records, isSkinned: boolean): Geometry {
  const { attributes, targets = [] } = geometry;
  const n = vertexCount(geometry);
  const sets = isSkinned ? influenceSets(geometry) : [];
  const moves = targets.map(({ attributes: own }) => ({
    position: floats(own['position']),
    normal: floats(own['normal']),
    tangent: floats(own['tangent']),
    color0: floats(own['color0']),
    colors: own['color0']?.components ?? 4,
    texcoord0: floats(own['texcoord0']),
    texcoord1: floats(own['texcoord1']),
  }));
  const has = (name: string): boolean =>
    targets.some(({ attributes: own }) => Object.keys(own).some((key) => key.startsWith(name)));
  const parts = PARTS.reduce((sum, [name, bit]) => sum + (has(name) ? bit : 0), 0);
  // As floats, which hold whole numbers up to 16 million: 256 MB of records.
  const at = new Float32Array(n);
  for (let v = 0; v < n; v++) {
    const touching = moves.flatMap((move, t) => (isMoved(move, v) ? [t] : []));
    at[v] = records.addWords(touching.length, parts, sets.length, 0);
    addInfluences(records, sets, v);
    for (const t of touching) {
      const move = moves[t]!; // one of them
      const three = (list: Float32Array | undefined): [number, number, number] =>
        list ? [list[v * 3]!, list[v * 3 + 1]!, list[v * 3 + 2]!] : [0, 0, 0]; // a vertex, here and below
      records.addEntry(t, ...three(move.position));
      if ((parts & 1) !== 0) records.addFloats(...three(move.normal), 0);
      if ((parts & 2) !== 0) records.addFloats(...three(move.tangent), 0);
      if ((parts & 4) !== 0) {
        const from = v * move.colors;
        const color = [0, 1, 2, 3].map((k) => (k < move.colors ? (move.color0?.[from + k] ?? 0) : 0));
        records.addFloats(color[0]!, color[1]!, color[2]!, color[3]!); // four
      }
      if ((parts & 8) !== 0) {
        const two = (list: Float32Array | undefined): [number, number] =>
          list ? [list[v * 2]!, list[v * 2 + 1]!] : [0, 0];
        records.addFloats(...two(move.texcoord0), ...two(move.texcoord1));
      }
    }
  }
  return {
    ...geometry,
    attributes: { ...attributes, [BEND]: attributeFrom(at, 1) },
    placement: { kind: 'pose' },
  };
}

/** Joints and weights by vertex, four of each a set; weights add up to 1. */
export function influenceSets({ attributes }: Geometry): { joints: Float32Array; weights: Float32Array }[] {
  const sets: { joints: Float32Array; weights: Float32Array }[] = [];
  for (let i = 0; attributes[`joints${i}`] && attributes[`weights${i}`]; i++)
    sets.push({
      joints: attributeFloats(attributes[`joints${i}`]!), // both are there
      weights: Float32Array.from(attributeFloats(attributes[`weights${i}`]!)),
    });
  const count = sets[0]?.weights.length ?? 0;
  for (let v = 0; v < count; v += 4) {
    let sum = 0;
    for (const { weights } of sets) for (let k = 0; k < 4; k++) sum += weights[v + k]!; // four a vertex
    for (const [i, { weights }] of sets.entries())
      for (let k = 0; k < 4; k++)
        // What nothing holds is held by the first.
        weights[v + k] = sum > 0 ? weights[v + k]! / sum : i === 0 && k === 0 ? 1 : 0;
  }
  return sets;
}

function addInfluences(records: Records, sets: ReturnType<typeof influenceSets>, v: number): void {
  for (const { joints, weights } of sets) {
    const i = v * 4;
    const pair = (k: number): number => (joints[i + k]! | (joints[i + k + 1]! << 16)) >>> 0; // four a vertex
    records.addWords(pair(0), pair(2), 0, 0);
    records.addFloats(weights[i]!, weights[i + 1]!, weights[i + 2]!, weights[i + 3]!);
  }
}

function floats(attribute: Attribute | undefined): Float32Array | undefined {
  return attribute && attributeFloats(attribute);
}

type Move = Record<
  'position' | 'normal' | 'tangent' | 'color0' | 'texcoord0' | 'texcoord1',
  Float32Array | undefined
> & {
  colors: number;
};

function isMoved(move: Move, v: number): boolean {
  const some = (list: Float32Array | undefined, width: number): boolean => {
    if (list) for (let k = 0; k < width; k++) if (list[v * width + k] !== 0) return true;
    return false;
  };
  return (
    some(move.position, 3) ||
    some(move.normal, 3) ||
    some(move.tangent, 3) ||
    some(move.color0, move.colors) ||
    some(move.texcoord0, 2) ||
    some(move.texcoord1, 2)
  );
}
