import { tryCompileGraph, type CompileGraphOptions } from './compile-graph.js';
import type { Graph, GraphValue } from './document.js';
import { oneShown } from './preview-graph.js';

/** An effect that tells what the nodes of a graph are at one pixel of a picture. */
export interface ProbedEffect {
  /** A module with the hook `effect`. Its setting `probedPixel` is the pixel, counted from the upper left. */
  wgsl: string;
  /** The nodes that it tells of, in the order of their numbers. */
  nodes: readonly string[];
}

/** Its numbers of a node. */
const PARTS = 3;
/** Mantissas lose their last eight bits: what is left is exact to 3e-5 of the number. */
const BYTES = 3;

/** The pixel behind the last number: that the picture is one of these. */
const MARK = [85, 170, 51];

/** The first three bytes of a number, as a color of eight bits a channel holds them. */
const IN_BYTES = `fn probedBytes(value: vec3f) -> vec4f {
  let bits = bitcast<vec3u>(value);
  let one = select(select(bits.z, bits.y, probedPart == 1), bits.x, probedPart == 0);
  return vec4f(f32(one >> 24), f32((one >> 16) & 255), f32((one >> 8) & 255), 255) / 255;
}`;

/**
 * Has the nodes of a graph with the hook `effect` told at one pixel of the picture that the effect is over: its first pixels, row by row, are
 * the numbers of the first node, three of them, then those of the next, and so on, with a mark at their end: see `probedValues`. All other
 * pixels compute nothing. Numbers are exact to 3e-5 of themselves.
 *
 * @returns nothing for a graph without such a hook, one that cannot be compiled, or that compares a pixel with the next
 */
export function probeEffect(graph: Graph, options: CompileGraphOptions = {}): ProbedEffect | undefined {
  if (graph.hooks.effect === undefined) return undefined;
  const nodes: Record<string, GraphValue> = { ...graph.nodes };
  const base: Graph = {
    ...graph,
    settings: { ...graph.settings, probedPixel: { type: 'vec2f', value: [0, 0] } },
    declarations: [
      ...(graph.declarations ?? []),
      'var<private> probedNode: f32;',
      'var<private> probedPart: u32;',
    ],
    functions: {
      ...graph.functions,
      probedNumber: { code: 'fn probedNumber() -> f32 { return probedNode; }' },
      probedBytes: { code: IN_BYTES },
    },
    nodes,
    hooks: { effect: [0, 0, 0, 1] },
  };
  const { chosen, shown } = oneShown(graph, base, nodes, { call: 'probedNumber', in: [] }, options);
  if (shown.length === 0) return undefined;
  const { compiled, faults } = tryCompileGraph(
    { ...base, hooks: { effect: { call: 'probedBytes', in: [chosen] } } },
    options,
  );
  if (faults.some(({ severity }) => severity === 'error')) return undefined;
  if (/\b(?:dpdx|dpdy|fwidth)\w*\(/.test(compiled.wgsl)) return undefined;
  // The graph's own hook, at the pixel that is asked for, wherever it is computed.
  const hook = /^fn effect\(([^)]*)\)/m;
  const [, takes = ''] = hook.exec(compiled.wgsl) ?? [];
  const given = [...takes.matchAll(/(\w+):/g)].map(([, name]) => (name === 'p' ? 'probed' : name));
  const wgsl = `${compiled.wgsl.replace(hook, 'fn probedEffect($1)')}
fn effect(p: Pixel, settings: Settings) -> vec4f {
  let at = vec2u(p.position);
  let number = at.x + at.y * u32(p.size.x);
  if number == ${shown.length * PARTS} { return vec4f(${MARK.join(', ')}, 255) / 255; }
  if number > ${shown.length * PARTS} { return vec4f(); }
  probedNode = f32(number / ${PARTS} + 1);
  probedPart = number % ${PARTS};
  var probed = p;
  probed.position = settings.probedPixel + 0.5;
  probed.place = probed.position / p.size;
  probed.color = colorOf(vec2i(settings.probedPixel));
  return probedEffect(${given.join(', ')});
}
`;
  return { wgsl, nodes: shown };
}

/**
 * What `probeEffect` told, out of the picture that it drew.
 *
 * @param picture RGBA of eight bits, row by row from the upper left: the first `nodes.length` times three of them count, and the next
 * @returns by node: three numbers, those that its type has first; nothing where the effect has not been drawn, or had too few pixels
 */
export function probedValues(
  { nodes }: Pick<ProbedEffect, 'nodes'>,
  picture: ArrayLike<number>,
): Map<string, readonly number[]> | undefined {
  const mark = nodes.length * PARTS * 4;
  if (MARK.some((byte, k) => picture[mark + k] !== byte)) return undefined;
  const bits = new DataView(new ArrayBuffer(4));
  const numberAt = (at: number): number => {
    for (let k = 0; k < BYTES; k++) bits.setUint8(k, picture[at * 4 + k] ?? 0);
    return bits.getFloat32(0);
  };
  return new Map(
    nodes.map((name, i) => [name, Array.from({ length: PARTS }, (_, part) => numberAt(i * PARTS + part))]),
  );
}
