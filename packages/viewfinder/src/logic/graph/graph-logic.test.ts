import { readFileSync } from 'node:fs';
import { applyEdits, Scene } from '@umber-lens/core/engine';
import { graphEdit, previewGraph, readGraph } from '@umber-lens/core/graphs';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { cardsOf, formula, typedInput } from './graph-cards.js';
import { byFlow, heightOf, keyOf, placesOf } from './graph-layout.js';
import { offersOf } from './graph-offers.js';
import {
  cameraOverBall,
  placeOnBall,
  probedAtPixel,
  probedInScene,
  probedOnBall,
  probedOnBallPixel,
  quadOf,
  type SceneHit,
  valuesAt,
  withGpu,
} from './graph-probe.js';
import { GraphSession } from './graph-session.js';

const TEXT = readFileSync('examples/varnish/painted.graph.json', 'utf8');
const RIM = `{
  "graph": 1,
  "settings": { "edge": { "type": "f32", "value": 2.5, "range": [0.5, 6] } }, // by eye
  "nodes": {
    "facing": { "call": "saturate", "in": [{ "call": "dot", "in": ["@p.normal", "@p.toCamera"] }] },
    "rim": { "call": "pow", "in": [{ "call": "-", "in": [1, "@facing"] }, "@settings.edge"] }
  },
  "hooks": { "surface": { "emissive": { "call": "*", "in": ["#ffb46a", "@rim"] } } }
}
`;

test('a graph is edited: what is right is shown, what is wrong is told, and the last good one stays', () => {
  const session = new GraphSession(RIM, 'rim.graph.json');
  let told = 0;
  session.onChange(() => told++);
  session.edit('sharper', [{ type: 'set', at: ['nodes', 'rim', 'in', 1], value: 4 }]);
  expect(session.compiled.wgsl).toContain('pow(1 - facing, 4)');
  const good = session.compiled;
  session.edit('wrong', [{ type: 'set', at: ['nodes', 'rim', 'in', 1], value: '@p.texcoord0' }]);
  expect(session.compiled).toBe(good);
  expect(session.findings.map(({ code, node }) => [code, node])).toEqual(
    [
      ['graph/unused', undefined],
      ['graph/type', 'rim'],
    ].slice(1),
  );
  expect([session.gravityOf('rim'), session.gravityOf('facing'), session.undoes]).toEqual([
    'error',
    undefined,
    'wrong',
  ]);
  session.undo();
  expect(session.findings.map(({ code }) => code)).toEqual(['graph/unused']); // the setting
  session.undo();
  expect([session.text, session.undo(), session.redoes]).toEqual([RIM, false, 'sharper']);
  session.redo();
  expect(session.text).toContain('// by eye');
  expect(told).toBe(5);
  expect(session.undoes).toBe('sharper');
  expect(() => session.edit('none', [{ type: 'rename', node: 'gone', name: 'x' }])).toThrow('no node "gone"');
  expect(() => new GraphSession('{ "graph": 1 }', 'x.graph.json')).toThrow('hooks');
});

test('what is to be saved is what was changed since, also where a saved change was taken back', () => {
  const session = new GraphSession(RIM, 'rim.graph.json');
  session.edit('a', [{ type: 'set', at: ['layout', 'rim'], value: [1, 2] }], 'drag');
  session.edit('a', [{ type: 'set', at: ['layout', 'rim'], value: [3, 4] }], 'drag');
  expect([session.unsaved.length, session.isUnsaved]).toEqual([2, true]);
  const saved = applyEdits(RIM, graphEdit(RIM, session.unsaved));
  expect(saved).toBe(session.text);
  session.noteSaved();
  expect([session.unsaved, session.isUnsaved]).toEqual([[], false]);
  // Both of one drag.
  session.undo();
  expect(session.text).toBe(RIM);
  expect(readGraph(applyEdits(saved, graphEdit(saved, session.unsaved)))).toEqual(readGraph(RIM));
});

