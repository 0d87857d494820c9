import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { applyEdits, undoEdits } from '../json/text-edit.js';
import { type GraphChange, graphEdit } from './graph-edit.js';
import { checkGraph, readGraph } from './read-graph.js';
import { RIM } from '../../../../tests/rim-graph.js';

const told = (text: string): string[] =>
  checkGraph(text).map(({ code, hint, message, severity }) => `${severity} ${code}: ${message} | ${hint}`);

test('whatever is edited, comments stay, and taken back the text is what it was', () => {
  const names = ['facing', 'inside', 'rim', 'light'];
  const change = fc.oneof(
    fc.record({
      type: fc.constant('set' as const),
      at: fc.constantFrom(
        ['nodes', 'rim', 'in', 1],
        ['settings', 'edge', 'value'],
        ['nodes', 'facing', 'note'],
        ['layout', 'light'],
        ['hooks', 'surface', 'roughness'],
      ),
      value: fc.constantFrom<unknown>(3, [1, 2], '@facing', undefined),
    }),
    fc.record({
      type: fc.constant('rename' as const),
      node: fc.constantFrom(...names),
      name: fc.constantFrom('one', 'two', 'a name with "signs"'),
    }),
    fc.record({ type: fc.constant('remove' as const), node: fc.constantFrom(...names) }),
  );
  holds(
    fc.property(fc.array(change, { minLength: 1, maxLength: 5 }), (changes) => {
      let edits: ReturnType<typeof graphEdit>;
      try {
        edits = graphEdit(RIM, changes as GraphChange[]);
      } catch (error) {
        return expect((error as { code: string }).code).toMatch(/^edit\//);
      }
      const after = applyEdits(RIM, edits);
      expect(applyEdits(after, undoEdits(RIM, edits))).toBe(RIM);
      expect(after).toContain('// by eye');
      expect(() => JSON.parse(after.replace(/\/\/ by eye/, '').replace(/,(\s*\})/g, '$1'))).not.toThrow();
    }),
    { numRuns: 200 },
  );
  const renamed = applyEdits(RIM, graphEdit(RIM, [{ type: 'rename', node: 'rim', name: 'edge light' }]));
  expect(told(renamed)).toEqual([]);
  expect(renamed.match(/edge light/g)).toHaveLength(5);
  const removed = applyEdits(RIM, graphEdit(RIM, [{ type: 'remove', node: 'inside' }]));
  expect(readGraph(removed).nodes!['rim']!.in![0]).toEqual({ call: '-', in: [1, null] });
});

test('functions are renamed with all that call them, and their nodes keep their places', () => {
  const text = `{ "graph": 1,
    "functions": {
      "lit": { "takes": { "n": "vec3f" }, "nodes": { "y": { "call": "saturate", "in": ["@n.y"] } }, "gives": "@y", "layout": { "y": [1, 2] } },
      "both": { "takes": { "n": "vec3f" }, "gives": { "call": "*", "in": [{ "call": "lit", "in": ["@n"] }, 2] } } },
    "nodes": { "up": { "call": "lit", "in": ["@p.normal"] } },
    "hooks": { "surface": { "emissive": { "call": "vec3f", "in": [{ "call": "both", "in": ["@p.normal"] }, "@up", 0] } } } }`;
  expect(told(text)).toEqual([]);
  const renamed = applyEdits(
    text,
    graphEdit(text, [
      { type: 'renameFunction', function: 'lit', name: 'fromAbove' },
      { type: 'rename', function: 'fromAbove', node: 'y', name: 'up' },
    ]),
  );
  expect(told(renamed)).toEqual([]);
  expect(renamed.match(/fromAbove/g)).toHaveLength(3);
  expect(readGraph(renamed).functions!['fromAbove']).toMatchObject({ gives: '@up', layout: { up: [1, 2] } });
  const without = applyEdits(
    renamed,
    graphEdit(renamed, [{ type: 'remove', function: 'fromAbove', node: 'up' }]),
  );
  expect(readGraph(without).functions!['fromAbove']!.layout ?? {}).toEqual({});
  const rename =
    (name: string, of = 'lit'): (() => void) =>
    () =>
      void graphEdit(text, [{ type: 'renameFunction', function: of, name }]);
  expect(rename('both')).toThrow(expect.objectContaining({ code: 'edit/name-twice' }));
  expect(rename('other', 'dim')).toThrow(expect.objectContaining({ code: 'edit/no-node' }));
  const coded = text
    .replace('"nodes": { "up"', '"declarations": [], "nodes": { "up"')
    .replace(
      '"gives": "@y"',
      '"gives": "@y" }, "twice": { "code": "fn twice(n: vec3f) -> f32 { return 2 * lit(n); }"',
    );
  expect(() => graphEdit(coded, [{ type: 'renameFunction', function: 'lit', name: 'other' }])).toThrow(
    expect.objectContaining({ code: 'edit/in-code' }),
  );
});
