/** Scenes as files: what a sheet costs over its JSON and its nodes, and an edit of a large one. */
import {
  applyEdits,
  applySheet,
  box,
  readSheet,
  Scene,
  type Sheet,
  sheetEdit,
  type SheetNode,
} from '@umber-lens/core';
import { race, type Row, row } from './measure.js';

const GROUPS = 1000;
const EACH = 99;
/** Milliseconds. */
const FRAME = 1000 / 60;

/** 100,000 nodes, as a program writes them. */
function large(): string {
  const mesh = { shape: 'box', width: 1 };
  const child = (i: number, k: number): SheetNode => ({ name: `crate ${k}`, translation: [i, k, 0], mesh });
  const group = (i: number): SheetNode => ({
    name: `stack ${i}`,
    children: Array.from({ length: EACH }, (_, k) => child(i, k)),
  });
  return JSON.stringify({ sheet: 1, nodes: Array.from({ length: GROUPS }, (_, i) => group(i)) }, null, 1);
}

/** As many, side by side. */
const wide = (): string =>
  JSON.stringify({
    sheet: 1,
    nodes: Array.from({ length: GROUPS * EACH }, (_, i) => ({ name: `crate ${i}`, translation: [i, 0, 0] })),
  });

/** The same nodes by hand, without a look at anything. */
function byHand(text: string): void {
  const { nodes = [] } = JSON.parse(text) as Sheet;
  const scene = new Scene();
  const mesh = { primitives: [{ geometry: box({ width: 1 }) }] };
  for (const { children = [], name, translation = [0, 0, 0] } of nodes) {
    const parent = scene.createNode({ name: name!, translation });
    for (const one of children)
      scene.createNode({ name: one.name!, parent, translation: one.translation!, mesh });
  }
}

export async function sheets(): Promise<Row[]> {
  let text = large();
  const sideBySide = wide();
  let turn = 0;
  const edit = (): void => {
    const change = { type: 'set', node: `stack ${GROUPS >> 1}/crate 50`, member: 'translation' } as const;
    text = applyEdits(text, sheetEdit(text, [{ ...change, value: [++turn, 2, 3] }]));
  };
  edit();
  // A thousand nodes that are chosen, and moved by one step.
  const many = (): void => {
    const changes = Array.from({ length: GROUPS }, (_, i) => ({
      ...{ type: 'set' as const, node: `stack ${i}/crate 7`, member: 'translation' },
      value: [i, ++turn, 3],
    }));
    text = applyEdits(text, sheetEdit(text, changes));
  };
  const times = await race(
    {
      ours: () => void applySheet(new Scene(), readSheet(text)),
      byHand: () => byHand(text),
      wide: () => void applySheet(new Scene(), readSheet(sideBySide)),
      wideByHand: () => byHand(sideBySide),
      edit,
    },
    7,
  );
  // By themselves: an edit of what was edited last finds the nodes of its text known.
  const several = await race({ many, parse: () => void JSON.parse(text) }, 7);
  return [
    row(
      'reading, checking and placing a sheet of 100,000 nodes, against JSON.parse and as many createNode',
      times['ours']!, // raced, here and below
      times['byHand']!,
      'ms',
      3,
    ),
    row('the same with all of them side by side', times['wide']!, times['wideByHand']!, 'ms', 3),
    row(
      'an edit of one value in it, its text of 15 MB made anew, against a frame',
      times['edit']!,
      FRAME,
      'ms',
      1,
    ),
    row(
      'edits of a thousand values in it, found and made, against its JSON.parse',
      several['many']!,
      several['parse']!,
      'ms',
      3,
    ),
  ];
}
