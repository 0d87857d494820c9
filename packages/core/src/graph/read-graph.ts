import { inWords } from '../errors/in-words.js';
import { LensError } from '../errors/lens-error.js';
import { check, isObject } from '../json/forms.js';
import { JsonPlaces, parseJsonc } from '../json/strict-json.js';
import { checkHooks } from '../shading/check-hooks.js';
import { type Finding, wgslError } from '../wgsl/parse/source.js';
import { type CompiledGraph, type CompileGraphOptions, tryCompileGraph } from './compile-graph.js';
import type { Graph } from './document.js';
import { type GraphFault, type GraphSpot, pathOfSpot } from './faults.js';
import { GRAPH_FORM } from './graph-forms.js';
import { isCall } from './document.js';
import { inputsWithin, outputsOf } from './walk.js';

/** Something to tell about a graph. Lines and columns are 1-based, of the graph's own text. */
export interface GraphFinding extends Finding {
  /** JSON pointer to what it is about. */
  pointer: string;
  /** The node that it is about, and the function of the graph that has it. */
  node?: string;
  function?: string;
}

/** Of what sheets call their faults, what graphs do. */
const FORM_CODES: Readonly<Record<string, string>> = {
  'sheet/value': 'graph/value',
  'sheet/unknown': 'graph/unknown',
  'sheet/missing': 'graph/missing',
  'sheet/both': 'graph/both',
  'sheet/idle': 'graph/idle',
};

interface LookedThrough {
  /** Undefined where the text is no graph at all. */
  graph?: Graph;
  faults: GraphFault[];
  places: JsonPlaces;
  refused?: LensError;
}

function lookThrough(text: string, file: string): LookedThrough {
  const places = new JsonPlaces(text, file);
  let json: unknown;
  try {
    json = parseJsonc(text, file, 'graph/json');
  } catch (error) {
    if (error instanceof LensError) return { faults: [], places, refused: error };
    throw error;
  }
  const refuse = (summary: string, hint: string): LookedThrough => ({
    faults: [],
    places,
    refused: new LensError('graph/version', summary, { where: { file, line: 1, column: 1 }, hint }),
  });
  if (!isObject(json) || !('graph' in json))
    return refuse(
      `${file} is ${isObject(json) ? 'no graph: it has no "graph"' : `${inWords(json)}, and no graph`}`,
      'A graph begins so: { "graph": 1, "nodes": {}, "hooks": {} }.',
    );
  if (typeof json['graph'] === 'number' && json['graph'] > 1)
    return refuse(
      `${file} is a graph of version ${json['graph']}`,
      'This reads version 1: take a newer version of the library.',
    );
  const faults = check(json, GRAPH_FORM).faults.map((found): GraphFault => ({
    severity: 'error',
    code: FORM_CODES[found.code] ?? found.code,
    summary: found.summary,
    hint: found.hint,
    path: found.path,
    ...(found.isKey ? { isKey: true } : {}),
    ...nodeIn(found.path),
  }));
  for (const { path } of text.length < 2_000_000 ? places.twice() : [])
    faults.push({
      severity: 'error',
      code: 'graph/key-twice',
      summary: `"${path.at(-1)!}" stands twice in one object`, // it has a name
      hint: 'The last one counts: take the other away.',
      path,
      isKey: true,
      ...nodeIn(path),
    });
  const graph = json as unknown as Graph;
  if (faults.length === 0) faults.push(...outputFaults(graph));
  return { graph, faults, places };
}

/** What stands in outputs is not told by the form: calls lie beside members there. */
function outputFaults(graph: Graph): GraphFault[] {
  const faults: GraphFault[] = [];
  for (const [name, hook] of Object.entries(graph.hooks))
    for (const { input, path } of outputsOf(hook, name))
      for (const one of inputsWithin(input, path)) {
        const { input: held } = one;
        const isRight =
          held === null ||
          ['number', 'boolean', 'string'].includes(typeof held) ||
          Array.isArray(held) ||
          (isCall(held) &&
            typeof held.call === 'string' &&
            (held.in === undefined || Array.isArray(held.in)));
        if (!isRight)
          faults.push({
            severity: 'error',
            code: 'graph/value',
            summary: `an output is ${inWords(held)}`,
            hint: 'Give a value, "@name" of a node, or { "call": ..., "in": [...] }.',
            path: one.path,
          });
      }
  return faults;
}

function nodeIn(path: readonly (string | number)[]): { node?: string; function?: string } {
  const [first, second, third, fourth] = path.map(String);
  if (first === 'nodes' && second !== undefined) return { node: second };
  if (first !== 'functions' || second === undefined) return {};
  return { function: second, ...(third === 'nodes' && fourth !== undefined ? { node: fourth } : {}) };
}

/**
 * A graph out of a text in JSON, with comments and trailing commas, its form checked.
 *
 * @param file its name, for messages
 * @throws LensError `graph/json`, `graph/version`, or what is wrong with its form: one by itself, several as `graph/faults`
 */
export function readGraph(text: string, file = 'shader.graph.json'): Graph {
  const { faults, graph, places, refused } = lookThrough(text, file);
  if (refused) throw refused;
  const errors = faults.map(
    ({ code, hint, isKey = false, path, summary }) =>
      new LensError(code, summary, { hint, where: places.of(path, isKey) }),
  );
  if (errors.length === 1) throw errors[0]!; // one
  if (errors.length > 0)
    throw new LensError(
      'graph/faults',
      `${errors.length} things are wrong in ${file}:\n${errors.slice(0, 30).join('\n')}`,
      {
        where: { file },
        cause: errors,
      },
    );
  return graph!; // nothing is wrong
}

