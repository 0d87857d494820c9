import { graphCosts, previewGraph } from '@umber-lens/core/graphs';
import { addTaken, onBoard, removeTaken, renameTaken, withFunctionOpen } from './board-graph.js';
import { cardsOf } from './graph-cards.js';
import { bypassNodes, frameNodes, muteNodes, removeNodes } from './graph-commands.js';
import { probedOnBall, valuesAt } from './graph-probe.js';
import { GraphSession } from './graph-session.js';
import { wrapNodes } from './graph-wrap.js';

const TEXT = `{
  "graph": 1,
  "settings": { "edge": { "type": "f32", "value": 2.5 } },
  "functions": {
    "rimOf": {
      "takes": { "n": "vec3f", "width": "f32" },
      "nodes": {
        "facing": { "call": "dot", "in": ["@n", "@way"] }, // how straight on
        "way": { "value": [0, 0, 1] },
        "edge": { "call": "pow", "in": [{ "call": "-", "in": [1, { "call": "saturate", "in": ["@facing"] }] }, "@width"] }
      },
      "gives": "@edge"
    },
    "twice": { "code": "fn twice(x: f32) -> f32 { return 2 * x; }" }
  },
  "nodes": { "rim": { "call": "rimOf", "in": ["@p.normal", "@settings.edge"] } },
  "hooks": { "surface": { "alpha": { "call": "twice", "in": ["@rim"] } } }
}
`;
const opened = (): GraphSession => {
  const session = new GraphSession(TEXT, 'rim.graph.json');
  session.open('rimOf');
  return session;
};
const faults = (session: GraphSession): string[] => {
  session.lookThrough();
  return session.findings.map(({ code }) => code);
};

test('a function is on the board: what it takes, its nodes, what it gives; the graph is itself again', () => {
  const session = opened();
  const cards = cardsOf(session.board, session.types);
  expect(cards.map(({ inputs, name, type }) => [name, type, inputs.flatMap(({ from }) => from)])).toEqual([
    ['n', 'vec3f', []],
    ['width', 'f32', []],
    ['facing', 'f32', ['n', 'way']],
    ['way', 'vec3f', []],
    ['edge', 'f32', ['facing', 'width']],
    ['gives', '', ['edge']],
  ]);
  session.open(undefined);
  expect(session.board).toBe(session.graph);
});

test('what is changed on the board is changed in the function, and taken back', () => {
  const session = opened();
  session.choose(['edge']);
  session.editBoard('type', [{ type: 'set', at: ['nodes', 'edge', 'in', 1], value: 3 }]);
  session.editBoard('move', [{ type: 'set', at: ['layout', 'edge'], value: [7, 8] }]);
  session.editBoard('gives', [{ type: 'set', at: ['hooks', 'gives'], value: '@facing' }]);
  session.editBoard('rename', [{ type: 'rename', node: 'facing', name: 'straight' }]);
  expect(session.graph.functions!['rimOf']).toMatchObject({ gives: '@straight', layout: { edge: [7, 8] } });
  expect(session.compiled.wgsl).toContain('let straight = dot(n, way);\n  return straight;');
  session.editBoard('delete', removeNodes(['edge']).changes);
  expect([Object.keys(session.board.nodes!), faults(session)]).toEqual([['straight', 'way'], []]);
  for (const command of [muteNodes(session.board, ['way']), bypassNodes(session.board, ['way'], session)])
    session.editBoard(command.name, command.changes);
  expect(session.text).toContain('// how straight on');
  expect(() => session.editBoard('frame', frameNodes(session.board, ['straight'], 'f').changes)).toThrow(
    'functions have none',
  );
  while (session.undo());
  expect(session.text).toBe(TEXT);
});

