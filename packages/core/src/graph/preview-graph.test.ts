import { readFileSync } from 'node:fs';
import { checkHooks } from '../shading/check-hooks.js';
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

test('what is below 0, above 1 or no number is marked; what asks for a vertex is not shown', () => {
  const preview = previewGraph({
    graph: 1,
    nodes: {
      low: { value: [-0.5, 0, 0] },
      high: { value: 2 },
      none: { call: 'sqrt', in: [{ call: '-', in: ['@p.depth', 1] }] },
      moved: { call: '*', in: ['@v.position', 2] },
      truth: { call: '>', in: ['@p.depth', 1] },
    },
    hooks: {
      displace: { position: '@moved' },
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
  expect(previewGraph({ graph: 1, hooks: { effect: '@p.color' } })).toBeUndefined();
});
