import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { parseJsonc } from '../../json/strict-json.js';
import { checkSheet, readSheet } from '../read-sheet.js';
import { same } from '../same.js';
import type { Sheet, SheetNode } from '../sheet.js';
import { type SheetChange, sheetEdit } from './sheet-edit.js';
import { applyEdits, EditedText, type TextEdit, undoEdits } from '../../json/text-edit.js';

const TEXT = `// c0: the quay in the evening
{
  "sheet": 1, // c1
  "materials": {
    "paint": { "baseColorFactor": [0.7, 0.05, 0.03, 1], "roughnessFactor": 0.4 }, // c2
    // c3
    "rope": {}
  },
  "nodes": [
    // c4: all that stands on the ground
    {
      "name": "quay", /* c5 */
      "translation": [0, 0.1, 0],
      "children": [
        { "name": "crate", "mesh": { "shape": "box", "width": 0.6, "material": "paint" } }, // c6
        { "name": "lamp", "translation": [1, 2, /* c7 */ 3], "light": { "type": "spot", "intensity": 40, "shadow": { "bias": 2 } } }
        // c8
      ]
    },
    { "name": "buoy", "degrees": [0, 45, 10], "visible": false }, // c9

    { "name": "camera", "translation": [0, 2, 8.0], "camera": { "type": "perspective", "yfov": 0.8, "znear": 0.1 } },
  ],
  /* c10 */ "camera": "camera",
  "finish": [{ "type": "depth-of-field", "focus": "quay/lamp" }],
  "look": { "exposure": -1 } // c11
}
// c12
`;

const edited = (changes: readonly SheetChange[], text = TEXT): string =>
  applyEdits(text, sheetEdit(text, changes));
/** Lines that are other than before, and what they are. */
function lines(changes: readonly SheetChange[], text = TEXT): string[] {
  const [before, after] = [text.split('\n'), edited(changes, text).split('\n')];
  let [head, tail] = [0, 0];
  while (before[head] === after[head] && head < before.length) head++;
  while (tail < Math.min(before.length, after.length) - head && before.at(-1 - tail) === after.at(-1 - tail))
    tail++;
  return [`${before.length - head - tail} lines become`, ...after.slice(head, after.length - tail)];
}
const set = (node: string, member: string | (string | number)[], value?: unknown): SheetChange => ({
  type: 'set',
  node,
  member,
  value,
});

