import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { figuresTable, record, type Recorded, withFigures } from '../../bench/record.js';
import { temporaryFolder } from '../folders.js';

const folder = temporaryFolder('records');
const row = (what: string, ratio: number | undefined): Parameters<typeof record>[0][number] => ({
  ...{ what, ratio, limit: undefined },
  ours: '',
  against: '',
});

test('figures are kept with commit and machine, and what got slower than on the same machine is told', () => {
  const file = join(folder, 'records.json');
  expect(record([row('a', 1), row('b', 2), row('c', undefined)], file, 'mine')).toEqual([]);
  // Of another machine: it says nothing about the first.
  expect(record([row('a', 9)], file, 'other')).toEqual([]);
  expect(record([row('a', 1.1), row('b', 3)], file, 'mine')).toEqual([
    expect.stringMatching(/^b: 2\.00 at [0-9a-f]+( and changes)?, 3\.00 now$/),
  ]);
  // A run of some figures alone leaves those of before to compare with.
  expect(record([row('a', 1.3)], file, 'mine')).toEqual([expect.stringMatching(/^a: 1\.10 at /)]);
  expect(record([row('b', 4)], file, 'mine')).toEqual([expect.stringMatching(/^b: 3\.00 at /)]);
  const records = JSON.parse(readFileSync(file, 'utf8')) as Recorded[];
  expect(records).toHaveLength(5);
  expect(records[1]).toMatchObject({ machine: 'mine', figures: { a: 1, b: 2 } });
});

test('the table has the last figure of each kind with its machine, and marks what is missed', () => {
  const figures = (date: string, commit: string, machine: string, values: [string, number][]): Recorded => ({
    ...{ commit, machine, date, figures: Object.fromEntries(values), limits: { a: 2, b: 2 } },
  });
  const table = figuresTable([
    // A few figures of another machine leave the rest of the table as it is.
    figures('2026-01-02', 'four', 'other (0f)', [['d', 7]]),
    figures('2026-01-01', 'one', 'other (0f)', [['a', 9]]),
    figures('2026-01-01', 'two', 'mine (1e)', [
      ['a', 1],
      ['b', 2.5],
      ['c', 4],
    ]),
    figures('2026-01-01', 'three', 'mine (1e)', [['a', 1.23456]]),
  ]);
  expect(table.split('\n').slice(2)).toEqual([
    '- mine (1e)',
    '- other (0f)',
    '',
    '| what | ratio | limit | commit | machine |',
    '| --- | ---: | ---: | --- | --- |',
    '| b | 2.5 | **2** | two | 1e |',
    '| c | 4 |  | two | 1e |',
    '| a | 1.23 | 2 | three | 1e |',
    '| d | 7 |  | four | 0f |',
  ]);
});

test('docs/measurements.md has the table of the records', () => {
  const page = readFileSync('docs/measurements.md', 'utf8');
  expect(withFigures(page)).toBe(page);
});