test('random edits, taken back one by one, give the text back', () => {
  const change = fc.oneof(
    fc.tuple(fc.constant('value'), fc.constantFrom('facing', 'rim'), fc.nat(9)),
    fc.tuple(fc.constant('rename'), fc.constantFrom('facing', 'rim'), fc.nat(3)),
    fc.tuple(fc.constant('remove'), fc.constantFrom('facing', 'rim'), fc.nat(1)),
    fc.tuple(fc.constant('move'), fc.constantFrom('facing', 'rim'), fc.nat(90)),
  );
  holds(
    fc.property(fc.array(change, { minLength: 1, maxLength: 4 }), (list) => {
      const session = new GraphSession(RIM, 'rim.graph.json');
      for (const [kind, node, number] of list)
        try {
          if (kind === 'value')
            session.edit('v', [{ type: 'set', at: ['nodes', node, 'note'], value: `${number}` }]);
          else if (kind === 'rename') session.edit('r', [{ type: 'rename', node, name: `n ${number}` }]);
          else if (kind === 'remove') session.edit('d', [{ type: 'remove', node }]);
          else session.edit('m', [{ type: 'set', at: ['layout', node], value: [number, 2] }], `move ${node}`);
        } catch (error) {
          expect((error as { code: string }).code).toMatch(/^edit\//);
        }
      while (session.undo());
      expect(session.text).toBe(RIM);
    }),
    { numRuns: 5 },
  );
});

test('cards have inputs by their names in the table, formulas, links and types', () => {
  const session = new GraphSession(RIM, 'rim.graph.json');
  const cards = cardsOf(session.board, session.types);
  expect(cards.map(({ call, isHook, name, type }) => [name, call, type, isHook])).toEqual([
    ['facing', 'saturate', 'f32', false],
    ['rim', 'pow', 'f32', false],
    ['surface', 'hook', '', true],
  ]);
  expect(cards[1]!.inputs).toEqual([
    {
      label: 'x',
      text: '1 - @facing',
      placeholder: '1',
      from: ['facing'],
      path: ['nodes', 'rim', 'in', 0],
      isNested: true,
    },
    {
      label: 'exponent',
      text: '@settings.edge',
      placeholder: '1',
      from: [],
      path: ['nodes', 'rim', 'in', 1],
      isNested: false,
    },
  ]);
  expect(
    formula({
      call: '*',
      in: [
        { call: '+', in: [1, 2] },
        { call: '-', in: ['@a'] },
      ],
    }),
  ).toBe('(1 + 2) * -@a');
});

test.each<[typed: string, value: unknown]>([
  ['0.5', 0.5],
  ['1 0 0.5', [1, 0, 0.5]],
  ['[1, 2]', [1, 2]],
  ['#ff8800', '#ff8800'],
  ['facing', '@facing'],
  ['facing.x', '@facing.x'],
  ['@p.normal', '@p.normal'],
  ['bark', 'bark'],
  ['  ', undefined],
  ['{ "call": "sin", "in": [1] }', { call: 'sin', in: [1] }],
])('typed into an input, %j is %j', (typed, value) => {
  expect(typedInput(typed, ['facing'])).toEqual(value);
});

test('nodes are found by name, by what they do, by words of the trade; where a link is dropped, what takes it', () => {
  const graph = readGraph(RIM);
  expect(offersOf(graph, 'pow')[0]!.call).toBe('pow');
  expect(offersOf(graph, 'fresnel')[0]!.call).toBe('mirroredShare');
  expect(offersOf(graph, 'voronoi')[0]!.call).toBe('cells');
  expect(offersOf(graph, 'kept between').map(({ call }) => call)).toEqual(['clamp', 'saturate']);
  expect(offersOf(graph, 'zzz')).toEqual([]);
  const forPlace = offersOf(graph, '', 'vec2f').map(({ call }) => call);
  expect(forPlace).toEqual(expect.arrayContaining(['noise2', 'checker', '+', 'length']));
  expect(forPlace).not.toContain('noise');
  expect(forPlace).not.toContain('cross');
  // A number is the second input of a power as well, and the first is offered.
  expect(offersOf(graph, 'smoothMin', 'f32')[0]!.place).toBe(0);
  expect(offersOf(graph, 'textureSample', 'vec2f')[0]!.place).toBe(1);
  expect(offersOf(graph, 'select', 'bool')[0]!.place).toBe(2);
  expect(offersOf(graph, '&&', 'f32')).toEqual([]);
});

test('cards stand by the flow, none on another, each behind those that it takes', () => {
  const session = new GraphSession(TEXT, 'painted.graph.json');
  const cards = cardsOf(session.board, session.types);
  const flow = byFlow(cards);
  for (const card of cards) {
    const own = flow.get(keyOf(card))!;
    for (const { from } of card.inputs)
      for (const name of from) expect(flow.get(name)!.x).toBeLessThan(own.x);
    for (const other of cards) {
      if (other === card) continue;
      const { x, y } = flow.get(keyOf(other))!;
      const isApart =
        Math.abs(x - own.x) >= 208 || y >= own.y + heightOf(card) || own.y >= y + heightOf(other);
      expect([keyOf(card), keyOf(other), isApart]).toEqual([keyOf(card), keyOf(other), true]);
    }
  }
  // Where the graph says, they stand there.
  expect(placesOf(session.graph, cards).get('lit')).toEqual({
    x: session.graph.layout!['lit']![0],
    y: session.graph.layout!['lit']![1],
  });
});

test('a thousand nodes in one long chain are laid out all the same, at once', () => {
  const nodes = Object.fromEntries(
    Array.from({ length: 1000 }, (_, i) => [
      `n${i}`,
      i < 4
        ? { call: 'sin', in: ['@p.position.x'] }
        : { call: '+', in: [`@n${i - 1}`, `@n${(i * 7) % (i - 1)}`] },
    ]),
  );
  const text = JSON.stringify({ graph: 1, nodes, hooks: { surface: { roughness: '@n999' } } });
  const session = new GraphSession(text, 'long.graph.json');
  const flow = byFlow(cardsOf(session.board, session.types));
  expect(flow.get('n999')!.x).toBeGreaterThan(flow.get('n998')!.x);
  // What is moved is not compiled anew.
  const { compiled } = session;
  session.edit('move', [{ type: 'set', at: ['layout', 'n5'], value: [1, 2] }]);
  expect([session.compiled, session.graph.layout]).toEqual([compiled, { n5: [1, 2] }]);
});

const STILL = { light: [0, 0, 1], time: 0 } as const;

test('under the probe each node has its value', () => {
  const preview = previewGraph(readGraph(RIM), { file: 'rim.graph.json' });
  const values = valuesAt(
    preview,
    probedOnBall({ x: 0.6, y: 0 }, STILL),
    { edge: 2 },
    { file: 'rim.graph.json' },
    STILL,
  );
  expect(values.get('facing')).toBeCloseTo(0.8, 5);
  expect(values.get('rim')).toBeCloseTo(0.04, 5);
  const types = new Map([
    ['facing', 'f32'],
    ['rim', 'f32'],
    ['light', 'vec3f'],
    ['paint', 'vec3f'],
  ]);
  const gpu = new Map([
    ['facing', [0.801, 0.801, 0.801]],
    ['rim', [0.4, 0.4, 0.4]],
    ['paint', [1, 0, 0.5]],
  ]);
  const { words, ...found } = withGpu(values, gpu, types);
  expect(found).toEqual({ same: ['facing'], other: ['rim'], alone: ['paint'] });
  expect([words.get('facing'), words.get('rim'), words.get('paint')]).toEqual([
    '0.8',
    '0.04, but 0.4 on the GPU',
    '1  0  0.5 on the GPU',
  ]);
  // Light is where it is on pictures.
  const lit = previewGraph(
    readGraph(
      `{ "graph": 1, "nodes": { "way": { "call": "+", "in": ["@l.direction", [0, 0, 0]] } }, "hooks": { "light": "@way" } }`,
    ),
  );
  const light = [0, 1, 0] as const;
  const place = probedOnBall({ x: 0, y: 0 }, STILL);
  expect(valuesAt(lit, place, {}, { file: 'shader.graph.json' }, { ...STILL, light }).get('way')).toEqual([
    0, 1, 0,
  ]);
  expect(valuesAt(undefined, probedOnBall({ x: 0, y: 0 }, STILL), {}, { file: '' }, STILL).size).toBe(0);
});

test('a probe beside the ball is on its edge, for the camera as for what is computed', () => {
  for (const probe of [
    { x: 1, y: -1 },
    { x: -0.8, y: 0.7 },
    { x: 0, y: 0 },
  ]) {
    const { normal } = placeOnBall(probe) as { normal: number[] };
    expect(Math.hypot(...normal)).toBeCloseTo(1, 6);
    expect(cameraOverBall(probe).slice(0, 2)).toEqual(normal.slice(0, 2));
    expect(Math.atan2(normal[1]!, normal[0]!)).toBeCloseTo(Math.atan2(-probe.y, probe.x), 6);
  }
});

test('in the scene a surface is what shaders find there, and time is what it is', () => {
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 5],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  const node = scene.createNode({
    translation: [1, 0, 0],
    scale: [1, 2, 1],
    rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
  });
  scene.update();
  const hit = { node, point: [1, 1, 0.5], normal: [0, 0.6, 0.8], texcoord: [0.25, 0.5] };
  const place = probedInScene(
    hit,
    camera,
    { x: 10, y: 20, width: 320, height: 200 },
    { ...STILL, time: 1.5 },
  );
  const near = (values: number[]): unknown => values.map((one) => expect.closeTo(one, 5) as number);
  expect(place.p).toMatchObject({
    toCamera: near([-1, -1, 4.5].map((part) => part / Math.hypot(1, 1, 4.5))),
    viewPosition: near([1, 1, -4.5]),
    viewNormal: near([0, 0.6, 0.8]),
    // Turned a quarter about Y, half as high.
    objectPosition: near([-0.5, 0.5, 0]),
    objectNormal: near([-0.8, 1.2, 0].map((part) => part / Math.hypot(0.8, 1.2))),
    texcoord0: [0.25, 0.5],
  });
  const graph = readGraph(`{ "graph": 1,
    "nodes": {
      "beat": { "call": "*", "in": ["@frame.time", 2] },
      "far": { "call": "distance", "in": ["@p.position", "@frame.cameraPosition"] }
    },
    "hooks": { "surface": { "roughness": "@beat", "metallic": "@far" } } }`);
  const values = valuesAt(previewGraph(graph), place, {}, { file: 'shader.graph.json' }, STILL);
  expect(Object.fromEntries(values)).toMatchObject({ beat: 3, far: expect.closeTo(4.717, 3) as number });
});