test('a function is renamed while it is open, takes more, and calls that otherwise', () => {
  const session = opened();
  session.renameOpened('edgeOf');
  expect([session.opened, session.graph.nodes!['rim']!.call]).toEqual(['edgeOf', 'edgeOf']);
  expect(() => session.renameOpened('twice')).toThrow(expect.objectContaining({ code: 'edit/name-twice' }));
  expect(session.opened).toBe('edgeOf');
  session.edit('takes', addTaken(session.graph, 'edgeOf', 'tint', 'vec3f'));
  session.edit('call', renameTaken(session.board, 'edgeOf', 'n', 'normal'));
  expect(Object.keys(session.board.takes!)).toEqual(['normal', 'width', 'tint']);
  expect([session.board.nodes!['facing']!.in, session.graph.nodes!['rim']!.in, faults(session)]).toEqual([
    ['@normal', '@way'],
    ['@p.normal', '@settings.edge', [0, 0, 0]],
    [],
  ]);
  expect(() => addTaken(session.graph, 'edgeOf', 'way', 'f32')).toThrow('already');
  expect(() => addTaken(session.graph, 'edgeOf', 'a b', 'f32')).toThrow('no name');
  // What names it is gone with the name.
  session.undo();
  session.undo();
  session.undo();
  expect([session.text, session.opened]).toEqual([TEXT, undefined]);
});

test('nodes of a function have values, pictures and costs, as the first call has them', () => {
  const session = opened();
  const whole = withFunctionOpen(session.graph, 'rimOf');
  const preview = previewGraph(whole, session)!;
  const still = { light: [0, 0, 1], time: 0 } as const;
  expect(preview.nodes).toEqual(['rim', 'rimOf/n', 'rimOf/width', 'rimOf/facing', 'rimOf/way', 'rimOf/edge']);
  const values = onBoard(
    valuesAt(preview, probedOnBall({ x: 0.6, y: 0 }, still), { edge: 1 }, session, still),
    'rimOf',
  );
  const near = (value: number): number => expect.closeTo(value, 5) as number;
  expect(Object.fromEntries(values)).toMatchObject({
    ...{ n: [near(0.6), near(0), near(0.8)], width: 1, facing: near(0.8), edge: near(0.2) },
  });
  const costs = onBoard(graphCosts(session.compiled, session).nodes, 'rimOf');
  expect(costs.get('facing')!.operations).toBeGreaterThan(3);
  // Nothing calls it: what it takes is 0.
  const alone = withFunctionOpen({ ...session.graph, nodes: {}, hooks: {} }, 'rimOf');
  expect(alone.nodes!['rimOf/n']).toEqual({ call: 'vec3f', in: [] });
});

test('nodes of a function are wrapped into another one', () => {
  const session = opened();
  const { changes } = wrapNodes(session.board, ['facing', 'way'], 'straightOn', session);
  session.editBoard('wrap', changes);
  expect(session.graph.functions!['straightOn']).toMatchObject({ takes: { n: 'vec3f' }, gives: '@facing' });
  expect(session.board.nodes!['facing']).toEqual({ call: 'straightOn', in: ['@n'] });
  expect(faults(session)).toEqual([]);
});

test('what a function takes no more its calls do not give, also those within others', () => {
  const text = TEXT.replace(
    '{ "call": "twice", "in": ["@rim"] }',
    '{ "call": "*", "in": [{ "call": "rimOf", "in": ["@p.normal", { "call": "rimOf", "in": ["@p.toCamera", 1] }] }, "@rim"] }',
  ).replace(/,\s+"twice".*\n/, '\n');
  const session = new GraphSession(text, 'rim.graph.json');
  session.open('rimOf');
  session.edit('more', addTaken(session.graph, 'rimOf', 'tint', 'vec3f'));
  expect(faults(session)).toEqual([]);
  const more = session.text;
  expect(() => removeTaken(session.graph, 'rimOf', 'n')).toThrow('"n" goes into facing');
  session.edit('less', removeTaken(session.graph, 'rimOf', 'tint'));
  expect(session.graph).toEqual(new GraphSession(text, 'rim.graph.json').graph);
  expect(faults(session)).toEqual([]);
  session.undo();
  expect(session.text).toBe(more);
  // One between others.
  session.editBoard('cut', [{ type: 'set', at: ['nodes', 'edge', 'in', 1], value: 2 }]);
  session.edit('less', removeTaken(session.graph, 'rimOf', 'width'));
  expect(session.graph.nodes!['rim']!.in).toEqual(['@p.normal', [0, 0, 0]]);
  expect(session.graph.hooks.surface).toEqual({
    alpha: {
      call: '*',
      in: [{ call: 'rimOf', in: ['@p.normal', [0, 0, 0]] }, '@rim'],
    },
  });
});
