import { readFileSync } from 'node:fs';
import { checkHooks } from '../shading/check-hooks.js';
import type { Graph } from './document.js';
import { evaluateGraph } from './evaluate-graph.js';
import { previewGraph } from './preview-graph.js';
import { readGraph } from './read-graph.js';

test('each node of a graph is shown by its number, those of surfaces and of lights', () => {
  for (const file of ['painted', 'salt']) {
    const graph = readGraph(readFileSync(`examples/varnish/${file}.graph.json`, 'utf8'));
    const preview = previewGraph(graph)!;
    expect(preview.nodes).toEqual(Object.keys(graph.nodes!));
    // Marks are made of what is shown, not of each node: compilers put every call in place.
    expect(preview.compiled.wgsl.match(/previewMarked\(/g)).toHaveLength(2);
    expect(checkHooks(preview.compiled.wgsl).filter(({ severity }) => severity === 'error')).toEqual([]);
    const p = {
      normal: [0.6, 0, 0.8],
      toCamera: [0, 0, 1],
      objectPosition: [0.3, 0, 0.4],
      objectNormal: [0.6, 0, 0.8],
    };
    for (const [i, name] of preview.nodes.entries()) {
      const { gives, nodes } = evaluateGraph(preview.compiled, 'outputColor', {
        p,
        instance: { shownNode: i + 1 },
      });
      const value = [nodes.get(name)].flat() as number[];
      const [red] = gives as number[];
      if (value[0]! >= 0 && value[0]! <= 1) expect([name, red]).toEqual([name, expect.closeTo(value[0]!, 5)]);
    }
  }
});

test('what is below 0, above 1 or no number is marked', () => {
  const preview = previewGraph({
    graph: 1,
    nodes: {
      low: { value: [-0.5, 0, 0] },
      high: { value: 2 },
      none: { call: 'sqrt', in: [{ call: '-', in: ['@p.depth', 1] }] },
      truth: { call: '>', in: ['@p.depth', 1] },
    },
    hooks: {
      surface: { baseColor: '@low', roughness: '@high', metallic: '@none' },
    },
  })!;
  expect(preview.nodes).toEqual(['low', 'high', 'none', 'truth']);
  const at = (node: number, x: number): number[] =>
    evaluateGraph(preview.compiled, 'outputColor', {
      p: { depth: 0, screenPosition: [x, 0.5] },
      instance: { shownNode: node },
    }).gives as number[];
  // In a stripe, and beside it.
  expect(at(1, 0.5)[2]).toBeGreaterThan(0.1);
  expect(at(1, 6.5)).toEqual([0, 0, 0, 1]);
  expect(at(2, 6.5)).toEqual([1, 1, 1, 1]);
  expect(at(2, 0.5)[2]).toBeLessThan(0.9);
  expect(at(3, 0.5)[0]).not.toEqual(at(3, 5)[0]);
});

/** What each node of a graph is shown as, as numbers. */
function shownBy(graph: Graph, p: object, more: object = {}): Record<string, number[]> {
  const { compiled, nodes } = previewGraph(graph)!;
  return Object.fromEntries(
    nodes.map((name, i) => [
      name,
      (
        evaluateGraph(
          compiled,
          'outputColor',
          { p, instance: { shownNode: i + 1, ...more } },
          { settings: { previewPlain: 1 } },
        ).gives as number[]
      ).map((part) => Math.round(part * 1e4) / 1e4 + 0),
    ]),
  );
}

test('nodes that ask for a vertex or a ray have that of the place, and places count from the middle of each shape', () => {
  const shown = shownBy(
    {
      graph: 1,
      nodes: {
        raised: { call: '+', in: ['@v.position', { call: '*', in: ['@v.normal', 2] }] },
        across: { value: '@v.texcoord0' },
        from: { value: '@ray.origin' },
        way: { value: '@ray.direction' },
        there: { value: '@p.position' },
      },
      hooks: {
        displace: { position: '@raised' },
        march: { position: '@from', normal: '@way', isHit: true },
        surface: { baseColor: '@there' },
      },
    },
    {
      objectPosition: [0.1, 0.2, 0.3],
      objectNormal: [0, 0, 1],
      toCamera: [0, 0, 1],
      texcoord0: [0.25, 0.5],
      position: [7.1, 3.2, 0.3],
      // Twice as large, and turned a quarter about Y: Z of the world is X of the shape.
      objectToWorld: [
        [0, 0, 2],
        [0, 2, 0],
        [-2, 0, 0],
        [0, 0, 0],
      ],
    },
    { previewMiddle: [7, 3, 0] },
  );
  expect(shown).toEqual({
    raised: [0.1, 0.2, 2.3, 1],
    across: [0.25, 0.5, 0, 1],
    from: [2.1, 0.2, 0.3, 1],
    way: [-1, 0, 0, 1],
    there: [0.1, 0.2, 0.3, 1],
  });
});

test('nodes of an effect are shown on a picture: each of what effects ask for has something to show', () => {
  const at = (x: number, y: number): Record<string, number[]> =>
    shownBy(
      {
        graph: 1,
        nodes: {
          color: { value: '@p.color' },
          place: { value: '@p.place' },
          pixel: { call: '/', in: ['@p.position', '@p.size'] },
          around: { call: 'colorAt', in: ['@p.place'] },
          one: { call: 'colorOf', in: [{ call: 'vec2i', in: ['@p.position'] }] },
          second: { call: 'secondAt', in: ['@p.place'] },
          before: { call: 'beforeAt', in: ['@p.place'] },
          depth: { call: 'depthAt', in: ['@p.place'] },
          metres: { call: 'distanceAt', in: ['@p.place'] },
          facing: { call: 'normalAt', in: ['@p.place'] },
          moved: { call: 'velocityAt', in: ['@p.place'] },
          masked: { call: 'maskAt', in: ['@p.place'] },
        },
        hooks: { effect: '@color' },
      },
      { texcoord0: [x, y] },
    );
  const [tower, sky, water] = [at(0.32, 0.3), at(0.1, 0.1), at(0.3, 0.9)];
  for (const seen of [tower, sky, water]) {
    expect(seen['color']).toEqual(seen['around']);
    expect(seen['place']).toEqual(seen['pixel']);
  }
  expect([tower, sky, water].map(({ masked }) => masked![0])).toEqual([1, 0, 0]);
  expect([tower, sky, water].map(({ metres }) => metres![0])).toEqual([12, 1e6, expect.closeTo(6.667, 2)]);
  expect(sky['facing']).toEqual([0, 0, 0, 1]);
  expect(water['facing']).toEqual([0, 1, 0, 1]);
  expect(tower['moved']![0]).toBeGreaterThan(sky['moved']![0]!);
  expect(tower['depth']![0]).toBeGreaterThan(0);
  expect(tower['second']).not.toEqual(tower['color']);
  expect(sky['color']![2]).toBeGreaterThan(sky['color']![0]!);
  // What screens show is not light: it is decoded before it is shown.
  const { compiled } = previewGraph({
    graph: 1,
    nodes: { grey: { value: 0.5 } },
    hooks: { effect: '@p.color' },
  })!;
  const { gives } = evaluateGraph(compiled, 'outputColor', { p: {}, instance: { shownNode: 1 } });
  expect((gives as number[])[0]).toBeCloseTo(0.214, 3);
});

test('functions of a graph stand before those of pictures', () => {
  const shown = shownBy(
    {
      graph: 1,
      functions: { maskAt: { takes: { place: 'vec2f' }, gives: '@place.x' } },
      nodes: { named: { call: 'maskAt', in: [[0.25, 0.5]] } },
      hooks: { effect: { call: 'vec4f', in: ['@named'] } },
    },
    {},
  );
  expect(shown['named']).toEqual([0.25, 0.25, 0.25, 1]);
});