test('what asks for pixels beside is computed in the middle of one, with those', () => {
  expect(quadOf({ x: 5, y: 2 })).toEqual({
    lane: 1,
    pixels: [
      [4, 2],
      [5, 2],
      [4, 3],
      [5, 3],
    ],
  });
  const graph = readGraph(`{ "graph": 1,
    "nodes": {
      "slope": { "call": "dpdx", "in": ["@p.position"] },
      "down": { "call": "dpdy", "in": ["@p.screenPosition"] },
      "seen": { "call": "+", "in": ["@p.viewPosition", 0] }
    },
    "hooks": { "surface": { "roughness": "@slope.x", "metallic": "@down.y", "emissive": "@seen" } } }`);
  const preview = previewGraph(graph);
  const file = { file: 'shader.graph.json' };
  const values = valuesAt(preview, probedOnBallPixel({ x: 0.1, y: 0.1 }, 56, STILL), {}, file, STILL);
  // Pixel 30 of 56, across 2 metres.
  const x = (30.5 / 56) * 2 - 1;
  expect(values.get('slope')).toEqual([
    expect.closeTo(2 / 56, 5),
    expect.closeTo(0, 5),
    expect.closeTo(Math.sqrt(1 - (x + 2 / 56) ** 2 - x * x) - Math.sqrt(1 - 2 * x * x), 5),
  ]);
  expect(values.get('down')).toEqual([0, 1]);
  expect(values.get('seen')).toEqual(
    [x, -x, Math.sqrt(1 - 2 * x * x) - 5].map((part) => expect.closeTo(part, 5) as number),
  );
  // Alone, the script does not know, and says nothing.
  expect(valuesAt(preview, probedOnBall({ x: 0.1, y: 0.1 }, STILL), {}, file, STILL).size).toBe(0);
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 5],
    camera: { type: 'orthographic', xmag: 2, ymag: 1, znear: 0.1, zfar: 10 },
  });
  const node = scene.createNode();
  scene.update();
  const wall = (across: number, along: number): SceneHit => ({
    ...{ node, normal: [0, 0, 1], point: [across / 10 - 2, 1 - along / 10, 0] },
  });
  const pixel = { x: 7, y: 4, width: 40, height: 20 };
  const place = probedAtPixel(wall, camera, pixel, STILL)!;
  const there = valuesAt(preview, place, {}, file, STILL);
  expect(there.get('slope')).toEqual([expect.closeTo(0.1, 5), 0, 0]);
  expect([there.get('down'), there.get('seen')]).toEqual([
    [0, 1],
    [-1.25, 0.55, -5].map((part) => expect.closeTo(part, 5) as number),
  ]);
  // At its edge there is nothing to compare with.
  const edge = (across: number, along: number): SceneHit | undefined =>
    across > 7 ? wall(across, along) : undefined;
  expect(probedAtPixel(edge, camera, pixel, STILL)).toBeUndefined();
});
