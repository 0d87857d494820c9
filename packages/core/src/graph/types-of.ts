import { tryCompileGraph, type CompileGraphOptions } from './compile-graph.js';
import type { Graph, GraphInput, GraphValue } from './document.js';

/**
 * What inputs are where they stand in a graph: of `"@p.normal"` `vec3f`. What is wrong has none.
 *
 * @param inputs references; each is a key of what is given
 */
export function typesOf(
  graph: Graph,
  inputs: readonly string[],
  options: CompileGraphOptions = {},
): ReadonlyMap<string, string> {
  const nodes: Record<string, GraphValue> = { ...graph.nodes };
  const asked = new Map<string, string>();
  for (const input of inputs) {
    let name = `asked ${asked.size}`;
    while (name in nodes) name += ' ';
    nodes[name] = { value: input as GraphInput };
    asked.set(input, name);
  }
  const { types } = tryCompileGraph({ ...graph, nodes }, options).compiled;
  return new Map(
    [...asked].flatMap(([input, name]): [string, string][] => {
      const type = types.get(name);
      return type === undefined ? [] : [[input, type]];
    }),
  );
}
