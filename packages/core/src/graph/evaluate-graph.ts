import { LensError } from '../errors/lens-error.js';
import { linkHooks } from '../shading/check-hooks.js';
import type { HookName } from '../shading/hook-outline.js';
import { findFunction, type Shader } from '../wgsl/compile.js';
import { reflect } from '../wgsl/reflect.js';
import { type RunOptions, runWgsl, toJson } from '../wgsl/run/run.js';
import type { TraceStep } from '../wgsl/run/lane.js';
import type { CompiledGraph, CompileGraphOptions } from './compile-graph.js';
import { type Type, typeName } from '../wgsl/types/types.js';

export interface EvaluateOptions extends CompileGraphOptions {
  /** Values of settings by name; those that are left out are as they begin. */
  settings?: Readonly<Record<string, unknown>>;
  /** Buffers, textures and samplers: see `runWgsl`. */
  resources?: NonNullable<RunOptions['resources']>;
  /** What the hook is given at all of the two by two pixels that a GPU compares, row by row, and which of them `args` is. */
  quad?: { args: readonly Readonly<Record<string, unknown>>[]; lane: number };
}

/** What every node of a graph is at one place. */
export interface EvaluatedGraph {
  /** By node; of a function of the graph as `function/node`, as it was last called. Numbers, and lists of numbers. */
  nodes: ReadonlyMap<string, unknown>;
  /** What the hook gives. */
  gives: unknown;
}

/** Linked once a graph. */
const linked = new WeakMap<CompiledGraph, Shader>();

/**
 * Computes a hook of a compiled graph on the CPU, in f32 as the GPU has it, and tells what each node is on the way.
 *
 * @param args what the hook is given, by its names there: `{ p: { normal: [0, 0, 1], toCamera: [0, 0, 1] } }`; members that are left out are 0, those
 *   that it does not ask for are left aside
 * @throws LensError `graph/no-hook` where the graph does not give it; those of `runWgsl`
 */
export function evaluateGraph(
  compiled: CompiledGraph,
  hook: HookName,
  args: Readonly<Record<string, unknown>> = {},
  options: EvaluateOptions = {},
): EvaluatedGraph {
  const { file = 'shader.graph.json', quad, resources = {}, settings = {}, sources = {} } = options;
  let shader = linked.get(compiled);
  if (!shader) linked.set(compiled, (shader = linkHooks(compiled.wgsl, { file, sources: { ...sources } })));
  const fn = findFunction(shader, hook);
  if (!fn || fn.span.source.file !== file)
    throw new LensError('graph/no-hook', `the graph gives no ${hook}`, {
      where: { file },
      hint: 'Look at its "hooks".',
    });
  const begin = Object.fromEntries(
    reflect(shader).settings.map(({ default: usual, name }) => [name, usual ?? 0]),
  );
  const givenOf = (own: Readonly<Record<string, unknown>>): unknown[] =>
    fn.params.map(({ local, name }) => {
      if (typeName(local!.type) === 'Settings') return { ...begin, ...settings }; // checked
      return membersOf(own[name] ?? {}, local!.type); // as above
    });
  const trace: TraceStep[] = [];
  const beside = quad ? { quad: { args: quad.args.map(givenOf), lane: quad.lane } } : {};
  const gives = runWgsl(shader, hook, givenOf(args), { resources, trace, ...beside });
  const nodes = new Map<string, unknown>();
  for (const { file: from, kind, line, type, value } of trace) {
    const spot = from === file && kind === 'let' ? compiled.lines[line - 1] : undefined;
    if (spot?.node === undefined || value === undefined) continue;
    nodes.set(spot.function === undefined ? spot.node : `${spot.function}/${spot.node}`, toJson(value, type));
  }
  return { nodes, gives };
}

/** Of an object what a structure has. */
function membersOf(given: unknown, type: Type): unknown {
  if (type.kind !== 'struct' || typeof given !== 'object' || given === null) return given;
  return Object.fromEntries(
    Object.entries(given).filter(([name]) => type.members.some((member) => member.name === name)),
  );
}