describe('edits', () => {
  test('the edit of one value changes one number', () => {
    expect(sheetEdit(TEXT, [set('quay/lamp', 'translation', [1, 2.5, 3])])).toEqual([
      { offset: TEXT.indexOf('2, /* c7'), length: 1, content: '2.5' },
    ]);
    expect(lines([set('quay/lamp', ['light', 'shadow', 'bias'], 3)])).toEqual([
      '1 lines become',
      '        { "name": "lamp", "translation": [1, 2, /* c7 */ 3], "light": { "type": "spot", "intensity": 40, "shadow": { "bias": 3 } } }',
    ]);
    expect(
      sheetEdit(TEXT, [{ type: 'set', at: ['materials', 'paint', 'roughnessFactor'], value: 0.25 }]),
    ).toHaveLength(1);
    // 8.0 is 8: it stays as it was typed.
    expect(sheetEdit(TEXT, [set('camera', 'translation', [0, 2, 8])])).toEqual([]);
    expect(sheetEdit(TEXT, [set('camera', 'translation', [0, 2.00001, 8])])).toEqual([]);
  });

  test('numbers are written as finely as is seen', () => {
    expect(edited([set('camera', 'translation', [0.123456, 2, 8])])).toContain('[0.1235, 2, 8.0]');
    expect(edited([set('buoy', 'degrees', [0.00123, 45.126, 10])])).toContain('[0, 45.13, 10]');
    expect(edited([set('camera', ['camera', 'yfov'], 0.7654321)])).toContain('"yfov": 0.7654,');
    expect(
      edited([
        { type: 'set', at: ['materials', 'paint', 'baseColorFactor'], value: [0.12345, 0.05, 0.03, 1] },
      ]),
    ).toContain('[0.123, 0.05, 0.03, 1]');
    expect(edited([set('quay/lamp', ['light', 'intensity'], 1234567)])).toContain('"intensity": 1234600,');
    const far = sheetEdit(TEXT, [set('camera', 'translation', [1234.56789, 2, 8])], { size: 5000 });
    expect(far[0]!.content).toBe('1234.57');
    expect(
      sheetEdit(TEXT, [set('camera', 'translation', [0.123456, 2, 8])], { exact: true })[0]!.content,
    ).toBe('0.123456');
    // Turns go on in the words that they were given in.
    expect(edited([set('buoy', 'rotation', [0, 0, 0, 1])])).not.toContain('degrees');
    expect(edited([set('buoy', 'rotation', [0, Math.SQRT1_2, 0, Math.SQRT1_2])])).toContain(
      '"degrees": [0, 90, 0]',
    );
  });

  test('what is back at its default goes, with its comma and its line, and not with its comment', () => {
    expect(edited([set('buoy', 'visible', true)])).toContain(
      '{ "name": "buoy", "degrees": [0, 45, 10] }, // c9',
    );
    expect(lines([set('quay', 'translation', [0, 0, 0])])).toEqual(['1 lines become']);
    expect(lines([{ type: 'set', at: ['look', 'exposure'], value: 0 }])).toEqual([
      '2 lines become',
      '  "finish": [{ "type": "depth-of-field", "focus": "quay/lamp" }]',
      '  // c11',
    ]);
    expect(edited([set('buoy', 'name')])).toContain('{ "degrees": [0, 45, 10], "visible": false }');
    expect(lines([{ type: 'set', at: ['materials', 'rope'] }])).toEqual([
      '3 lines become',
      '    "paint": { "baseColorFactor": [0.7, 0.05, 0.03, 1], "roughnessFactor": 0.4 } // c2',
      '    // c3',
    ]);
  });

  test('members come where they belong, and what is on the way is made', () => {
    expect(lines([set('quay', 'visible', false)])).toEqual(['0 lines become', '      "visible": false,']);
    expect(edited([set('buoy', 'translation', [1, 0, 0])])).toContain(
      '{ "name": "buoy", "translation": [1, 0, 0], "degrees": [0, 45, 10]',
    );
    expect(lines([{ type: 'set', at: ['fog', 'density'], value: 0.1 }])).toEqual([
      '0 lines become',
      '  "fog": { "density": 0.1 },',
    ]);
    const within: SheetChange = {
      type: 'set',
      node: 'buoy',
      within: 'lamps/lamp 3',
      member: ['light', 'intensity'],
      value: 40,
    };
    const adjusted = edited([within]);
    expect(adjusted).toContain(
      '"visible": false, "adjust": { "lamps/lamp 3": { "light": { "intensity": 40 } } } }, // c9',
    );
    // What was adjusted to what is usual elsewhere is said, and the last one goes with all that holds it.
    expect(edited([{ ...within, value: 1 }], adjusted)).toContain('"intensity": 1 } } }');
    const { value: _value, ...gone } = within;
    expect(edited([gone], adjusted)).toBe(TEXT);
  });

  test('nodes are added, renamed, moved, copied, grouped and taken away', () => {
    const lamp: SheetNode = {
      name: 'lantern',
      translation: [0, 1.23456, 0],
      light: { type: 'point', intensity: 5 },
    };
    expect(lines([{ type: 'add', parent: 'quay', node: lamp }])).toEqual([
      '1 lines become',
      '        { "name": "lamp", "translation": [1, 2, /* c7 */ 3], "light": { "type": "spot", "intensity": 40, "shadow": { "bias": 2 } } },',
      '        { "name": "lantern", "translation": [0, 1.2346, 0], "light": { "type": "point", "intensity": 5 } }',
    ]);
    expect(lines([{ type: 'add', parent: 'buoy', node: { name: 'top' } }]).join('\n')).toContain(
      '"visible": false, "children": [\n      { "name": "top" }\n    ] }, // c9',
    );
    expect(lines([{ type: 'add', node: { name: 'gull' }, index: 0 }])).toEqual([
      '0 lines become',
      '    { "name": "gull" },',
    ]);
    const renamed = edited([{ type: 'rename', node: 'quay', name: 'pier' }]);
    expect(renamed).toContain('"name": "pier", /* c5 */');
    expect(renamed).toContain('"focus": "pier/lamp"');
    expect(edited([{ type: 'rename', node: 'camera', name: 'eye' }])).toContain('/* c10 */ "camera": "eye"');
    expect(lines([{ type: 'remove', node: 'buoy' }])).toEqual(['1 lines become', '    // c9']);
    const moved = edited([{ type: 'move', node: 'quay/lamp', parent: 'buoy' }]);
    expect(moved).toContain('"focus": "buoy/lamp"');
    expect(moved).toContain('[1, 2, /* c7 */ 3]');
    const last = edited([{ type: 'move', node: 'quay', index: 2 }]);
    expect(last.indexOf('"quay"')).toBeGreaterThan(last.indexOf('"buoy"'));
    expect(lines([{ type: 'duplicate', node: 'buoy', name: 'buoy 2' }])).toContain(
      '    { "name": "buoy 2", "degrees": [0, 45, 10], "visible": false },',
    );
    const grouped = edited([{ type: 'group', nodes: ['buoy', 'quay'], name: 'harbour' }]);
    expect(parse(grouped).nodes!.map(({ name }) => name)).toEqual(['harbour', 'camera']);
    expect(grouped).toContain('"focus": "harbour/quay/lamp"');
    expect(checkSheet(grouped)).toEqual([]);
    expect(() => sheetEdit(TEXT, [{ type: 'rename', node: 'quay/lapm', name: 'x' }])).toThrow(
      /no node "quay\/lapm"[^]*"lamp"/,
    );
    expect(() => sheetEdit(TEXT, [{ type: 'add', node: { name: 'buoy' } }])).toThrow('stands there already');
    expect(() => sheetEdit(TEXT, [{ type: 'move', node: 'quay', parent: 'quay/crate' }])).toThrow(
      'cannot hang below itself',
    );
  });

  test('matrices, tabs, line ends of Windows, and sheets without nodes', () => {
    const matrix = TEXT.replace(
      '"degrees": [0, 45, 10]',
      '"matrix": [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 1, 2, 3, 1]',
    );
    expect(edited([set('buoy', 'translation', [5, 2, 3])], matrix)).toContain(
      '{ "name": "buoy", "translation": [5, 2, 3], "scale": [2, 2, 2], "visible": false }',
    );
    const windows = TEXT.replaceAll('\n', '\r\n').replaceAll('  ', '\t');
    const made = edited(
      [{ type: 'add', parent: 'quay', node: { name: 'x' } }, set('quay', 'visible', false)],
      windows,
    );
    expect(made).toContain('\r\n\t\t\t"visible": false,\r\n');
    expect(made).toContain(',\r\n\t\t\t\t{ "name": "x" }\r\n');
    expect(/[^\r]\n/.test(made)).toBe(false);
    expect(edited([{ type: 'add', node: { name: 'a' } }], '{ "sheet": 1 }')).toBe(
      '{ "sheet": 1, "nodes": [\n  { "name": "a" }\n] }',
    );
    expect(edited([{ type: 'add', node: { name: 'a' } }], '{\n  "sheet": 1,\n  "nodes": []\n}')).toBe(
      '{\n  "sheet": 1,\n  "nodes": [{ "name": "a" }]\n}',
    );
  });
});

