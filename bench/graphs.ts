/** A graph of 1,000 nodes in the editor: what a change, a drag and a look at it take, against what a person waits for. */
import { cardsOf } from '../packages/viewfinder/src/logic/graph/graph-cards.js';
import { placesOf } from '../packages/viewfinder/src/logic/graph/graph-layout.js';
import { GraphSession } from '../packages/viewfinder/src/logic/graph/graph-session.js';
import { compileGraph, previewGraph } from '@umber-lens/core/graphs';
import { race, type Row, row } from './measure.js';

const NODES = 1000;
/** Milliseconds: a frame, and what counts as at once. */
const FRAME = 1000 / 60;
const AT_ONCE = 100;

/** Chains of sums, products and roots, each node of one or two before it. */
export function graphText(): string {
  const lines = Array.from({ length: NODES }, (_, i) => {
    const before = i === 0 ? '@p.position.x' : `@n${i - 1}`;
    const other = i < 8 ? '@settings.wide' : `@n${i - 8}`;
    const call = ['+', 'min', '*', 'max'][i % 4]!;
    return `    "n${i}": { "call": "${call}", "in": ["${before}", "${other}"] }`;
  });
  const places = Array.from(
    { length: NODES },
    (_, i) => `"n${i}": [${(i % 40) * 260}, ${Math.floor(i / 40) * 160}]`,
  );
  return `{
  "graph": 1,
  "settings": { "wide": { "type": "f32", "value": 0.5 } },
  "nodes": {
${lines.join(',\n')}
  },
  "hooks": { "surface": { "roughness": { "call": "saturate", "in": ["@n${NODES - 1}"] } } },
  "layout": { ${places.join(', ')} }
}
`;
}

export async function graphs(): Promise<Row[]> {
  const session = new GraphSession(graphText(), 'large.graph.json');
  let turn = 0;
  const node = (): string => `n${(turn++ * 7919) % NODES}`;
  const times = await race(
    {
      'a node calls something else': () =>
        session.edit('change', [
          { type: 'set', at: ['nodes', node(), 'call'], value: turn % 2 ? 'min' : 'max' },
        ]),
      'a card is put down': () =>
        session.edit('move', [{ type: 'set', at: ['layout', node()], value: [turn, turn * 2] }]),
      'it is undone': () => {
        session.edit('move', [{ type: 'set', at: ['layout', node()], value: [turn, turn] }]);
        session.undo();
      },
      'compiled to WGSL': () => void compileGraph(session.graph),
      'made ready for pictures': () => void previewGraph(session.graph),
      'its cards and their places': () => {
        const cards = cardsOf(session.board, session.types);
        placesOf(session.graph, cards);
      },
    },
    7,
  );
  return Object.entries(times).map(([name, time]) => {
    const isDrag = /card/.test(name);
    return row(
      `a graph of 1,000 nodes: ${name}, against ${isDrag ? 'a frame' : '100 ms'}`,
      time,
      isDrag ? FRAME : AT_ONCE,
      'ms',
      // Pictures are drawn after a rest.
      name.includes('pictures') ? undefined : 1,
    );
  });
}
