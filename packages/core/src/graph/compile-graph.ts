import { LensError } from '../errors/lens-error.js';
import { checkNames } from './check-graph-names.js';
import type { Graph } from './document.js';
import { type CompileGraphOptions, Draft } from './draft.js';
import type { GraphFault, GraphSpot } from './faults.js';
import type { Known, Signature } from './types.js';
import { writeFunctions } from './write-functions.js';
import { environmentFor, ownStructs, tellIdle, writeHeader } from './write-header.js';
import { writeHooks } from './write-hooks.js';

export type { CompileGraphOptions } from './draft.js';

/** A graph in WGSL. */
export interface CompiledGraph {
  /** A module of hooks, as one would write it by hand: one `let` a node, with its name. */
  wgsl: string;
  /** By line of it, from 0: which node or output stands there. */
  lines: readonly (GraphSpot | undefined)[];
  /** Of each node what it gives, as WGSL has it: `vec3f`. Nodes of functions as `function/node`. */
  types: ReadonlyMap<string, string>;
  /** Of each node what it is called in the WGSL. */
  names: ReadonlyMap<string, string>;
  /** What is right and seldom meant. */
  warnings: readonly GraphFault[];
}

/**
 * Compiles a graph into a module of hooks in readable WGSL, which `compileMaterialShader`, the plugin for Vite and the command line take
 * as one that was written by hand. Inputs without a value have their default: nothing is undefined.
 *
 * @throws LensError `graph/faults` for what `checkGraph` tells as an error
 */
export function compileGraph(graph: Graph, options: CompileGraphOptions = {}): CompiledGraph {
  const { compiled, faults } = tryCompileGraph(graph, options);
  const errors = faults.filter(({ severity }) => severity === 'error');
  const [first] = errors;
  if (first) {
    const told = errors.map(
      ({ hint, path, summary }) => `${path.join('/')}: ${summary}${hint ? `\n  hint: ${hint}` : ''}`,
    );
    throw new LensError(
      'graph/faults',
      errors.length === 1 ? told[0]! : `${errors.length} things are wrong in the graph:\n${told.join('\n')}`,
      {
        where: { file: options.file ?? 'shader.graph.json', pointer: `/${first.path.join('/')}` },
        cause: errors,
      },
    );
  }
  return compiled;
}

/** The same with everything that is wrong beside it; what is wrong stands in the WGSL as 0. */
export function tryCompileGraph(
  graph: Graph,
  options: CompileGraphOptions = {},
): { compiled: CompiledGraph; faults: GraphFault[] } {
  const draft = new Draft(graph, options);
  checkNames(draft);
  if (graph.note) for (const one of graph.note.split('\n')) draft.line(`// ${one}`.trimEnd());
  writeHeader(draft);
  const environment = environmentFor(draft);
  const functions = new Map<string, Signature>(environment.functions);
  const known: Known = {
    functions,
    structs: new Map([...environment.structs, ...ownStructs(draft, environment)]),
  };
  writeFunctions(draft, known, functions);
  writeHooks(draft, known);
  const { faults, lines, names, types } = draft;
  // What is wrong may be why nothing names them.
  if (!faults.some(({ severity }) => severity === 'error')) tellIdle(draft);
  while (lines.at(-1)?.text === '') lines.pop();
  const compiled = {
    wgsl: `${lines.map(({ text }) => text).join('\n')}\n`,
    lines: lines.map(({ spot }) => spot),
    types,
    names,
    warnings: faults.filter(({ severity }) => severity === 'warning'),
  };
  return { compiled, faults };
}
