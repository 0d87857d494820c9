import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { randomGraph, RANDOM_CALLS } from '../../../../tests/random-graph.js';
import { checkHooks, linkHooks } from '../shading/check-hooks.js';
import { compileWgsl, runWgsl } from '../wgsl/index.js';
import { compileGraph } from './compile-graph.js';
import type { Graph, GraphInput, GraphValue } from './document.js';
import { evaluateGraph } from './evaluate-graph.js';
import { graphOf } from './graph-of.js';
import { checkGraph, readGraph } from './read-graph.js';
import { writeGraph } from './write-graph.js';

const P = {
  normal: [0.36, 0.48, 0.8],
  position: [1.5, -2, 0.25],
  texcoord0: [0.3, 0.9],
  color: [0.9, 0.5, 0.1, 1],
  toCamera: [0, 0, 1],
};
const SETTINGS = { share: 0.3, tint: [0.0512695, 0.215861, 0.527115] };

/** One call by itself, in a module of its own: the second method. */
const alone = new Map<string, ReturnType<typeof compileWgsl>>();
function computed(call: string, args: readonly unknown[]): unknown {
  const types = args.map((arg) => (Array.isArray(arg) ? `vec${arg.length}f` : 'f32'));
  const names = args.map((_, i) => `a${i}`);
  const isOperator = /^\W/.test(call);
  const body =
    call === 'twist'
      ? '(a0.yzx + a1) * 0.5'
      : call === 'luminance'
        ? 'dot(a0, vec3f(0.2126, 0.7152, 0.0722))'
        : call === 'remap'
          ? 'a3 + (a4 - a3) * (a0 - a1) / select(a2 - a1, 1e-6, abs(a2 - a1) < 1e-6)'
          : isOperator
            ? names.join(` ${call} `)
            : `${call}(${names.join(', ')})`;
  const gives = RANDOM_CALLS.find(
    ([name, takes]) =>
      name === call && takes.length === types.length && takes.every((one, i) => one === types[i]),
  )![2];
  const text = `fn one(${names.map((name, i) => `${name}: ${types[i]}`).join(', ')}) -> ${gives} { return ${body}; }`;
  let shader = alone.get(text);
  if (!shader) alone.set(text, (shader = compileWgsl(text)));
  return runWgsl(shader, 'one', [...args]);
}

function valueOf(graph: Graph, input: GraphInput, known: Map<string, unknown>): unknown {
  if (typeof input === 'number') return input;
  if (Array.isArray(input)) return input;
  if (input === '#ffb46a') return [1, 0.456411, 0.144128];
  if (typeof input === 'string') {
    const [first = '', ...parts] = input.slice(1).split('.');
    let value: unknown = first === 'p' ? P : first === 'settings' ? SETTINGS : known.get(first);
    for (const part of parts)
      value = Array.isArray(value)
        ? part.length === 1
          ? (value as number[])[('xyzw'.indexOf(part) + 1 || 'rgba'.indexOf(part) + 1) - 1]
          : [...part].map((letter) => (value as number[])['rgba'.indexOf(letter)])
        : (value as Record<string, unknown>)[part];
    return value;
  }
  const { call, in: inputs = [] } = input as GraphValue & { call: string };
  return computed(
    call,
    inputs.map((one) => valueOf(graph, one, known)),
  );
}

const close = (a: unknown, b: unknown): boolean => {
  const [x, y] = [[a].flat(), [b].flat()] as [number[], number[]];
  return (
    x.length === y.length &&
    x.every((one, i) => Math.abs(one - y[i]!) <= 1e-5 * Math.max(1, Math.abs(y[i]!)) || one === y[i])
  );
};

/** With one zero: WGSL may lose its sign, and a document has no -0. */
const unsigned = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value, (_, one: unknown) => (Number.isNaN(one) ? 'NaN' : one)));