const parse = (text: string): Sheet => parseJsonc(text, 'test', 'test') as Sheet;
const commentsIn = (text: string): string[] => [...text.matchAll(/c\d+\b/g)].map(([one]) => one).sort();

/** All nodes with their paths. */
function nodesOf(
  nodes: readonly SheetNode[],
  above = '',
): { node: SheetNode; path: string; siblings: SheetNode[] }[] {
  return nodes.flatMap((node) => {
    const path = above + (node.name ?? '');
    return [{ node, path, siblings: nodes as SheetNode[] }, ...nodesOf(node.children ?? [], `${path}/`)];
  });
}

/** The same change, made to what the text holds: a second method. */
function changed(sheet: Sheet, change: SheetChange): void {
  const all = nodesOf(sheet.nodes ?? []);
  const find = (path: string | undefined): (typeof all)[number] => all.find((one) => one.path === path)!;
  const childrenOf = (path: string | undefined): SheetNode[] =>
    path === undefined ? (sheet.nodes ??= []) : (find(path).node.children ??= []);
  const drop = (path: string): SheetNode => {
    const { node, siblings } = find(path);
    siblings.splice(siblings.indexOf(node), 1);
    for (const one of all) if (one.node.children?.length === 0) delete one.node.children;
    return node;
  };
  switch (change.type) {
    case 'set': {
      if ('at' in change) throw new Error('not among them');
      const member = change.member as string;
      const node = find(change.node).node as Record<string, unknown>;
      const defaults: Record<string, unknown> = {
        visible: true,
        translation: [0, 0, 0],
        scale: [1, 1, 1],
        degrees: [0, 0, 0],
      };
      if (change.value === undefined || same(change.value, defaults[member])) delete node[member];
      else node[member] = change.value;
      return;
    }
    case 'add':
      return void childrenOf(change.parent).splice(change.index ?? Infinity, 0, change.node);
    case 'remove':
      return void drop(change.node);
    case 'rename':
      return void (find(change.node).node.name = change.name);
    case 'move': {
      const node = drop(change.node);
      return void childrenOf(change.parent).splice(change.index ?? Infinity, 0, node);
    }
    case 'duplicate': {
      const { node, siblings } = find(change.node);
      return void siblings.splice(siblings.indexOf(node) + 1, 0, {
        ...(JSON.parse(JSON.stringify(node)) as SheetNode),
        name: change.name,
      });
    }
    case 'group': {
      const { siblings } = find(change.nodes[0]);
      const children = siblings.filter(({ name }) =>
        change.nodes.some((path) => path.split('/').at(-1) === name),
      );
      const at = siblings.indexOf(children[0]!);
      siblings.splice(at, 1, { name: change.name, children });
      for (const one of children.slice(1)) siblings.splice(siblings.indexOf(one), 1);
    }
  }
}

