import { linkHooks } from '../shading/check-hooks.js';
import { addCost, CostBook, noCost, type ShaderCost } from '../wgsl/bound/costs.js';
import type { FunctionDecl, Statement } from '../wgsl/parse/ast.js';
import { lineOf } from '../wgsl/parse/source.js';
import type { CompiledGraph, CompileGraphOptions } from './compile-graph.js';

/** What a graph computes, by node and by stage. */
export interface GraphCosts {
  /** By node, with the functions that it calls. Nodes that two hooks take are computed in each, and counted once. */
  nodes: ReadonlyMap<string, ShaderCost>;
  /** Where a vertex, and where a pixel is computed: hooks whole, `light` once a light. */
  stages: { vertex: ShaderCost; fragment: ShaderCost };
}

/**
 * What a compiled graph costs: operations and reads of textures, counted in the checked shader. It is a count and no time: GPUs differ. Loops
 * whose turns are not known count eight times, and are told.
 *
 * @throws LensError what `checkHooks` finds
 */
export function graphCosts(compiled: CompiledGraph, options: CompileGraphOptions = {}): GraphCosts {
  const { file = 'shader.graph.json', sources = {} } = options;
  const { checked } = linkHooks(compiled.wgsl, { file, sources: { ...sources } });
  const book = new CostBook();
  const nodes = new Map<string, ShaderCost>();
  const stages: GraphCosts['stages'] = { vertex: noCost(), fragment: noCost() };
  for (const fn of checked.functions) {
    if (fn.span.source.file !== file) continue;
    const hook = compiled.lines[lineOf(fn.nameSpan) - 1]?.hook;
    if (hook !== undefined) addCost(stages[hook === 'displace' ? 'vertex' : 'fragment'], book.ofFunction(fn));
    for (const { init, name } of lets(fn)) {
      const spot = compiled.lines[lineOf(name) - 1];
      if (spot?.node === undefined) continue;
      const key = spot.function === undefined ? spot.node : `${spot.function}/${spot.node}`;
      nodes.set(key, book.ofExpression(init));
    }
  }
  return { nodes, stages };
}

/** What a function computes under a name, at its top: nodes are written there. */
const lets = ({ body }: FunctionDecl): { name: FunctionDecl['span']; init: LetStatement['init'] }[] =>
  body.flatMap((one) => (one.kind === 'let' ? { name: one.nameSpan, init: one.init } : []));

type LetStatement = Statement & { kind: 'let' };
