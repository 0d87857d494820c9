import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { checkHooks } from '../shading/check-hooks.js';
import { compileGraph } from './compile-graph.js';
import type { Graph, GraphValue } from './document.js';
import { evaluateGraph } from './evaluate-graph.js';
import { graphSchema } from './graph-schema.js';
import { checkGraph, readGraph, spotOfLine } from './read-graph.js';
import { nodesNamedIn } from './walk.js';
import { RIM } from '../../../../tests/rim-graph.js';

test('a graph becomes the module that one would write by hand', () => {
  const compiled = compileGraph(readGraph(RIM));
  expect(compiled.wgsl).toBe(`// A rim of light.

struct Settings {
  edge: f32,   // 0.5..6 = 2.5   how fast it falls off
  glow: vec3f, // color = #ffb46a
}

fn surface(p: Fragment, settings: Settings) -> Surface {
  let facing = dot(p.normal, p.toCamera);
  // none from behind
  let inside = saturate(facing);
  let rim = pow(1 - inside, settings.edge);
  let light = settings.glow * rim;
  var out = surfaceDefaults(p);
  out.emissive = light;
  out.alpha = rim;
  return out;
}
`);
  expect(spotOfLine(compiled, 12)).toEqual({ node: 'rim' });
  expect(spotOfLine(compiled, 15)).toEqual({ hook: 'surface', member: 'emissive' });
  expect(compiled.types.get('light')).toBe('vec3f');
  expect(nodesNamedIn(readGraph(RIM).nodes!['rim'], readGraph(RIM).nodes!)).toEqual(['inside']);
  expect(checkGraph(RIM)).toEqual([]);
});

test('every node has a value at a place, on the CPU', () => {
  const compiled = compileGraph(readGraph(RIM));
  const p = { normal: [0, 0, 1], toCamera: [0.6, 0, 0.8] };
  const { gives, nodes } = evaluateGraph(compiled, 'surface', { p }, { settings: { edge: 2 } });
  expect(nodes.get('facing')).toBeCloseTo(0.8);
  expect(nodes.get('rim')).toBeCloseTo(0.04);
  expect((gives as { alpha: number }).alpha).toBeCloseTo(0.04);
  expect(() => evaluateGraph(compiled, 'light')).toThrow('the graph gives no light');
});

const graphWith = (nodes: Record<string, GraphValue>, more: object = {}): string =>
  JSON.stringify({ graph: 1, nodes, hooks: { surface: { emissive: '@out' } }, ...more }, null, 1);
const told = (text: string): string[] =>
  checkGraph(text).map(({ code, hint, message, severity }) => `${severity} ${code}: ${message} | ${hint}`);

