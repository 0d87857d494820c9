import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { applyEdits, undoEdits, type TextEdit } from '@umber-lens/core/engine';
import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import ts from 'typescript';
import { callsIn, type NotedCall } from './calls.js';
import { type CodeChange, codeEdit, staticValue } from './code-edit.js';
import { noteSources } from './note-sources.js';

const SOURCE = `import { Scene, sphere } from 'umber-lens';

const HEIGHT = 2;
const paint = {
  baseColorFactor: [0.8, 0.1, 0.1, 1], // as the tug's
  roughnessFactor: 0.5,
};
const scene = new Scene({ clearColor: [0.1, 0.2, 0.3, 1] });

// The buoy off the quay.
const buoy = scene.createNode({
  name: 'buoy',
  translation: [0, HEIGHT, -3], // above the swell
  scale: [1, 1, /* as wide */ 1],
  mesh: { geometry: sphere({ radius: 0.5 }), material: paint },
});
const lamp = scene.createNode({ name: 'lamp', parent: buoy, light: { type: 'point', intensity: 5 } });
lamp.setLight({ type: 'spot', intensity: 40 });
for (let i = 0; i < 3; i++) scene.createNode({ name: \`post \${i}\`, translation: [i, 0, 0] });
[1, 2].map((x) => scene.createNode({ translation: [x, 0, 0] }));
const more = { visible: true };
scene.createNode({ ...more, name: 'gull' });
scene.createNode(more);
`;

/** The call of a kind with a word behind it. */
function callOf(text: string, call: NotedCall['call'], word: string): NotedCall {
  const source = ts.createSourceFile('a.ts', text, ts.ScriptTarget.Latest, true);
  return callsIn(source).find(
    ({ node, noted }) => noted.call === call && node.getText(source).includes(word),
  )!.noted;
}

const edit = (
  word: string,
  changes: CodeChange[],
  call: NotedCall['call'] = 'createNode',
  text = SOURCE,
): ReturnType<typeof codeEdit> => codeEdit(text, callOf(text, call, word), changes, { file: 'main.ts' });
/** Lines that are new. */
const lines = (edits: readonly TextEdit[], text = SOURCE): string[] => {
  const before = new Set(text.split('\n'));
  return applyEdits(text, edits)
    .split('\n')
    .filter((line) => !before.has(line));
};

describe('edits of sources', () => {
  test('members of the literal alone change, entry by entry', () => {
    const { edits, refused } = edit("'buoy'", [
      { member: 'translation', value: [1.23456, 2, -3] },
      { member: ['mesh', 'material', 'roughnessFactor'], value: 0.25 },
      { member: 'visible', value: false },
    ]);
    expect(lines(edits)).toEqual([
      '  roughnessFactor: 0.25,',
      '  translation: [1.2346, HEIGHT, -3], // above the swell',
      '  visible: false,',
    ]);
    // The second entry is computed, and what was written says the same but for it.
    expect(refused).toMatchObject([]);
    expect(lines(edit("'lamp'", [{ member: ['light', 'intensity'], value: 7.5 }]).edits)).toEqual([
      "const lamp = scene.createNode({ name: 'lamp', parent: buoy, light: { type: 'point', intensity: 7.5 } });",
    ]);
    expect(lines(edit('spot', [{ member: 'color', value: [1, 0.5, 0.25] }], 'setLight').edits)).toEqual([
      "lamp.setLight({ type: 'spot', intensity: 40, color: [1, 0.5, 0.25] });",
    ]);
    expect(
      lines(edit('clearColor', [{ member: 'clearColor', value: [0, 0.2, 0.3, 1] }], 'Scene').edits),
    ).toEqual(['const scene = new Scene({ clearColor: [0, 0.2, 0.3, 1] });']);
  });

  test('what is back at its default goes, and its comments stay', () => {
    const gone = applyEdits(SOURCE, edit("'buoy'", [{ member: 'scale', value: [1, 1, 1] }]).edits);
    expect(gone).toContain('-3], // above the swell\n  /* as wide */\n  mesh:');
    expect(
      applyEdits(SOURCE, edit("'lamp'", [{ member: ['light', 'intensity'], value: 1 }]).edits),
    ).toContain("light: { type: 'point' } }");
  });

  test('what is computed is not touched, and it is said why and where', () => {
    const reasons = (result: ReturnType<typeof codeEdit>): string[] => {
      expect(result.edits).toEqual([]);
      return result.refused.map(
        ({ code, reason, where }) => `${where.line}:${where.column} ${code} ${reason}`,
      );
    };
    expect(reasons(edit("'buoy'", [{ member: 'translation', value: [0, 5, -3] }]))).toEqual([
      '13:20 code/computed entry 2 of "translation" is computed there: HEIGHT',
    ]);
    expect(reasons(edit("'buoy'", [{ member: ['mesh', 'geometry'], value: {} }]))).toEqual([
      '15:21 code/computed "geometry" is computed there: sphere({ radius: 0.5 })',
    ]);
    expect(reasons(edit('post', [{ member: 'visible', value: false }]))[0]).toContain(
      'code/loop the call stands in a loop',
    );
    expect(reasons(edit('x, 0, 0', [{ member: 'visible', value: false }]))[0]).toContain(
      'a function that "map" calls',
    );
    expect(
      reasons(
        codeEdit(SOURCE, callOf(SOURCE, 'createNode', "'buoy'"), [{ member: 'name', value: 'x' }], {
          made: 4,
        }),
      )[0],
    ).toContain('code/several this call made 4 things');
    expect(
      reasons(
        codeEdit(SOURCE, { line: 1, column: 1, call: 'createNode' }, [{ member: 'name', value: 'x' }]),
      )[0],
    ).toContain('code/no-call there is no createNode at 1:1');
    // A constant of the file is written to; what is spread over it is not known.
    expect(lines(edit('(more)', [{ member: 'visible', value: false }]).edits)).toEqual([
      'const more = { visible: false };',
    ]);
    expect(lines(edit("'gull'", [{ member: 'visible', value: true }]).edits)).toEqual([
      "scene.createNode({ ...more, name: 'gull', visible: true });",
    ]);
  });

  test('calls are noted with their places, and lines stay where they are', () => {
    const noted = noteSources(SOURCE, 'main.ts')!;
    expect(noted.code.split('\n').slice(0, SOURCE.split('\n').length - 1)).toHaveLength(
      SOURCE.split('\n').length - 1,
    );
    expect(noted.code).toContain('"main.ts", 11, 20, "createNode")');
    expect(noted.code).toContain(
      'const scene = __umberNoteSource(new Scene({ clearColor: [0.1, 0.2, 0.3, 1] }), "main.ts", 8, 19, "Scene");',
    );
    expect(noted.code).toContain("import { noteSource as __umberNoteSource } from 'umber-lens';");
    expect(noteSources('const x = 1;', 'x.ts')).toBeUndefined();
    const { diagnostics } = ts.transpileModule(noted.code, { reportDiagnostics: true });
    expect(diagnostics).toEqual([]);
  });
});

