import { readFileSync } from 'node:fs';
import { compileGraph, type Graph, readGraph } from '@umber-lens/core/graphs';
import { cardsOf } from './graph-cards.js';
import { copyNodes, pasteNodes } from './graph-clipboard.js';
import {
  ALIGNMENTS,
  alignCards,
  bypassNodes,
  frameNodes,
  type GraphCommand,
  muteNodes,
  putIntoLink,
  removeNodes,
  replaceCall,
} from './graph-commands.js';
import { placesOf } from './graph-layout.js';
import { GraphSession } from './graph-session.js';
import { wrapNodes } from './graph-wrap.js';
import { changesOfWgsl } from './wgsl-changes.js';

const RIM = `{
  "graph": 1,
  "settings": { "edge": { "type": "f32", "value": 2.5 }, "glow": { "type": "color", "value": "#ffb46a" } },
  "nodes": {
    "facing": { "call": "dot", "in": ["@p.normal", "@p.toCamera"] }, // how straight on
    "inside": { "call": "saturate", "in": ["@facing"] },
    "the rim": { "call": "pow", "in": [{ "call": "-", "in": [1, "@inside"] }, "@settings.edge"] },
    "light": { "call": "*", "in": ["@settings.glow", "@the rim"] }
  },
  "hooks": { "surface": { "emissive": "@light" } }
}
`;
const open = (text = RIM): GraphSession => new GraphSession(text, 'rim.graph.json');
const make = (session: GraphSession, { changes, choose, name }: GraphCommand): void => {
  session.edit(name, changes);
  if (choose) session.choose(choose);
};
const faults = (session: GraphSession): string[] => {
  session.lookThrough();
  return session.findings.map(({ code }) => code);
};

test('nodes are muted, bypassed, put into links and given other calls; all of it goes back', () => {
  const session = open();
  const lines = (): string => session.compiled.wgsl;
  make(session, muteNodes(session.graph, ['inside']));
  expect(lines()).toContain('let inside = facing;');
  make(session, muteNodes(session.graph, ['inside']));
  make(session, bypassNodes(session.graph, ['inside', 'facing']));
  // A row of them: what the first took, and its type does not fit the last.
  expect(session.graph.nodes?.['the rim']?.in?.[0]).toEqual({ call: '-', in: [1, '@p.normal'] });
  session.undo();
  make(session, bypassNodes(session.graph, ['inside']));
  expect([lines().includes('1 - facing'), faults(session)]).toEqual([true, ['wgsl/negative-pow']]);
  session.undo();
  // Parts of what is gone are parts of what comes in its place.
  session.edit('parts', [
    { type: 'set', at: ['nodes', 'way'], value: { call: 'normalize', in: ['@p.normal'] } },
    { type: 'set', at: ['nodes', 'facing', 'in'], value: ['@way.x', '@way.y'] },
    { type: 'set', at: ['nodes', 'facing', 'call'], value: '*' },
  ]);
  make(session, bypassNodes(session.graph, ['way']));
  expect(session.graph.nodes?.['facing']?.in).toEqual(['@p.normal.x', '@p.normal.y']);
  session.undo();
  session.undo();
  session.edit('add', [{ type: 'set', at: ['nodes', 'soft'], value: { call: 'smoothstep', in: [0, 1] } }]);
  make(session, putIntoLink(session.graph, 'soft', ['nodes', 'inside', 'in', 0]));
  expect(session.graph.nodes).toMatchObject({
    soft: { in: ['@facing', 1] },
    inside: { in: ['@soft'] },
  });
  make(session, replaceCall(session.graph, 'soft', 'step'));
  expect(lines()).toContain('let soft = step(facing, 1);');
  expect(() => putIntoLink(session.graph, 'light', ['nodes', 'none', 'in', 0])).toThrow('takes no');
  make(session, removeNodes(['soft']));
  while (session.undo());
  expect(session.text).toBe(RIM);
});