test.each<[what: string, nodes: Record<string, GraphValue>, expected: RegExp, more?: object]>([
  [
    'a ring',
    { out: { call: '+', in: ['@a', 0] }, a: { call: 'sin', in: ['@out'] } },
    /^error graph\/cycle: node "(out|a)": nodes name each other in a ring: /,
  ],
  ['itself', { out: { call: 'sin', in: ['@out'] } }, /graph\/cycle: node "out": "out" names itself/],
  [
    'no such node',
    { out: { call: 'sin', in: ['@facng'] }, facing: { value: 1 } },
    /graph\/name: node "out": there is no node "facng" \| Did you mean "facing"\?/,
  ],
  [
    'no such call',
    { out: { call: 'saturat', in: [1] } },
    /graph\/call: node "out": there is nothing called "saturat" \| Did you mean "saturate"\?/,
  ],
  ['by another word', { out: { call: 'lerp', in: [1] } }, /graph\/call: .* "lerp"/],
  [
    'no such part',
    { out: { call: 'sin', in: ['@p.normal.w'] } },
    /graph\/part: node "out": "@p.normal" is a vec3f and has no "w"/,
  ],
  [
    'no such member',
    { out: { call: 'sin', in: ['@p.toEye'] } },
    /graph\/part: .*has no "toEye" \| .*"toCamera"/,
  ],
  [
    'another type, a swizzle',
    { out: { call: 'noise2', in: ['@p.position', 1] } },
    /graph\/type: node "out": noise2 does not take vec3f, a whole number \| It takes place: vec2f, seed: i32\. Write "@p\.position\.xy" at input 1\./,
  ],
  [
    'another type, a conversion',
    { out: { call: 'dot', in: ['@p.normal', '@k'] }, k: { value: 2 } },
    /graph\/type: .*dot does not take vec3f, f32 \| Put vec3f about input 2\./,
  ],
  [
    'an output of another type',
    { out: { call: 'normalize', in: ['@p.texcoord0'] } },
    /graph\/type: "emissive" of a surface is a vec3f, and this is a vec2f \| Put vec3f about it/,
  ],
  [
    'unused',
    { out: { value: [1, 0, 0] }, idle: { value: 1 } },
    /^warning graph\/unused: node "idle": nothing names "idle"/,
  ],
  [
    'no value',
    { out: { call: 'pow', in: ['@p.normal', null] } },
    /^warning graph\/no-value: node "out": input 2 \(exponent\) of pow has no value, and is 1/,
  ],
  [
    'no value and no default',
    { out: { call: '&&', in: [true] } },
    /^error graph\/input: node "out": input 2 \(b\) has no value/,
  ],
  [
    'spaces',
    { out: { call: 'dot', in: ['@p.viewNormal', '@p.toCamera'] } },
    /^warning graph\/spaces: node "out": @p\.viewNormal is in view space and @p\.toCamera in world space/,
  ],
  [
    'not normalized',
    {
      out: { call: 'dot', in: ['@p.normal', '@half'] },
      half: { call: '+', in: ['@p.toCamera', '@p.normal'] },
    },
    /^warning graph\/length: node "out": @half is a direction whose length is not 1 \| Put normalize before it/,
  ],
  [
    'passes all',
    { out: { call: 'step', in: [0, { call: 'saturate', in: ['@p.depth'] }] } },
    /^warning graph\/passes-all: node "out": input 2 \(x\) is never below 0: step lets everything through/,
  ],
  [
    'not a number',
    { out: { call: 'pow', in: [{ call: 'dot', in: ['@p.normal', '@p.toCamera'] }, 4] } },
    /^warning graph\/negative: node "out": input 1 \(x\) may be below 0/,
  ],
  [
    'what its hook is not given',
    { out: { call: '*', in: ['@l.color', 2] } },
    /^error graph\/argument: node "out": surface is not given "@l" \| .*given to light/,
    { hooks: { surface: { emissive: '@out' }, light: '@out' } },
  ],
  [
    'a name that is taken',
    { p: { value: 1 }, out: { value: [1, 1, 1] } },
    /^error graph\/name-taken: node "p"/,
  ],
  [
    'a member that a surface does not have',
    { out: { value: 1 } },
    /^error graph\/output: a surface has no "emisive" \| Did you mean "emissive"\?/,
    { hooks: { surface: { emisive: '@out' } } },
  ],
  [
    'a hook that there is not',
    { out: { value: 1 } },
    /^error graph\/hook: there is no hook "surfaces" \| Did you mean "surface"|^error graph\/unknown: the hooks has no "surfaces"/,
    { hooks: { surfaces: { emissive: '@out' } } },
  ],
  ['a color that is none', { out: { value: '#ff' } }, /^error graph\/input: node "out": "#ff" is no color/],
  [
    'a texture that is not declared',
    { out: { call: 'textureSample', in: ['brak'] } },
    /^error graph\/name: node "out": there is no texture "brak" \| Did you mean "bark"\?/,
    { textures: { bark: {} } },
  ],
  [
    'what the compiler alone knows',
    {
      out: {
        call: 'vec3f',
        in: [
          {
            call: 'f32',
            in: [
              {
                call: '/',
                in: [
                  { call: 'i32', in: [1] },
                  { call: 'i32', in: [0] },
                ],
              },
            ],
          },
        ],
      },
    },
    /^error wgsl\/constant: node "out": /,
  ],
  [
    'a file that is not there',
    { out: { value: [1, 1, 1] } },
    /^error graph\/uses: there is no file \.\/mine\.wgsl/,
    { uses: ['./mine.wgsl'] },
  ],
])('it is told: %s', (_, nodes, expected, more = {}) => {
  expect(told(graphWith(nodes, more)).find((one) => expected.test(one))).toMatch(expected);
});