/** Sources of the examples that make nodes. */
const EXAMPLES = fileURLToPath(new URL('../../../../examples/', import.meta.url));
const sources = readdirSync(EXAMPLES, { recursive: true, encoding: 'utf8' })
  .filter((name) => name.endsWith('.ts') && !/node_modules|dist|assets/.test(name))
  .map((name): [string, string] => [name, readFileSync(join(EXAMPLES, name), 'utf8')])
  .filter(([, text]) => text.includes('createNode('));

const VALUES: Record<string, fc.Arbitrary<unknown>> = {
  translation: fc
    .tuple(fc.integer(), fc.integer(), fc.integer())
    .map((v) => v.map((n) => (n % 100) / 10 + 0)),
  scale: fc.constantFrom([1, 1, 1], [2, 2, 2], undefined),
  visible: fc.boolean(),
  name: fc.constantFrom('a name', "the keeper's"),
  extras: fc.constantFrom({ note: 'kept', list: [1, 'two'] }, undefined),
};

test('any changes of the sources of our examples, and back byte for byte', () => {
  expect(sources.length).toBeGreaterThan(5);
  let made = 0;
  holds(
    fc.property(
      fc.constantFrom(...sources),
      fc.nat(),
      fc.array(
        fc
          .constantFrom(...Object.keys(VALUES))
          .chain((member) => VALUES[member]!.map((value) => ({ member, value }))),
        { minLength: 1, maxLength: 5 },
      ),
      ([file, text], pick, changes) => {
        const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
        const calls = callsIn(source).filter(({ noted }) => noted.call === 'createNode');
        const { noted } = calls[pick % calls.length]!;
        const { edits, refused } = codeEdit(text, noted, changes, { file });
        const after = applyEdits(text, edits);
        expect(applyEdits(after, undoEdits(text, edits))).toBe(text);
        expect(commentsIn(after)).toEqual(commentsIn(text));
        const { diagnostics } = ts.transpileModule(after, { reportDiagnostics: true });
        expect(diagnostics).toEqual([]);
        // A second method: what stands there now, member by member.
        const again = ts.createSourceFile(file, after, ts.ScriptTarget.Latest, true);
        const literal = callsIn(again).filter(({ noted: { call } }) => call === 'createNode')[
          pick % calls.length
        ]!.node.arguments?.[0];
        const last = new Map(
          changes
            .filter((change) => !refused.some((one) => one.change === change))
            .map(({ member, value }) => [member, value]),
        );
        if (!literal || !ts.isObjectLiteralExpression(literal)) return;
        for (const [member, value] of last) {
          const property = literal.properties.find((one) => one.name?.getText(again) === member);
          const isUsual = value === undefined || JSON.stringify(value) === '[1,1,1]' || value === true;
          if (!property) expect(isUsual || JSON.stringify(value) === '[0,0,0]').toBe(true);
          else if (ts.isPropertyAssignment(property)) {
            const now = staticValue(property.initializer);
            if (now !== undefined) expect(now).toEqual(value);
          }
          made++;
        }
      },
    ),
    { numRuns: 60, seed: 3 },
  );
  expect(made).toBeGreaterThan(50);
});

const commentsIn = (text: string): string[] =>
  [...text.matchAll(/\/\/ .*|\/\*[^]*?\*\//g)].map(([one]) => one.trim()).sort();