test('nodes become a function, which computes the same; what cannot be one is told', () => {
  const session = open();
  const before = session.compiled.wgsl;
  make(session, wrapNodes(session.graph, ['facing', 'inside', 'the rim'], 'rimOf'));
  expect(session.findings).toEqual([]);
  expect([...session.chosen]).toEqual(['the rim']);
  expect(session.graph.functions?.['rimOf']).toMatchObject({
    takes: { normal: 'vec3f', toCamera: 'vec3f', edge: 'f32' },
    gives: '@the rim',
  });
  expect(session.graph.nodes).toMatchObject({
    'the rim': { call: 'rimOf', in: ['@p.normal', '@p.toCamera', '@settings.edge'] },
  });
  expect(session.compiled.wgsl).toContain('fn rimOf(normal: vec3f, toCamera: vec3f, edge: f32) -> f32 {');
  session.undo();
  expect([session.text, session.compiled.wgsl]).toEqual([RIM, before]);
  expect(() => wrapNodes(session.graph, ['facing', 'the rim'], 'x')).toThrow(
    '"facing", "the rim" are taken outside',
  );
  const alone = readGraph(RIM.replace('"emissive": "@light"', '"roughness": 1'));
  expect(() => wrapNodes(alone, ['light'], 'x')).toThrow('nothing outside takes');
});

test('what is copied goes into another graph with what it names, and twice into the same', () => {
  const session = open();
  const text = copyNodes(session.graph, ['inside', 'the rim']);
  make(session, pasteNodes(session.graph, text, { x: 10, y: 20 }));
  expect(session.graph.nodes).toMatchObject({
    'inside 2': { in: ['@facing'] },
    'the rim 2': { in: [{ in: [1, '@inside 2'] }, '@settings.edge'] },
  });
  expect([...session.chosen]).toEqual(['inside 2', 'the rim 2']);
  const empty = open('{\n  "graph": 1,\n  "nodes": {},\n  "hooks": { "surface": {} }\n}\n');
  make(
    empty,
    pasteNodes(empty.graph, copyNodes(session.graph, ['facing', 'inside', 'the rim']), { x: 0, y: 0 }),
  );
  expect([Object.keys(empty.graph.settings ?? {}), faults(empty)]).toEqual([
    ['edge'],
    expect.not.arrayContaining(['graph/name', 'graph/reference']),
  ]);
});

test.each<[what: string, code: string, nodes: unknown]>([
  ['an expression', 'pow(1 - inside, settings.edge) * 2;', { pasted: { call: '*' } }],
  [
    'lines',
    'let half = normalize(p.toCamera + vec3f(0, 1, 0));\nlet aligned = dot(half, p.normal);',
    { half: { call: 'normalize' }, aligned: { call: 'dot', in: ['@half', '@p.normal'] } },
  ],
  [
    'a module',
    'fn outputColor(litColor: vec4f, s: Surface, p: Fragment) -> vec4f {\n  let dim = litColor.rgb * 0.5;\n  return vec4f(dim, litColor.a);\n}',
    { dim: { call: '*' } },
  ],
])('WGSL is pasted: %s', (_, code, nodes) => {
  const session = open();
  make(session, pasteNodes(session.graph, code, { x: 0, y: 0 }, session.compiled.types));
  expect(session.graph.nodes).toMatchObject(nodes as object);
  expect(Object.keys(session.graph.nodes ?? {})).toHaveLength(4 + Object.keys(nodes as object).length);
});

test.each([
  ['', 'nothing was copied'],
  ['{ "nodes": {} }', 'has no "graph": 1'],
  ['{ "graph": 1, "nodes": ', 'no graph: '],
  ['{ "graph": 1 }', 'no node'],
  ['what a day', 'neither nodes nor WGSL'],
])('what cannot be pasted is told: %s', (text, said) => {
  expect(() => pasteNodes(open().graph, text, { x: 0, y: 0 })).toThrow(said);
});

