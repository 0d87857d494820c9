import { comparesPixels } from './compares-pixels.js';
import { tryCompileGraph, type CompileGraphOptions } from './compile-graph.js';
import type { Graph, GraphValue } from './document.js';
import { oneShown } from './preview-graph.js';

/** An effect that tells what the nodes of a graph are at one pixel of a picture. */
export interface ProbedEffect {
  /** A module with the hook `effect`, and with settings of its own: see `ProbedFrom`. */
  wgsl: string;
  /** The nodes that it tells of, in the order of their numbers. */
  nodes: readonly string[];
  /** Whether it compares a pixel with the next: each number takes two by two pixels then, which are those that the GPU compares. */
  isPaired: boolean;
}

/**
 * Where a probed effect is asked, and where it answers: its settings. All in pixels.
 */
export interface ProbedFrom {
  /** The pixel, from the upper left of what the effect counts as its picture: `p.position` without its half. */
  probedPixel: readonly [x: number, y: number];
  /** Where that upper left lies in the texture that is drawn into: 0 for whole pictures, elsewhere for what nodes are drawn into. */
  probedCorner: readonly [x: number, y: number];
  /** Where in the texture the numbers begin. Both even. */
  probedStart: readonly [x: number, y: number];
  /** How many pixels from there a row of them has. Even. */
  probedAcross: number;
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

/** Pixels of a side that a number takes. */
const sideOf = ({ isPaired }: Pick<ProbedEffect, 'isPaired'>): number => (isPaired ? 2 : 1);

/**
 * Has the nodes of a graph with the hook `effect` told at one pixel of the picture that the effect is over: its first pixels, row by row, are
 * the numbers of the first node, three of them, then those of the next, and so on, with a mark at their end: see `probedValues`. Numbers are
 * exact to 3e-5 of themselves. All other pixels compute nothing, unless the effect compares a pixel with the next.
 *
 * @returns nothing for a graph without such a hook, or one that cannot be compiled
 */
export function probeEffect(graph: Graph, options: CompileGraphOptions = {}): ProbedEffect | undefined {
  if (graph.hooks.effect === undefined) return undefined;
  const nodes: Record<string, GraphValue> = { ...graph.nodes };
  const base: Graph = {
    ...graph,
    settings: {
      ...graph.settings,
      probedPixel: { type: 'vec2f', value: [0, 0] },
      probedCorner: { type: 'vec2f', value: [0, 0] },
      probedStart: { type: 'vec2f', value: [0, 0] },
      probedAcross: { type: 'f32', value: 1 },
    },
    declarations: [
      ...(graph.declarations ?? []),
      'var<private> probedNode: f32;',
      'var<private> probedPart: i32;',
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
  const isPaired = comparesPixels(compiled.wgsl, options.sources);
  // The graph's own hook, at the pixel that is asked for, wherever it is computed.
  const hook = /^fn effect\(([^)]*)\)/m;
  const [, takes = ''] = hook.exec(compiled.wgsl) ?? [];
  const given = [...takes.matchAll(/(\w+):/g)].map(([, name]) => (name === 'p' ? 'probed' : name));
  const side = sideOf({ isPaired });
  const last = shown.length * PARTS;
  const ends = `if !isIn || number > ${last} { return vec4f(); }
  if number == ${last} { return vec4f(${MARK.join(', ')}, 255) / 255; }`;
  const wgsl = `${compiled.wgsl.replace(hook, 'fn probedEffect($1)')}
fn effect(p: Pixel, settings: Settings) -> vec4f {
  let at = vec2i(floor(p.position + settings.probedCorner - settings.probedStart));
  let across = i32(settings.probedAcross) / ${side};
  let number = at.x / ${side} + at.y / ${side} * across;
  let isIn = all(at >= vec2i()) && at.x / ${side} < across;
  ${isPaired ? '' : ends}
  probedNode = f32(number / ${PARTS} + 1);
  probedPart = number % ${PARTS};
  var pixel = vec2i(settings.probedPixel);
  ${isPaired ? 'let corner = vec2i(settings.probedCorner);\n  pixel = ((pixel + corner) / 2) * 2 + (at & vec2i(1)) - corner;' : ''}
  var probed = p;
  probed.position = vec2f(pixel) + 0.5;
  probed.place = probed.position / p.size;
  probed.color = colorOf(pixel);
  let told = probedEffect(${given.join(', ')});
  ${isPaired ? ends : ''}
  return told;
}
`;
  return { wgsl, nodes: shown, isPaired };
}

/** So many pixels a probed effect needs to answer in, where their rows are whole. */
export const roomForProbed = (probed: Pick<ProbedEffect, 'nodes' | 'isPaired'>): number =>
  (probed.nodes.length * PARTS + 1) * sideOf(probed) ** 2;

/**
 * What `probeEffect` told, out of the picture that it drew.
 *
 * @param picture RGBA of eight bits, row by row from the upper left: all of the texture that it was drawn into
 * @param width pixels of a row of it
 * @param from the settings that it was drawn with
 * @returns by node: three numbers, those that its type has first; nothing where the effect has not been drawn, or had too few pixels
 */
export function probedValues(
  probed: Pick<ProbedEffect, 'nodes' | 'isPaired'>,
  picture: ArrayLike<number>,
  width: number,
  { probedAcross, probedCorner, probedPixel, probedStart }: ProbedFrom,
): Map<string, readonly number[]> | undefined {
  const { nodes } = probed;
  const side = sideOf(probed);
  const across = Math.floor(probedAcross / side);
  // Which of a number's pixels is the one that was asked for.
  const [x, y] = [0, 1].map((k) => probedStart[k]! + ((probedPixel[k]! + probedCorner[k]!) % side)) as [
    number,
    number,
  ]; // two by type
  const byteAt = (number: number, k: number): number | undefined => {
    const column = x + (number % across) * side;
    const row = y + Math.floor(number / across) * side;
    return picture[(row * width + column) * 4 + k];
  };
  if (MARK.some((byte, k) => byteAt(nodes.length * PARTS, k) !== byte)) return undefined;
  const bits = new DataView(new ArrayBuffer(4));
  const numberAt = (number: number): number => {
    for (let k = 0; k < BYTES; k++) bits.setUint8(k, byteAt(number, k) ?? 0);
    return bits.getFloat32(0);
  };
  return new Map(
    nodes.map((name, i) => [name, Array.from({ length: PARTS }, (_, part) => numberAt(i * PARTS + part))]),
  );
}