/** What stands for a change: numbers, until it is known which nodes there are. */
type Seed = [kind: number, a: number, b: number, c: number];

/** The change that numbers stand for in a sheet, the same for the same numbers. */
function changeOf(sheet: Sheet, [kind, a, b, c]: Seed, number: number): SheetChange | undefined {
  const all = nodesOf(sheet.nodes ?? []);
  const one = all[a % all.length];
  const other = all[b % all.length];
  const name = `new ${number}`;
  const value = [(c % 9) - 4, (b % 5) / 2, 0];
  if (!one || !other) return { type: 'add', node: { name } };
  switch (kind % 9) {
    case 0:
      return set(one.path, 'translation', value);
    case 1:
      return one.node.matrix ? undefined : set(one.path, 'degrees', value);
    case 2:
      return set(one.path, 'visible', c % 2 === 0);
    case 3:
      return set(one.path, 'extras', c % 3 === 0 ? undefined : { note: c, list: ['a', { b }] });
    case 4:
      return {
        type: 'add',
        node: { name, scale: [1, 2, 3] },
        ...(c % 2 ? { parent: one.path } : {}),
        ...(c % 3 ? { index: 0 } : {}),
      };
    case 5:
      return { type: 'rename', node: one.path, name };
    case 6:
      return `${other.path}/`.startsWith(`${one.path}/`) ||
        other.node.children?.some(({ name: own }) => own === one.node.name)
        ? undefined
        : { type: 'move', node: one.path, parent: other.path, ...(c % 2 ? { index: 0 } : {}) };
    case 7:
      return { type: 'duplicate', node: one.path, name };
    default:
      return {
        type: 'group',
        nodes: [...new Set([one.path, ...(one.siblings.includes(other.node) ? [other.path] : [])])],
        name,
      };
  }
}

const seeds = fc.array(fc.tuple(fc.nat(99), fc.nat(99), fc.nat(99), fc.nat(99)), {
  minLength: 1,
  maxLength: 14,
});
const STYLES = [
  TEXT,
  TEXT.replaceAll('\n', '\r\n'),
  TEXT.replaceAll('  ', '\t'),
  JSON.stringify(parse(TEXT)),
];