test('WGSL that is typed changes what was typed, and nothing else', () => {
  const session = open();
  const { compiled, file, graph } = session;
  expect(changesOfWgsl(graph, compiled, compiled.wgsl, { file })).toEqual([]);
  const typed = compiled.wgsl
    .replace('pow(1 - inside, settings.edge)', 'pow(1 - inside, settings.edge) * wide')
    .replace('  let inside', '  let wide = p.texcoord0.x + 1;\n  let inside');
  session.edit('type', changesOfWgsl(graph, compiled, typed, { file }));
  expect(session.findings).toEqual([]);
  expect(session.text).toContain('// how straight on');
  expect(session.graph.nodes).toMatchObject({
    wide: { call: '+' },
    'the rim': { call: '*', in: [{ call: 'pow' }, '@wide'] },
    light: { in: ['@settings.glow', '@the rim'] },
  });
  // Line for line what was typed.
  const lines = (text: string): string[] => text.trim().split('\n').sort();
  expect(lines(session.compiled.wgsl)).toEqual(lines(typed));
  expect(() => changesOfWgsl(graph, compiled, `${compiled.wgsl} fn`, { file })).toThrow(/rim\.graph\.json/);
});

test('what the compiler alone finds wrong is shown as it was before', () => {
  const session = open();
  const good = session.compiled.wgsl;
  // Derivatives stand where all pixels go, and this is one that does not.
  session.edit('wrong', [
    {
      type: 'set',
      at: ['functions', 'bad'],
      value: { code: 'fn bad(x: f32) -> f32 { if x > 0 { return dpdx(x); } return nothing; }' },
    },
    { type: 'set', at: ['nodes', 'facing'], value: { call: 'bad', in: ['@p.normal.x'] } },
  ]);
  expect(session.isWrong).toBe(false);
  session.lookThrough();
  expect([session.isWrong, session.compiled.wgsl]).toEqual([true, good]);
  session.undo();
  session.lookThrough();
  expect([session.isWrong, session.compiled.wgsl]).toEqual([false, good]);
});

test('taking a line away, and what names it, takes the node away', () => {
  const session = open();
  const { compiled, file, graph } = session;
  const typed = compiled.wgsl.replace(/ {2}let inside.*\n/, '').replace('1 - inside', '1 - saturate(facing)');
  session.edit('type', changesOfWgsl(graph, compiled, typed, { file }));
  expect([Object.keys(session.graph.nodes ?? {}), session.findings]).toEqual([
    ['facing', 'the rim', 'light'],
    [],
  ]);
});

test('cards are aligned and framed', () => {
  const text = readFileSync('examples/varnish/painted.graph.json', 'utf8');
  const session = new GraphSession(text, 'painted.graph.json');
  const cards = cardsOf(session.board, session.types)
    .filter(({ isHook }) => !isHook)
    .slice(0, 4);
  const names = cards.map(({ name }) => name);
  const at = (graph: Graph): number[][] => names.map((name) => [...graph.layout![name]!]);
  const seen = ALIGNMENTS.map((how) => {
    const places = placesOf(session.graph, cards);
    make(
      session,
      alignCards(cards, how, ({ name }) => places.get(name)!),
    );
    const all = at(session.graph);
    session.undo();
    return [new Set(all.map(([x]) => x)).size, new Set(all.map(([, y]) => y)).size];
  });
  expect([seen[0]![0], seen[2]![1], seen[5]![0], seen[6]![1]]).toEqual([1, 1, 1, 1]);
  make(session, frameNodes(session.graph, names, 'painted'));
  expect(session.graph.frames?.['painted']).toEqual({ nodes: names });
  make(session, frameNodes(session.graph, names, 'other'));
  expect(session.graph.frames?.['painted']).toBeUndefined();
  expect(compileGraph(session.graph).wgsl).toBe(session.compiled.wgsl);
});
