import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { TripleNumbers } from './grown.js';
import { Lines } from './lines.js';
import { numberIn, Words } from './words.js';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const read = (text: string): number => numberIn(bytesOf(text), 0, text.length);

test('numbers are those that the engine reads, to the bit', () => {
  holds(
    fc.property(
      fc.double({ noNaN: true, noDefaultInfinity: true }),
      fc.integer({ min: 0, max: 20 }),
      (value, places) => {
        for (const text of [
          String(value),
          value.toExponential(),
          Math.abs(value) < 1e20 ? value.toFixed(places) : '7',
        ])
          expect(read(text)).toBe(Number(text));
      },
    ),
  );
  expect([
    read('+.5'),
    read('5.'),
    read('-0'),
    read('1e400'),
    read('-inf'),
    read('1152921504606846976'),
  ]).toEqual([0.5, 5, -0, Infinity, -Infinity, 2 ** 60]);
  for (const text of ['', '-', '.', 'e5', '1e', '1.2.3', '0x10', 'nan', '1f']) expect(read(text)).toBeNaN();
});

test('lines are the same however the bytes come, and joined lines keep the count', () => {
  const text = 'one\r\ntwo \\\r\n three\rfour\n\n# five \\\nsix\nseven\\\n\nlast';
  const linesOf = (size: number): string[] => {
    const found: string[] = [];
    const lines = new Lines((bytes, from, to, line) => {
      const words = new Words();
      words.begin(bytes, from, to);
      const own: string[] = [];
      while (words.next()) own.push(words.text);
      if (own.length > 0) found.push(`${line}: ${own.join(' ')}`);
    }, true);
    const bytes = bytesOf(text);
    for (let at = 0; at < bytes.length; at += size) lines.push(bytes.subarray(at, at + size));
    lines.end();
    return found;
  };
  const whole = linesOf(1000);
  expect(whole).toEqual(['1: one', '2: two three', '4: four', '6: # five six', '8: seven', '10: last']);
  for (let size = 1; size < 20; size++) expect(linesOf(size)).toEqual(whole);
});

test('what is alike has one number, among thousands', () => {
  const count = (n: number): number[] => Array.from({ length: n }, (_, i) => i);
  const numbers = new TripleNumbers();
  for (let round = 0; round < 2; round++)
    expect(count(20_000).filter((i) => numbers.numberOf(i % 100, (i / 100) | 0, 0xffffffff) !== i)).toEqual(
      [],
    );
  expect(numbers.count).toBe(20_000);
  expect([0, 1, 2].map((k) => numbers.part(12_345, k as 0))).toEqual([45, 123, 0xffffffff]);
});