test('any changes: the text holds what they say, comments survive, and undoing gives it back byte for byte', () => {
  holds(
    fc.property(fc.constantFrom(...STYLES), seeds, (start, given) => {
      let text = start;
      const model = parse(text);
      const undo: TextEdit[][] = [];
      for (const [i, seed] of given.entries()) {
        const change = changeOf(parse(text), seed as Seed, i);
        if (!change) continue;
        const edits = sheetEdit(text, [change]);
        undo.push(undoEdits(text, edits));
        text = applyEdits(text, edits);
        changed(model, change);
        // What names nodes goes along with them.
        const { camera: _a, finish: _b, ...held } = parse(text);
        const { camera: _c, finish: _d, ...wanted } = model;
        expect(held).toEqual(wanted);
        expect(new Set(commentsIn(text))).toEqual(new Set(commentsIn(start)));
        expect(checkSheet(text)).toEqual([]);
        expect(text).not.toMatch(/\n[ \t]*\r?\n[ \t]*\r?\n/);
      }
      for (const edits of undo.reverse()) text = applyEdits(text, edits);
      expect(text).toBe(start);
    }),
    { numRuns: 150, seed: 5 },
  );
});

test('several changes at once are the same as one after the other', () => {
  holds(
    fc.property(seeds, (given) => {
      const changes: SheetChange[] = [];
      let text = TEXT;
      for (const [i, seed] of given.entries()) {
        const change = changeOf(parse(text), seed as Seed, i);
        if (!change) continue;
        changes.push(change);
        text = applyEdits(text, sheetEdit(text, [change]));
      }
      const edits = sheetEdit(TEXT, changes);
      expect(applyEdits(TEXT, edits)).toBe(text);
      edits
        .slice(1)
        .forEach((edit, i) =>
          expect(edit.offset).toBeGreaterThanOrEqual(edits[i]!.offset + edits[i]!.length),
        );
    }),
    { numRuns: 200, seed: 6 },
  );
});

/** A tree of 40 nodes, as programs write it, with comments where nodes stand alone on their lines. */
const WIDE = JSON.stringify(
  {
    sheet: 1,
    nodes: Array.from({ length: 10 }, (_, i) => ({
      name: `stack ${i}`,
      children: Array.from({ length: 3 }, (_, k) => ({ name: `crate ${k}`, translation: [i, k, 0] })),
    })),
  },
  null,
  2,
).replaceAll(/"name": "stack [37]",/g, '$& // kept');

test('runs of changes of one kind are the same at once and one after the other, wrong ones too', () => {
  const kinds = fc.constantFrom<SheetChange['type']>('set', 'remove', 'add', 'move');
  const run = fc.tuple(
    kinds,
    fc.array(fc.tuple(fc.nat(99), fc.nat(9)), { minLength: 1, maxLength: 12 }),
    fc.boolean(),
  );
  const told = (act: () => string): string => {
    try {
      return act();
    } catch (error) {
      return (error as Error).message;
    }
  };
  const lines = WIDE.split('\n').join('\r\n');
  const compact = WIDE.replaceAll(
    /\{\s+("name": "crate \d"),\s+("translation": \[)\s+(\d),\s+(\d),\s+0\s+\]\s+\}/g,
    '{ $1, $2$3, $4, 0] }',
  );
  let together = 0;
  holds(
    fc.property(
      fc.constantFrom(...STYLES, WIDE, lines, compact, compact.replaceAll(/\}(?=\n\s+\])/g, '},')),
      fc.array(run, { minLength: 1, maxLength: 4 }),
      (start, runs) => {
        const paths = nodesOf(parse(start).nodes ?? []).map(({ path }) => path);
        const changes = runs.flatMap(([type, picks, isBelow]) =>
          picks.map(([a, b], i): SheetChange => {
            const node = paths[a % paths.length]!;
            if (type === 'remove') return { type, node };
            if (type === 'set')
              return set(node, b % 2 ? 'translation' : 'visible', b % 2 ? [b, a, 0] : false);
            const parent = isBelow ? node : paths[runs.length % paths.length]!;
            if (type === 'move') return { type, node, parent: paths[(isBelow ? b : 0) % paths.length]! };
            // Some have names that are taken, or come below what has just come.
            const name = b === 0 ? 'crate 1' : `new ${i}`;
            return { type: 'add', node: { name }, parent: b === 1 ? `${parent}/new ${i - 1}` : parent };
          }),
        );
        const once = told(() => edited(changes, start));
        expect(once).toBe(told(() => changes.reduce((text, change) => edited([change], text), start)));
        if (once.startsWith('{') || once.startsWith('//')) together++;
      },
    ),
    { numRuns: 400, seed: 8 },
  );
  // Not all of them are refused.
  expect(together).toBeGreaterThan(60);
});

