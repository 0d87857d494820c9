import { checkGraph, compileGraph, readGraph } from '@umber-lens/core/graphs';
import { blocksOf } from './blocks.js';

const graphs = blocksOf('jsonc').filter(({ text }) => /"graph": 1/.test(text));

test('every graph in the guides is right, and nothing in it is seldom meant', () => {
  expect(graphs.length).toBeGreaterThan(1);
  for (const { file, line, text } of graphs)
    expect([`${file}:${line}`, checkGraph(text).map(({ message }) => message)]).toEqual([
      `${file}:${line}`,
      [],
    ]);
});

test('the WGSL that is shown is what becomes of the graph above it', () => {
  const [first] = graphs;
  const shown = blocksOf('wgsl').find(({ file, line }) => file === first!.file && line > first!.line)!;
  expect(compileGraph(readGraph(first!.text)).wgsl.trim()).toBe(shown.text.trim());
});

test('the faults that the guide tells of are told', () => {
  const [, stepped] = graphs;
  const told = (text: string): string[] => checkGraph(text).map(({ code }) => code);
  const { text } = stepped!;
  expect(
    told(
      text.replace(
        '"normalize", "in": [{ "call": "+", "in": ["@l.direction", "@p.toCamera"] }]',
        '"+", "in": ["@l.direction", "@p.toCamera"]',
      ),
    ),
  ).toEqual(['graph/length']);
  expect(told(text.replace('["@s.normal", "@half"]', '["@p.viewNormal", "@half"]'))).toEqual([
    'graph/spaces',
  ]);
  expect(told(text.replace('"value": 0.99, "range": [0.8, 0.999]', '"value": 0'))).toEqual([
    'graph/passes-all',
  ]);
});
