import { compileGraph } from './compile-graph.js';
import type { Graph, GraphValue } from './document.js';
import { graphCosts } from './graph-costs.js';
import { typesOf } from './types-of.js';

const costsOf = (nodes: Record<string, GraphValue>, emissive: string, more: Partial<Graph> = {}) =>
  graphCosts(compileGraph({ graph: 1, ...more, nodes, hooks: { surface: { emissive } } }));

test('operations are counted by number, curves as four, in nodes and whole', () => {
  const { nodes, stages } = costsOf(
    {
      sum: { call: '+', in: ['@p.normal', '@p.toCamera'] },
      unit: { call: 'normalize', in: ['@sum'] },
      facing: { call: 'dot', in: ['@unit', '@p.normal'] },
      bent: { call: 'pow', in: ['@facing', 3] },
      known: { call: 'sin', in: [0.5] },
      all: { call: '*', in: ['@bent', { call: '+', in: ['@known', '@sum'] }] },
    },
    '@all',
  );
  expect(Object.fromEntries([...nodes].map(([name, { operations }]) => [name, operations]))).toEqual({
    ...{ sum: 3, unit: 13, facing: 6, bent: 4, known: 0, all: 6 },
  });
  expect(stages.fragment.operations).toBeGreaterThanOrEqual(3 + 13 + 6 + 4 + 6);
  expect(stages.vertex.operations).toBe(0);
  expect(stages.fragment.isLeast).toBe(false);
});

test('functions count with what they call, loops by their turns, textures are told', () => {
  const { nodes } = costsOf(
    {
      five: { call: 'five', in: ['@p.normal.x'] },
      until: { call: 'until', in: ['@p.normal.x'] },
      read: { call: 'textureSample', in: ['bark', '@p.texcoord0'] },
      all: { call: '*', in: ['@read.rgb', { call: '+', in: ['@five', '@until'] }] },
    },
    '@all',
    {
      textures: { bark: {} },
      functions: {
        five: {
          code: 'fn five(x: f32) -> f32 {\n  var sum = x;\n  for (var i = 0; i < 5; i++) { sum += x * x; }\n  return sum;\n}',
        },
        until: {
          code: 'fn until(x: f32) -> f32 {\n  var sum = x;\n  while sum < 9 { sum += 1; }\n  return sum;\n}',
        },
      },
    },
  );
  // A product and a sum, a comparison and a step, five times.
  expect(nodes.get('five')).toEqual({ operations: 20, textureReads: 0, isLeast: false });
  expect(nodes.get('until')).toEqual({ operations: 16, textureReads: 0, isLeast: true });
  expect(nodes.get('read')).toMatchObject({ textureReads: 1 });
});

test('what a reference is, where it stands', () => {
  const graph: Graph = {
    graph: 1,
    settings: { glow: { type: 'color' } },
    nodes: { a: { call: 'dot', in: ['@p.normal', '@p.normal'] } },
    hooks: { surface: { roughness: '@a' } },
  };
  expect(
    Object.fromEntries(typesOf(graph, ['@p.normal', '@settings.glow', '@a', '@none', '@p.texcoord0.x'])),
  ).toEqual({
    ...{ '@p.normal': 'vec3f', '@settings.glow': 'vec3f', '@a': 'f32', '@p.texcoord0.x': 'f32' },
  });
});