test('a thousand nodes are changed, taken away and put in, in one go', () => {
  const nodes = Array.from({ length: 3000 }, (_, i) => ({ name: `crate ${i}`, translation: [i, 0, 0] }));
  const text = JSON.stringify({ sheet: 1, nodes }, null, 1);
  const some = nodes.filter((_, i) => i % 3 === 1).map(({ name }) => name);
  const after = edited(
    [
      ...some.map((name) => set(name, 'translation', [0, 1, 0])),
      ...some.slice(0, 500).map((node): SheetChange => ({ type: 'remove', node })),
      ...some.map((_, i): SheetChange => ({ type: 'add', node: { name: `new ${i}` } })),
    ],
    text,
  );
  const names = parse(after).nodes!.map(({ name }) => name);
  const gone = new Set(some.slice(0, 500));
  expect(names).toEqual([
    ...nodes.map(({ name }) => name).filter((name) => !gone.has(name)),
    ...some.map((_, i) => `new ${i}`),
  ]);
  expect(parse(after).nodes!.filter(({ translation }) => translation?.[1] === 1).length).toBe(500);
  const piled = edited(
    [
      { type: 'add', node: { name: 'pile', children: [{ name: 'floor' }] } },
      ...some.slice(500).map((node): SheetChange => ({ type: 'move', node, parent: 'pile' })),
    ],
    after,
  );
  const pile = parse(piled).nodes!.at(-1)!;
  expect(pile.children!.map(({ name }) => name)).toEqual(['floor', ...some.slice(500)]);
  expect(pile.children!.at(-1)!.translation).toEqual([0, 1, 0]);
  expect(parse(piled).nodes!.length).toBe(names.length + 1 - 500);
});

test('removed nodes leave the rest as it was', () => {
  holds(
    fc.property(fc.array(fc.nat(99), { minLength: 1, maxLength: 5 }), (numbers) => {
      let text = TEXT;
      const model = parse(text);
      for (const number of numbers) {
        const all = nodesOf(parse(text).nodes ?? []);
        if (all.length === 0) break;
        const change: SheetChange = { type: 'remove', node: all[number % all.length]!.path };
        text = edited([change], text);
        changed(model, change);
        expect(parse(text)).toEqual(model);
        expect(commentsIn(text)).toEqual(
          expect.arrayContaining(['c0', 'c1', 'c2', 'c3', 'c4', 'c9', 'c10', 'c11', 'c12']),
        );
      }
    }),
    { numRuns: 100, seed: 7 },
  );
});

test('edits of edits are edits of the first text', () => {
  holds(
    fc.property(
      fc.string({ maxLength: 40 }),
      fc.array(fc.tuple(fc.nat(), fc.nat(6), fc.string({ maxLength: 4 })), { maxLength: 6 }),
      (first, given) => {
        const whole = new EditedText(first);
        let text = first;
        for (const [at, size, content] of given) {
          const offset = at % (text.length + 1);
          const edit = { offset, length: Math.min(size, text.length - offset), content };
          whole.edit([edit]);
          text = applyEdits(text, [edit]);
        }
        expect(applyEdits(first, whole.edits)).toBe(text);
        expect(applyEdits(text, undoEdits(first, whole.edits))).toBe(first);
      },
    ),
  );
});

test('a comment that stays behind what is removed does not swallow what follows', () => {
  const text = `{
  "sheet": 1,
  "nodes": [
    { "name": "quay", "children": [ // with all on it
      { "name": "crate" }
    ] }
  ]
}
`;
  const after = applyEdits(text, sheetEdit(text, [{ type: 'remove', node: 'quay/crate' }]));
  expect(after).toContain('// with all on it\n');
  expect(readSheet(after, 'stage.sheet.json').nodes).toEqual([{ name: 'quay' }]);
});
