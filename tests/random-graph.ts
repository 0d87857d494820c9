import type { Graph, GraphInput, GraphValue } from '@umber-lens/core/graphs';

/** Calls with what they take and give. */
export const RANDOM_CALLS: readonly [call: string, takes: string[], gives: string][] = [
  ...['+', '-', '*'].flatMap((call): [string, string[], string][] => [
    [call, ['f32', 'f32'], 'f32'],
    [call, ['vec3f', 'vec3f'], 'vec3f'],
    [call, ['vec3f', 'f32'], 'vec3f'],
  ]),
  ['dot', ['vec3f', 'vec3f'], 'f32'],
  ['cross', ['vec3f', 'vec3f'], 'vec3f'],
  ['length', ['vec3f'], 'f32'],
  ['saturate', ['f32'], 'f32'],
  ['abs', ['vec3f'], 'vec3f'],
  ['min', ['f32', 'f32'], 'f32'],
  ['mix', ['vec3f', 'vec3f', 'f32'], 'vec3f'],
  ['vec3f', ['f32', 'f32', 'f32'], 'vec3f'],
  ['vec3f', ['f32'], 'vec3f'],
  ['fract', ['f32'], 'f32'],
  ['step', ['f32', 'f32'], 'f32'],
  ['luminance', ['vec3f'], 'f32'],
  ['remap', ['f32', 'f32', 'f32', 'f32', 'f32'], 'f32'],
  ['twist', ['vec3f', 'f32'], 'vec3f'],
];
const LEAVES: Readonly<Record<string, readonly GraphInput[]>> = {
  f32: [0.5, -1.25, 3, 0, '@settings.share', '@p.normal.y', '@p.texcoord0.x'],
  vec3f: [[1, 0, 0.5], '#ffb46a', '@p.normal', '@p.position', '@settings.tint', '@p.color.rgb'],
};

/**
 * A graph by a list of chances: numbers and vectors put together by calls that take them.
 *
 * @param hooksOf what it gives, of a vector and of a number
 */
export function randomGraph(
  chances: readonly number[],
  hooksOf: (vector: GraphInput, number: GraphInput) => Graph['hooks'] = (emissive, roughness) => ({
    surface: { emissive, roughness },
  }),
): Graph {
  const nodes: Record<string, GraphValue> = {};
  const made: Record<string, string[]> = { f32: [], vec3f: [] };
  let at = 0;
  const chance = (most: number): number => chances[at++ % chances.length]! % most;
  const input = (type: string, depth: number): GraphInput => {
    const known = made[type]!;
    if (known.length > 0 && chance(3) > 0) return known[chance(known.length)]!;
    if (depth < 2 && chance(4) === 0) {
      const fitting = RANDOM_CALLS.filter(([, , gives]) => gives === type);
      const [call, takes] = fitting[chance(fitting.length)]!;
      return { call, in: takes.map((one) => input(one, depth + 1)) };
    }
    const leaves = LEAVES[type]!;
    return leaves[chance(leaves.length)]!;
  };
  const count = 2 + chance(12);
  for (let i = 0; i < count; i++) {
    const [call, takes, gives] = RANDOM_CALLS[chance(RANDOM_CALLS.length)]!;
    const name = ['value', 'a b', 'dot', 'let', `n${i}`][chance(5)]! + i;
    nodes[name] = { call, in: takes.map((one) => input(one, 0)) };
    made[gives]!.push(`@${name}`);
  }
  return {
    graph: 1,
    settings: {
      share: { type: 'f32', value: 0.3, range: [0, 1] },
      tint: { type: 'color', value: '#4080c0' },
    },
    functions: {
      twist: {
        takes: { v: 'vec3f', by: 'f32' },
        nodes: { turned: { call: '+', in: ['@v.yzx', '@by'] } },
        gives: { call: '*', in: ['@turned', 0.5] },
      },
    },
    nodes,
    hooks: hooksOf(input('vec3f', 0), input('f32', 0)),
  };
}
