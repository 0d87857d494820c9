import { tryCompileGraph, type CompiledGraph, type CompileGraphOptions } from './compile-graph.js';
import { type Graph, type GraphInput, type GraphValue, isCall } from './document.js';
import { exchangedNode } from './walk.js';

/** A graph that shows each of its nodes, one to an instance. */
export interface PreviewedGraph {
  /** A shader of materials: each instance has the number of the node that it shows, as its setting `shownNode`. */
  compiled: CompiledGraph;
  /** Nodes by that number, from 1: those that a surface can show. */
  nodes: readonly string[];
}

/** From where the light of previews comes, unless their setting `previewLight` says otherwise: the upper right. */
export const PREVIEW_LIGHT: readonly [number, number, number] = [0.5, 0.6, 0.62];

/** A light for nodes that ask for one. */
const LIGHT = `fn previewLight(direction: vec3f) -> Light {
  return Light(normalize(direction), vec3f(3), 0);
}`;

/** Stripes where a part is below 0, bright ones where one is above 1, a grid where it is no number. */
const MARKED = `fn previewMarked(value: vec3f, at: vec2f, plain: f32) -> vec4f {
  if plain > 0.5 { return vec4f(value, 1); }
  let bits = bitcast<vec3u>(value) & vec3u(0x7f800000u);
  let band = fract((at.x + at.y) / 8) < 0.5;
  if any(bits == vec3u(0x7f800000u)) {
    let grid = (fract(at.x / 8) < 0.5) != (fract(at.y / 8) < 0.5);
    return vec4f(select(vec3f(0.05), vec3f(0.9, 0.05, 0.6), grid), 1);
  }
  var shown = saturate(value);
  if any(value < vec3f(-1e-4)) && band { shown = shown * 0.35 + vec3f(0, 0.02, 0.12); }
  if any(value > vec3f(1.0001)) && band { shown = mix(shown, vec3f(1, 0.86, 0.45), 0.6); }
  return vec4f(shown, 1);
}`;

/** What nodes of a surface, or of a light, may ask for, in words of a preview. */
const STANDS_FOR: Readonly<Record<string, GraphValue>> = {
  'preview light': { call: 'previewLight', in: ['@settings.previewLight'] },
  'preview defaults': { call: 'surfaceDefaults', in: ['@p'] },
  'preview color': { value: [0.5, 0.5, 0.5, 1] },
};
const NAMES: Readonly<Record<string, string>> = {
  l: 'preview light',
  defaults: 'preview defaults',
  litColor: 'preview color',
};

/**
 * Has each node of a graph shown on a shape: all of them are one draw, of one instance a node. Vectors are colors, numbers greys; what is below 0, above 1
 * or no number is marked by patterns. Its setting `previewLight` says from where light comes; where `previewPlain` is 1 values are given
 * as they are. Nodes that ask for a vertex or a ray, and graphs of effects, are not shown.
 */
export function previewGraph(graph: Graph, options: CompileGraphOptions = {}): PreviewedGraph | undefined {
  if (graph.hooks.effect !== undefined) return undefined;
  const outside = outsideOf(graph);
  const nodes: Record<string, GraphValue> = { ...STANDS_FOR };
  for (const [name, node] of Object.entries(graph.nodes ?? {}))
    if (!outside.has(name)) nodes[name] = exchangedNode(node, standIn);
  const base: Graph = {
    ...graph,
    settings: {
      ...graph.settings,
      previewLight: { type: 'vec3f', value: PREVIEW_LIGHT },
      previewPlain: { type: 'f32', value: 0 },
    },
    instanceSettings: { ...graph.instanceSettings, shownNode: { type: 'f32' } },
    functions: { ...graph.functions, previewLight: { code: LIGHT }, previewMarked: { code: MARKED } },
    nodes,
    hooks: { outputColor: [0, 0, 0, 1] },
  };
  const { types } = tryCompileGraph(base, options).compiled;
  // What is wrong, and what names it, has no type.
  for (const name of Object.keys(graph.nodes ?? {})) if (!types.has(name)) delete nodes[name];
  const shown = Object.keys(graph.nodes ?? {}).filter((name) => colorOf(name, types.get(name)));
  // Each a step of its own, so that none lies deep within another; marks are made once, of the one that is shown.
  let chosen: GraphInput = [0, 0, 0];
  for (const [i, name] of shown.entries()) {
    nodes[`preview step ${i}`] = {
      call: 'select',
      in: [chosen, colorOf(name, types.get(name))!, { call: '==', in: ['@instance.shownNode', i + 1] }], // looked at above
    };
    chosen = `@preview step ${i}`;
  }
  const outputColor = { call: 'previewMarked', in: [chosen, '@p.screenPosition', '@settings.previewPlain'] };
  const { compiled, faults } = tryCompileGraph({ ...base, hooks: { outputColor } }, options);
  return faults.some(({ severity }) => severity === 'error') ? undefined : { compiled, nodes: shown };
}

function standIn(input: string): GraphInput {
  const [, name = '', rest = ''] = /^@(\w+)((?:\..*)?)$/.exec(input) ?? [];
  const other = NAMES[name];
  return other === undefined ? input : `@${other}${rest}`;
}

/** Nodes that ask for what a surface does not have, and those that name them. */
function outsideOf({ nodes = {} }: Graph): Set<string> {
  const found = new Set<string>();
  const asks = (input: GraphInput): boolean =>
    isCall(input)
      ? (input.in ?? []).some(asks)
      : typeof input === 'string' &&
        (/^@(v|ray)\b/.test(input) ||
          [...found].some((name) => input === `@${name}` || input.startsWith(`@${name}.`)));
  for (let before = -1; before !== found.size;) {
    before = found.size;
    for (const [name, node] of Object.entries(nodes))
      if ([...(node.in ?? []), ...(node.value === undefined ? [] : [node.value])].some(asks)) found.add(name);
  }
  return found;
}

/** A node as a color; undefined of what is none. */
function colorOf(name: string, type: string | undefined): GraphInput | undefined {
  const node = `@${name}`;
  switch (type) {
    case 'f32':
      return { call: 'vec3f', in: [node] };
    case 'i32':
    case 'u32':
      return { call: 'vec3f', in: [{ call: 'f32', in: [node] }] };
    case 'bool':
      return { call: 'vec3f', in: [{ call: 'select', in: [0, 1, node] }] };
    case 'vec2f':
      return { call: 'vec3f', in: [node, 0] };
    case 'vec3f':
      return node;
    case 'vec4f':
      return `${node}.rgb`;
    default:
      return undefined;
  }
}
