import { tryCompileGraph } from './compile-graph.js';
import type { Graph, GraphInput } from './document.js';
import { CALL_TABLE, type CallInput } from './node-table.js';

/** Calls that take a value at one of their inputs, with the input, by the type of the value. */
const known = new Map<string, ReadonlyMap<string, number>>();

/** Values that stand for types. */
const SAMPLES: Readonly<Record<string, GraphInput>> = {
  f32: { call: 'f32', in: [0.5] },
  i32: { call: 'i32', in: [1] },
  u32: { call: 'u32', in: [1] },
  bool: true,
  vec2f: [0.5, 0.25],
  vec3f: [0.5, 0.25, 1],
  vec4f: [0.5, 0.25, 1, 1],
};

/**
 * Calls of the table that a value of a type fits into, with the number of the first input that takes it: where a link is dropped, these
 * are offered.
 *
 * @param type as `CompiledGraph.types` has it
 * @returns all calls, for a type that is not known
 */
export function callsFor(type: string): ReadonlyMap<string, number> {
  const found = known.get(type);
  if (found) return found;
  const sample = SAMPLES[type];
  const fitting = new Map<string, number>();
  for (const [name, { inputs }] of CALL_TABLE) {
    const place = sample === undefined ? 0 : inputs.findIndex((_, i) => takes(name, inputs, i, sample));
    if (place >= 0 && inputs.length > 0) fitting.set(name, place);
  }
  known.set(type, fitting);
  return fitting;
}

/** What stands at the inputs that have no default. */
const STANDS_IN: Readonly<Record<string, GraphInput>> = { texture: 'picture', condition: true, number: 0 };

function takes(call: string, inputs: readonly CallInput[], place: number, sample: GraphInput): boolean {
  const value = typeof sample === 'object' && !Array.isArray(sample) ? sample : { value: sample };
  const graph: Graph = {
    graph: 1,
    textures: { picture: {} },
    nodes: {
      sample: value as never,
      tried: {
        call,
        in: inputs.map(({ default: usual, name }, i) =>
          i === place ? '@sample' : usual === undefined ? (STANDS_IN[name] ?? '@sample') : null,
        ),
      },
    },
    hooks: { surface: {} },
  };
  return !tryCompileGraph(graph).faults.some(
    ({ node, severity }) => severity === 'error' && node === 'tried',
  );
}
