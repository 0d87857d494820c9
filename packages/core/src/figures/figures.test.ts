import { readBudget, holdAgainst } from './budget.js';
import { spreadOf, verdictOn } from './verdict.js';

/** A generator by Park and Miller, and normal numbers out of it (Box and Muller). */
function normals(seed: number): () => number {
  let state = seed;
  const next = (): number => (state = (state * 48271) % 2147483647) / 2147483647;
  return () => Math.sqrt(-2 * Math.log(next())) * Math.cos(2 * Math.PI * next());
}

/** Times of frames: a drift that both ways share, noise of 6%, and now and then something that holds one up. */
function times(seed: number, factor: number, pairs: number): [number[], number[]] {
  const noise = normals(seed + 1);
  const one = (i: number): number =>
    10 * (1 + 0.2 * Math.sin(i / 9)) * Math.exp(0.06 * noise()) * (Math.abs(noise()) > 2.2 ? 2.5 : 1);
  return [
    Array.from({ length: pairs }, (_, i) => one(i)),
    Array.from({ length: pairs }, (_, i) => one(i) * factor),
  ];
}

test('of equal ways it cannot tell, ways a tenth slower and faster are found', () => {
  const counted = { equal: 0, slower: 0, faster: 0 };
  for (let seed = 1; seed <= 300; seed++) {
    if (verdictOn(...times(seed, 1, 60)).kind === 'cannot tell') counted.equal++;
    if (verdictOn(...times(seed, 1.1, 60)).kind === 'slower') counted.slower++;
    if (verdictOn(...times(seed, 1 / 1.1, 60)).kind === 'faster') counted.faster++;
  }
  // 1% may be wrong: of 300, 3; more than 9 would be met once in a thousand.
  expect(counted.equal).toBeGreaterThanOrEqual(291);
  expect(counted.slower).toBeGreaterThanOrEqual(285);
  expect(counted.faster).toBeGreaterThanOrEqual(285);
});

test('the ratio and its bounds are those of the values', () => {
  const [a] = times(3, 1, 40);
  const exact = verdictOn(
    a,
    a.map((t) => t * 1.25),
  );
  expect(exact).toMatchObject({ kind: 'slower', pairs: 40 });
  for (const value of [exact.ratio, exact.low, exact.high]) expect(value).toBeCloseTo(1.25, 9);
  let inside = 0;
  for (let seed = 1; seed <= 200; seed++) {
    const { low, high } = verdictOn(...times(seed, 1.3, 40), { confidence: 0.9 });
    if (low <= 1.3 && high >= 1.3) inside++;
  }
  expect(inside / 200).toBeGreaterThan(0.84);
  expect(inside / 200).toBeLessThan(0.97);
});

test('where it cannot tell it says how many more it would take', () => {
  const few = verdictOn(...times(8, 1.03, 12), { find: 0.03 });
  expect(few.kind).toBe('cannot tell');
  expect(few.more).toBeGreaterThan(20);
  const enough = times(8, 1.03, 12 + few.more! * 2);
  expect(verdictOn(...enough).kind).toBe('slower');
  // All of n on one side come by chance in 2 of 2^n: 8 are the fewest that are sure by 99%.
  const ones = (n: number): number[] => Array.from({ length: n }, (_, i) => 10 + i);
  const twice = (n: number): number[] => ones(n).map((t) => t * 2);
  expect(verdictOn(ones(7), twice(7))).toMatchObject({ kind: 'cannot tell', more: 1 });
  expect(verdictOn(ones(8), twice(8))).toMatchObject({ kind: 'slower', low: 2, high: 2 });
  expect(verdictOn([], []).kind).toBe('cannot tell');
  expect(verdictOn([1, 2], [2, 4]).kind).toBe('cannot tell');
  // Differences that do not matter are none.
  expect(
    verdictOn(...(times(3, 1, 40).map((list) => list.map((_, i) => 10 + i)) as [number[], number[]])).kind,
  ).toBe('cannot tell');
  const [a] = times(3, 1, 40);
  expect(
    verdictOn(
      a,
      a.map((t) => t * 1.004),
    ).kind,
  ).toBe('cannot tell');
});

test('the spread of values', () => {
  expect(spreadOf([5, 1, 4, 2, 3])).toEqual({ median: 3, low: 2, high: 4 });
  expect(spreadOf([2])).toEqual({ median: 2, low: 2, high: 2 });
});

test('figures are held against a budget, the most exceeded first', () => {
  const lines = holdAgainst(
    { draws: 10, triangles: 900_000, gpuMb: 64 },
    { gpuMb: 64, draws: 40, triangles: 500_000, scriptMs: 2 },
  );
  expect(lines).toEqual([
    { limit: 'triangles', max: 500_000, value: 900_000, isOver: true },
    { limit: 'gpuMb', max: 64, value: 64, isOver: false },
    { limit: 'draws', max: 40, value: 10, isOver: false },
    { limit: 'scriptMs', max: 2, value: undefined, isOver: false },
  ]);
});

test('budgets are read from what people write, and faults are told', () => {
  expect(readBudget({ draws: 200, triangles: '500k', gpuMb: ' 1_024 ', fileMb: '1.5M' })).toEqual({
    draws: 200,
    triangles: 500_000,
    gpuMb: 1024,
    fileMb: 1_500_000,
  });
  expect(() => readBudget({ triangels: 1 }, 'b.json')).toThrow(
    expect.objectContaining({
      code: 'budget/limit',
      hint: 'Did you mean "triangles"?',
      where: { file: 'b.json', pointer: '/triangels' },
    }),
  );
  for (const wrong of ['many', '', -3, 0, NaN, null, '5kk'])
    expect(() => readBudget({ draws: wrong })).toThrow(expect.objectContaining({ code: 'budget/number' }));
  expect(() => readBudget([1])).toThrow(expect.objectContaining({ code: 'budget/form' }));
});