test('faults of form and places are told with line and column', () => {
  const text = RIM.replace('"call": "pow"', '"cal": "pow"');
  expect(checkGraph(text, { file: 'rim.graph.json' })[0]).toMatchObject({
    file: 'rim.graph.json',
    line: 11,
    column: 12,
    code: expect.stringMatching(/^graph\//),
    node: 'rim',
  });
  expect(told('{ "sheet": 1 }')).toEqual([
    expect.stringMatching(/^error graph\/version: shader.graph.json is no graph/),
  ]);
  expect(told('{ "graph": 2, "hooks": {} }')).toEqual([expect.stringMatching(/version 2/)]);
  expect(told('{ "graph": 1')).toEqual([expect.stringMatching(/^error graph\/json/)]);
  expect(told(RIM.replace('"@settings.edge"', '"@settings.edg"'))).toEqual([
    expect.stringMatching(/node "rim": "@settings" is a Settings and has no "edg" \| Did you mean "edge"\?/),
  ]);
  expect(() => readGraph('{ "graph": 1 }')).toThrow('hooks');
});

test('what has no value has its default, numbers are as wide as they must be, names are those that WGSL takes', () => {
  const graph: Graph = {
    graph: 1,
    nodes: {
      'soft edge': { call: 'smoothstep', in: [null, null, '@p.depth'] },
      noise: { call: 'noise', in: [] },
      wide: { call: 'max', in: ['@p.normal', 0] },
      half: { call: '/', in: [1, 2] },
      skipped: { call: 'sin', in: ['@half'], muted: true },
      negated: { call: '-', in: [{ call: '-', in: ['@half', -1] }] },
      deep: {
        call: '*',
        in: [
          { call: '+', in: ['@half', 1] },
          { call: '/', in: ['@half', { call: '*', in: [2, '@half'] }] },
        ],
      },
      color: { value: '#f80' },
      all: {
        call: '+',
        in: ['@soft edge', '@noise', '@wide.x', '@skipped', '@negated', '@deep', '@color.r'],
      },
    },
    hooks: { surface: { roughness: '@all', emissive: 0 } },
  };
  const { wgsl } = compileGraph(graph);
  for (const line of [
    'let soft_edge = smoothstep(0, 1, p.depth);',
    'let noise_ = noise(p.position, 1);',
    'let wide = max(p.normal, vec3f(0));',
    'let half = 1.0 / 2.0;',
    'let skipped = half;',
    'let negated = -(half - (-1));',
    'let deep = (half + 1) * (half / (2 * half));',
    'let color = vec3f(1, 0.246201, 0);',
    'out.emissive = vec3f(0);',
  ])
    expect(wgsl).toContain(line);
  expect(checkHooks(wgsl).filter(({ severity }) => severity === 'error')).toEqual([]);
});

test('functions of the graph, functions in WGSL, textures, instances, attributes and several hooks in one graph', () => {
  const graph: Graph = {
    graph: 1,
    instanceSettings: { tint: { type: 'color' } },
    attributes: { wear: 'f32' },
    textures: { bark: { holds: 'color', note: 'the bark' } },
    declarations: ['const TURN: f32 = 6.2831853;'],
    functions: {
      wave: {
        takes: { x: 'f32', height: 'f32' },
        nodes: { turn: { call: 'sin', in: ['@x'] } },
        gives: { call: '*', in: ['@turn', '@height'] },
        note: 'A wave.',
      },
      steps: {
        code: 'fn steps(x: f32) -> f32 {\n  var sum = 0.0;\n  for (var i = 0; i < 3; i++) { sum += wave(x * f32(i), 1); }\n  return sum / TURN;\n}',
      },
    },
    nodes: {
      picture: { call: 'textureSample', in: ['bark'] },
      lit: { call: 'stepped', in: [{ call: 'dot', in: ['@s.normal', '@l.direction'] }, 3] },
    },
    hooks: {
      displace: {
        position: {
          call: '+',
          in: [
            '@v.position',
            { call: '*', in: ['@v.normal', { call: 'wave', in: ['@frame.time', '@attributes.wear'] }] },
          ],
        },
      },
      surface: {
        baseColor: {
          call: '*',
          in: ['@picture.rgb', '@instance.tint', { call: 'steps', in: ['@p.texcoord0.x'] }],
        },
      },
      light: { call: '*', in: ['@l.color', '@s.baseColor', '@lit'] },
      outputColor: {
        call: 'vec4f',
        in: [{ call: 'mixEvenly', in: ['@litColor.rgb', '#102040', 0.1] }, '@litColor.a'],
      },
    },
  };
  // "litColor" is what outputColor is given: a node of that name is refused.
  const taken = JSON.stringify(graph).replaceAll('"lit"', '"litColor"').replace('"@lit"]', '"@litColor"]');
  expect(told(taken)).toContainEqual(expect.stringContaining('a node cannot be called "litColor"'));
  expect(told(JSON.stringify(graph))).toEqual([]);
  const { types, wgsl } = compileGraph(graph);
  expect(wgsl).toContain(
    '/// A wave.\nfn wave(x: f32, height: f32) -> f32 {\n  let turn = sin(x);\n  return turn * height;\n}',
  );
  expect(wgsl).toContain('textureSample(bark, barkSampler, p.texcoord0)');
  expect(wgsl).toContain('fn displace(v: Vertex, attributes: Attributes) -> Vertex {\n  var out = v;');
  expect(wgsl).toContain("import { mixEvenly } from 'umber/colors.wgsl';");
  expect(types.get('wave/turn')).toBe('f32');
});

test('an effect on pictures is a graph, and so is a shape that is marched', () => {
  const effect = {
    graph: 1,
    nodes: {
      edge: { call: 'distance', in: ['@p.place', [0.5, 0.5]] },
      dark: { call: '-', in: [1, '@edge'] },
    },
    hooks: { effect: { call: 'vec4f', in: [{ call: '*', in: ['@p.color.rgb', '@dark'] }, '@p.color.a'] } },
  };
  expect(told(JSON.stringify(effect))).toEqual([]);
  const march = {
    graph: 1,
    nodes: { t: { call: '/', in: [{ call: '-', in: ['@ray.origin.y'] }, '@ray.direction.y'] } },
    hooks: {
      march: {
        position: { call: '+', in: ['@ray.origin', { call: '*', in: ['@ray.direction', '@t'] }] },
        normal: [0, 1, 0],
        isHit: { call: '>', in: ['@t', 0] },
      },
    },
  };
  expect(told(JSON.stringify(march))).toEqual([]);
});

test('a thousand damaged documents end well', () => {
  const signs = [
    '"',
    '{',
    '}',
    '[',
    ']',
    ',',
    ':',
    '@',
    'null',
    '1e999',
    '-',
    '"in"',
    '"call"',
    ' ',
    '\\',
    '0',
  ];
  holds(
    fc.property(
      fc.array(fc.tuple(fc.nat(RIM.length), fc.nat(6), fc.nat(signs.length - 1)), {
        minLength: 1,
        maxLength: 4,
      }),
      (damages) => {
        let text = RIM;
        for (const [at, length, sign] of damages)
          text = text.slice(0, at) + signs[sign]! + text.slice(at + length);
        const found = checkGraph(text);
        for (const { code, line, message } of found) {
          expect(code).toMatch(/^[\w-]+(\/[\w-]+)?$/);
          expect(line).toBeGreaterThan(0);
          expect(message.length).toBeGreaterThan(3);
        }
      },
    ),
    { numRuns: 1000 },
  );
});

test('the schema is the one that is published, and takes what is read', () => {
  const published = JSON.parse(readFileSync('packages/core/schema/graph.schema.json', 'utf8')) as unknown;
  expect(graphSchema()).toEqual(published);
});

test('what compares pixels is computed with those beside', () => {
  const compiled = compileGraph({
    graph: 1,
    nodes: {
      square: { call: 'dot', in: ['@p.position', '@p.position'] },
      across: { call: 'dpdx', in: ['@square'] },
      // Of a difference the difference: all four have a part in it.
      twist: {
        call: 'dpdy',
        in: [{ call: 'dpdx', in: [{ call: '*', in: ['@p.position.x', '@p.position.y'] }] }],
      },
      wide: { call: '+', in: ['@across', { call: 'fwidth', in: ['@p.position.y'] }] },
    },
    hooks: { outputColor: { call: 'vec4f', in: ['@wide', '@twist', 0, 1] } },
  });
  const args = [
    [2, 3],
    [2.5, 3],
    [2, 4],
    [2.5, 4],
  ].map(([x, y]) => ({ p: { position: [x, y, 0] } }));
  const wanted = { across: 2.25, twist: 0.5, wide: 3.25 };
  for (const lane of [0, 1, 2, 3]) {
    const { gives, nodes } = evaluateGraph(compiled, 'outputColor', args[lane], { quad: { args, lane } });
    const [x, y] = args[lane]!.p.position as [number, number, number];
    expect(Object.fromEntries(nodes)).toEqual({ ...wanted, square: x * x + y * y });
    expect(gives).toEqual([3.25, 0.5, 0, 1]);
  }
  // Alone, nothing changes.
  expect(evaluateGraph(compiled, 'outputColor', args[0]).nodes.get('across')).toBe(0);
});
