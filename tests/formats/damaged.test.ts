import { readObj } from '@umber-lens/core/engine';
import { chance, mutated, readMutated, seedlings } from './mutate.js';

test('damaged models of every format end well: read, or refused with a place', async () => {
  const all = await seedlings();
  const endings = new Set<string>();
  for (let i = 0; i < 240; i++) {
    const one = all[i % all.length]!;
    const ending = await readMutated(one, mutated(one.bytes, chance(7000 + i)));
    expect([i, ending.startsWith('FAULT') ? ending : '']).toEqual([i, '']);
    endings.add(ending);
  }
  expect(endings.size).toBeGreaterThan(10);
});

test.each<[string, string]>([
  ['a face of 200,000 corners', `${'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\n'}f ${'1 2 3 4 '.repeat(50_000)}`],
  [
    'a fan of 100,000 faces around one place',
    `v 0 0 0\n${Array.from({ length: 100_000 }, (_, i) => `v ${Math.cos(i)} ${Math.sin(i)} 0`).join('\n')}\n${Array.from({ length: 99_999 }, (_, i) => `f 1 ${i + 2} ${i + 3}`).join('\n')}`,
  ],
  [
    '20,000 groups',
    `v 0 0 0\n${Array.from({ length: 20_000 }, (_, i) => `g group ${i}\nf 1 1 1`).join('\n')}`,
  ],
  [
    '100,000 words that are none',
    Array.from({ length: 100_000 }, (_, i) => `word${i} 1`).join('\n') + '\nv 0 0 0',
  ],
])('%s takes no longer than it is long', async (_, text) => {
  const bytes = new TextEncoder().encode(text);
  await readObj(bytes, { file: 'hard.obj' });
});