/** What of a graph is for eyes alone: where things stand. */
export type GraphLooks = Pick<Graph, 'layout' | 'frames' | 'notes'>;

/** That of a text which is a graph but for them: read in a fraction of the time. */
export function readLooks(text: string): GraphLooks {
  const { frames, layout, notes } = parseJsonc(text, '', 'graph/json') as GraphLooks;
  return { ...(frames ? { frames } : {}), ...(layout ? { layout } : {}), ...(notes ? { notes } : {}) };
}

export interface CheckGraphOptions extends CompileGraphOptions {
  /** Without what the compiler says of the WGSL, which takes most of the time: while something is typed. Default false. */
  isQuick?: boolean;
}

/**
 * Everything that is wrong with a graph, and what is right and seldom meant, each with its place and its node, in the order of the text: its
 * form, names, rings, types, inputs without a value, unused nodes, spaces that do not match, powers of what may be negative, steps that let
 * everything through, and whatever the compiler says of the WGSL that is made of it. Empty: nothing is.
 */
export const checkGraph = (text: string, options: CheckGraphOptions = {}): GraphFinding[] =>
  lookAtGraph(text, options).findings;

/** A graph with all that is known of it. */
export interface SeenGraph {
  findings: GraphFinding[];
  /** Undefined where its form is wrong. */
  graph?: Graph;
  /** Undefined where there are errors. */
  compiled?: CompiledGraph;
}

/** Reads, checks and compiles a graph in one go: what an editor does at each change. See `checkGraph`. */
export function lookAtGraph(text: string, options: CheckGraphOptions = {}): SeenGraph {
  const { file = 'shader.graph.json', isQuick = false } = options;
  const { faults, graph, places, refused } = lookThrough(text, file);
  const lines = text.split(/\r\n|\r|\n/);
  // A whole document on one line is no help.
  const lineOf = (line: number): string =>
    (lines[line - 1]?.length ?? 0) > 300 ? '' : (lines[line - 1] ?? '');
  if (refused) {
    const { code, hint, summary, where } = refused;
    const { column = 1, line = 1 } = where;
    return {
      findings: [
        {
          file,
          line,
          column,
          severity: 'error',
          code,
          message: summary,
          hint,
          lineText: lineOf(line),
          length: 1,
          pointer: '',
        },
      ],
    };
  }
  let all = faults;
  let made: CompiledGraph | undefined;
  if (graph && faults.length === 0) {
    const { compiled, faults: found } = tryCompileGraph(graph, { ...options, file });
    all =
      isQuick || found.some(({ severity }) => severity === 'error')
        ? found
        : [...found, ...compilerFaults(compiled, options, file)];
    if (!all.some(({ severity }) => severity === 'error')) made = compiled;
  }
  const findings = all
    .map((fault): GraphFinding => {
      const { code, function: of, hint, isKey = false, node, path, severity, summary } = fault;
      const { column = 1, line = 1, pointer = '' } = places.of(nearestPlace(graph, path), isKey);
      const held = path.at(-1);
      return {
        file,
        line,
        column,
        severity,
        code,
        message: `${node === undefined ? '' : `node "${node}"${of === undefined ? '' : ` of ${of}`}: `}${summary}`,
        hint,
        lineText: lineOf(line),
        length: isKey && typeof held === 'string' ? held.length + 2 : 1,
        pointer,
        ...(node === undefined ? {} : { node }),
        ...(of === undefined ? {} : { function: of }),
      };
    })
    .sort((a, b) => a.line - b.line || a.column - b.column);
  return {
    findings,
    ...(graph && faults.length === 0 ? { graph } : {}),
    ...(made ? { compiled: made } : {}),
  };
}

/**
 * Compiles the text of a graph; see `compileGraph`.
 *
 * @throws LensError with line and column in the graph of everything that `checkGraph` tells as an error
 */
export function compileGraphText(text: string, options: CompileGraphOptions = {}): CompiledGraph {
  const { compiled, findings } = lookAtGraph(text, options);
  if (!compiled) throw wgslError(findings);
  return compiled;
}

/** What stands nearest to a way down, where nothing stands at its end: an input that was left out. */
function nearestPlace(graph: unknown, path: readonly (string | number)[]): (string | number)[] {
  let held = graph;
  const found: (string | number)[] = [];
  for (const key of path) {
    if (typeof held !== 'object' || held === null || !(key in held)) break;
    held = (held as Record<string, unknown>)[key];
    found.push(key);
  }
  return found;
}

/** What the compiler finds in the WGSL, at the nodes that it was made of. */
function compilerFaults(
  { lines, wgsl }: CompiledGraph,
  { sources = {} }: CompileGraphOptions,
  file: string,
): GraphFault[] {
  return checkHooks(wgsl, { file, sources: { ...sources } }).map((finding): GraphFault => {
    const spot: GraphSpot = (finding.file === file ? lines[finding.line - 1] : undefined) ?? {};
    const { function: of, node } = spot;
    const isOther = finding.file !== file;
    return {
      severity: finding.severity,
      code: finding.code,
      summary: isOther ? `${finding.file}:${finding.line}: ${finding.message}` : finding.message,
      hint: finding.hint,
      path: pathOfSpot(spot),
      ...(node === undefined ? {} : { node }),
      ...(of === undefined ? {} : { function: of }),
    };
  });
}

/** The node, or the output, that a line of the WGSL was made of. @param line from 1 */
export const spotOfLine = ({ lines }: CompiledGraph, line: number): GraphSpot | undefined => lines[line - 1];