test('random graphs are right by the compiler; node by node and as a whole they compute the same, and so do they after a trip through WGSL', () => {
  holds(
    fc.property(fc.array(fc.nat(1000), { minLength: 20, maxLength: 80 }), (chances) => {
      const graph = randomGraph(chances);
      const compiled = compileGraph(graph);
      expect(checkHooks(compiled.wgsl).filter(({ severity }) => severity === 'error')).toEqual([]);
      const whole = evaluateGraph(compiled, 'surface', { p: P }, { settings: SETTINGS });
      const known = new Map<string, unknown>();
      for (const [name, node] of Object.entries(graph.nodes!))
        known.set(name, valueOf(graph, node as GraphInput, known));
      for (const [name, value] of whole.nodes)
        if (!name.includes('/'))
          expect([name, value, close(value, known.get(name))]).toEqual([name, value, true]);
      const back = compileGraph(graphOf(compiled.wgsl));
      const again = evaluateGraph(back, 'surface', { p: P }, { settings: SETTINGS });
      expect(unsigned(again.gives)).toEqual(unsigned(whole.gives));
      // A trip more changes nothing.
      expect(compileGraph(graphOf(back.wgsl)).wgsl).toBe(back.wgsl);
    }),
    { numRuns: 25, endOnFailure: true },
  );
});

test('modules that were written by hand become graphs and compute the same', () => {
  const wgsl = `// Worn paint.
import { noise } from 'umber/noise.wgsl';
struct Settings {
  wear: f32,   // 0..1 = 0.4   how worn it is
  under: vec3f // color = #7a3b1e
}
const SCALE = 6.0;
var bark: texture_2d<f32>; // data
var barkSampler: sampler;

/// Two noises.
fn twoNoises(place: vec3f) -> f32 {
  let coarse = noise(place, 1);
  return coarse * 0.7 + noise(place * 2, 2) * 0.3;
}

fn looped(x: f32) -> f32 {
  var sum = 0.0;
  for (var i = 0; i < 4; i++) { sum += x / f32(i + 1); }
  return sum;
}

fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  // where it is worn
  var n = twoNoises(p.position * SCALE);
  n = n * 0.5 + 0.5;
  let worn = smoothstep(s.wear - 0.1, s.wear + 0.1, n);
  out.baseColor = mix(s.under, out.baseColor, worn);
  out.roughness += 0.2 * (1 - worn);
  out.emissive.g = looped(worn);
  out.alpha = -(-out.alpha);
  return out;
}

fn light(s: Surface, l: Light, p: Fragment) -> vec3f {
  if l.index > 3u { return vec3f(); }
  return lightDefaults(s, l, p);
}
`;
  const graph = graphOf(wgsl);
  expect(graph.note).toBe('Worn paint.');
  expect(graph.settings).toEqual({
    wear: { type: 'f32', value: expect.closeTo(0.4, 5), range: [0, 1], note: 'how worn it is' },
    under: { type: 'color', value: '#7a3b1e' },
  });
  expect(Object.keys(graph.nodes!)).toEqual(expect.arrayContaining(['n', 'n2', 'worn']));
  expect(graph.nodes!['n']!.note).toBe('where it is worn');
  expect(graph.functions!['looped']!.code).toMatch(/^fn looped/);
  expect(graph.functions!['twoNoises']).toMatchObject({ takes: { place: 'vec3f' }, note: 'Two noises.' });
  expect(graph.hooks.light).toEqual({ code: expect.stringMatching(/^fn light/) });
  expect(checkGraph(JSON.stringify(graph)).map(({ message }) => message)).toEqual([
    'nothing reads the texture "bark"',
  ]);
  const compiled = compileGraph(readGraph(writeGraph(graph)));
  const args = { p: { ...P, position: [0.31, 0.2, 0.77] } };
  const own = linkHooks(wgsl, { file: 'shader.wgsl' });
  const mine = runWgsl(own, 'surface', [args.p, { wear: 0.4, under: [0.2, 0.1, 0.05] }], {}) as Record<
    string,
    unknown
  >;
  const theirs = evaluateGraph(compiled, 'surface', args, {
    settings: { wear: 0.4, under: [0.2, 0.1, 0.05] },
  }).gives;
  expect(theirs).toEqual(mine);
  expect(() =>
    graphOf('#if fog\nfn surface(p: Fragment) -> Surface { return surfaceDefaults(p); }\n#endif'),
  ).toThrow('#if');
});
