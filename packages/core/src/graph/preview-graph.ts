import { tryCompileGraph, type CompiledGraph, type CompileGraphOptions } from './compile-graph.js';
import type { Graph, GraphInput, GraphValue } from './document.js';
import { standInsFor } from './preview-stand-ins.js';
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

/** Stripes where a part is below 0, bright ones where one is above 1, a grid where it is no number. Effects compute with what is shown, and not with light. */
const MARKED = `fn previewMarked(value: vec3f, at: vec2f, plain: f32, isShown: bool) -> vec4f {
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
  if isShown { shown = decodeSrgb(shown); }
  return vec4f(shown, 1);
}`;

/**
 * Has each node of a graph shown on a shape: all of them are one draw, of one instance a node. Vectors are colors, numbers greys; what is below 0, above 1
 * or no number is marked by patterns. Its setting `previewLight` says from where light comes; where `previewPlain` is 1 values are given
 * as they are. Its setting by instance `previewMiddle` is where in the world the instance stands: what nodes are told of places counts from there.
 * Nodes that ask for a vertex or a ray have that of the place; effects have a picture of their own, across the shape's texture coordinates.
 */
export function previewGraph(graph: Graph, options: CompileGraphOptions = {}): PreviewedGraph | undefined {
  const stands = standInsFor(graph);
  const standIn = (input: string): GraphInput => {
    const [, name = '', rest = ''] = /^@(\w+)((?:\..*)?)$/.exec(input) ?? [];
    const other = stands.names[name];
    return other === undefined ? input : `@${other}${rest}`;
  };
  const nodes: Record<string, GraphValue> = { ...stands.nodes };
  for (const [name, node] of Object.entries(graph.nodes ?? {})) nodes[name] = exchangedNode(node, standIn);
  const base: Graph = {
    ...graph,
    settings: {
      ...graph.settings,
      previewLight: { type: 'vec3f', value: PREVIEW_LIGHT },
      previewPlain: { type: 'f32', value: 0 },
    },
    instanceSettings: {
      ...graph.instanceSettings,
      shownNode: { type: 'f32' },
      previewMiddle: { type: 'vec3f', value: [0, 0, 0] },
    },
    declarations: [...(graph.declarations ?? []), ...stands.declarations],
    functions: { ...stands.functions, ...graph.functions, previewMarked: { code: MARKED } },
    nodes,
    hooks: { outputColor: [0, 0, 0, 1] },
  };
  const { chosen, shown } = oneShown(graph, base, nodes, '@instance.shownNode', options);
  const isShown = graph.hooks.effect !== undefined;
  const outputColor = {
    call: 'previewMarked',
    in: [chosen, '@p.screenPosition', '@settings.previewPlain', isShown],
  };
  const { compiled, faults } = tryCompileGraph({ ...base, hooks: { outputColor } }, options);
  return faults.some(({ severity }) => severity === 'error') ? undefined : { compiled, nodes: shown };
}

/**
 * Has one of a graph's nodes shown, by a number: the first is 1. Each is a step of its own, so that none lies deep within another.
 *
 * @param base what it is compiled with
 * @param nodes of `base`: those that nobody can show go, steps come
 * @returns what is shown, three numbers; and the names of what can be
 */
export function oneShown(
  graph: Graph,
  base: Graph,
  nodes: Record<string, GraphValue>,
  number: GraphInput,
  options: CompileGraphOptions,
): { chosen: GraphInput; shown: readonly string[] } {
  const { types } = tryCompileGraph(base, options).compiled;
  // What is wrong, and what names it, has no type.
  for (const name of Object.keys(graph.nodes ?? {})) if (!types.has(name)) delete nodes[name];
  const shown = Object.keys(graph.nodes ?? {}).filter((name) => colorOf(name, types.get(name)));
  let chosen: GraphInput = [0, 0, 0];
  for (const [i, name] of shown.entries()) {
    nodes[`preview step ${i}`] = {
      call: 'select',
      in: [chosen, colorOf(name, types.get(name))!, { call: '==', in: [number, i + 1] }], // looked at above
    };
    chosen = `@preview step ${i}`;
  }
  return { chosen, shown };
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
