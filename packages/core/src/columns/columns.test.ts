import { fetchKernels, NodeColumns } from './columns.js';
import { ALIVE, DIRTY, IN_VIEW, KEY_HIDDEN, KEY_MIRRORED, MATRIX, NONE, PLACED, VISIBLE } from './flags.js';
import { plainKernels } from './plain-kernels.js';
import { SpanLog } from './span-log.js';
import { updateColumns } from './update.js';

/** A small generator (Park and Miller, 1988), so that a failure can be had again. */
function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

/** A forest of rows in runs and singles, under the root and under one another, with 0 to 2 items each. */
function forest(rows: number, seed: number): NodeColumns {
  const next = random(seed);
  const columns = new NodeColumns(16);
  columns.append();
  columns.flags[0] = ALIVE | VISIBLE | 4;
  columns.world.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]);
  columns.stretch[0] = 1;
  columns.reserveMatrices();
  let parent = 0;
  for (let row = 1; row < rows; row++) {
    columns.append();
    if (next() < 0.1) parent = next() < 0.5 ? 0 : Math.floor(next() * row);
    columns.link(row, parent);
    for (let k = 0; k < 3; k++) {
      columns.translation[row * 3 + k] = next() * 20 - 10;
      columns.scale[row * 3 + k] = (0.5 + next()) * (next() < 0.1 ? -1 : 1);
    }
    const q = [0, 1, 2, 3].map(() => next() - 0.5);
    const n = Math.hypot(...q);
    columns.rotation.set(
      q.map((v) => v / n),
      row * 4,
    );
    columns.local.set(
      Array.from({ length: 12 }, () => next() * 2 - 1),
      row * 12,
    );
    const kind = next();
    if (kind < 0.15) columns.flags[row]! |= MATRIX;
    else if (kind < 0.25 || (row > rows / 2 && row < rows * 0.6)) {
      columns.flags[row]! |= PLACED;
      columns.world.set(columns.local.subarray(row * 12, row * 12 + 12), row * 12);
    }
    if (next() < 0.03) columns.flags[row]! &= ~VISIBLE;
    const items = row % 64 < 40 ? 1 : Math.floor(next() * 3);
    for (let i = 0; i < items; i++) {
      const item = columns.itemCount++;
      columns.reserveItems(item + 1);
      columns.itemRow[item] = row;
      columns.itemNext[item] = columns.firstItem[row]!;
      columns.firstItem[row] = item;
      columns.localSphere.set([next(), next(), next(), next() < 0.1 ? 0 : next()], item * 4);
    }
  }
  for (let row = 1; row < rows; row++) {
    if (columns.firstChild[row] !== NONE || next() > 0.03) continue;
    columns.unlink(row);
    columns.flags[row] = 0;
  }
  return columns;
}

const VIEW = {
  planes: new Float32Array([1, 0, 0, 6, -1, 0, 0, 6, 0, 1, 0, 6, 0, -1, 0, 6, 0, 0, -1, 4, 0, 0, 1, 30]),
  forward: new Float32Array([0, 0, -1]),
  position: new Float32Array([0, 0, 5]),
};

beforeAll(fetchKernels);

/** Two columns alike: one updated by JavaScript, the other by WebAssembly. */
function both(rows: number, seed: number): [NodeColumns, NodeColumns] {
  const pair: [NodeColumns, NodeColumns] = [forest(rows, seed), forest(rows, seed)];
  expect(pair[1].kernels).not.toBe(plainKernels);
  return pair;
}

function expectClose(a: ArrayLike<number>, b: ArrayLike<number>, count: number): void {
  let worst = 0;
  for (let i = 0; i < count; i++) {
    const [x, y] = [a[i]!, b[i]!];
    if (x === y || (Number.isNaN(x) && Number.isNaN(y))) continue;
    worst = Math.max(worst, Math.abs(x - y) / Math.max(1, Math.abs(x), Math.abs(y)));
  }
  expect(worst).toBeLessThan(2e-5);
}

test.each([1, 2, 3])(
  'WebAssembly and JavaScript update the same rows to the same places (seed %i)',
  (seed) => {
    const [plain, wasm] = both(4099, seed);
    expect(plainKernels.updateRange(plain, 0, plain.count, 1)).toBe(
      wasm.kernels.updateRange(wasm, 0, wasm.count, 1),
    );
    const compare = (): void => {
      expect([wasm.movedFrom, wasm.movedTo]).toEqual([plain.movedFrom, plain.movedTo]);
      expect(wasm.flags.slice(0, plain.count)).toEqual(plain.flags.slice(0, plain.count));
      expect(wasm.movedAt.slice(0, plain.count)).toEqual(plain.movedAt.slice(0, plain.count));
      expectClose(plain.world, wasm.world, plain.count * 12);
      expectClose(plain.stretch, wasm.stretch, plain.count);
      expectClose(plain.worldSphere, wasm.worldSphere, plain.itemCount * 4);
    };
    compare();
    // Again with a few rows dirty, of which the rows below move along.
    const next = random(seed + 10);
    for (let i = 0; i < 40; i++) {
      const row = 1 + Math.floor(next() * (plain.count - 1));
      for (const columns of [plain, wasm]) {
        columns.translation[row * 3] = i;
        columns.flags[row]! |= DIRTY;
      }
    }
    expect(plainKernels.updateRange(plain, 1, plain.count, 2)).toBe(
      wasm.kernels.updateRange(wasm, 1, wasm.count, 2),
    );
    compare();
  },
);

test.each([4, 5])(
  'WebAssembly and JavaScript give items the same keys, and list those that changed (seed %i)',
  (seed) => {
    const [plain, wasm] = both(3001, seed);
    plainKernels.updateRange(plain, 0, plain.count, 1);
    wasm.worldSphere.set(plain.worldSphere.subarray(0, plain.itemCount * 4));
    for (const cull of [true, false]) {
      const before = plain.viewKeys.slice(0, plain.itemCount);
      const changed = plainKernels.viewKeys(plain, VIEW, 0, plain.itemCount, cull, 0xffffffff);
      const also = wasm.kernels.viewKeys(wasm, VIEW, 0, wasm.itemCount, cull, 0xfffc0000);
      const a = plain.viewKeys.slice(0, plain.itemCount);
      const b = wasm.viewKeys.slice(0, plain.itemCount);
      const coarse = (keys: Uint32Array): number[] => Array.from(keys, (key) => key >>> 29);
      expect(coarse(b)).toEqual(coarse(a));
      expect(
        Math.max(...Array.from(a, (key, i) => Math.abs((key & 0x1fffffff) - (b[i]! & 0x1fffffff)))),
      ).toBeLessThan(64);
      expect([...plain.changedItems.slice(0, changed)]).toEqual(
        [...a.keys()].filter((item) => a[item] !== before[item]),
      );
      expect([...wasm.changedItems.slice(0, also)].filter((item) => item < plain.itemCount)).toEqual(
        [...b.keys()].filter((item) => (b[item]! ^ before[item]!) >>> 18 !== 0),
      );
    }
    expect(plain.viewKeys.some((key) => key === KEY_HIDDEN)).toBe(true);
    expect(plain.viewKeys.some((key) => (key & IN_VIEW) !== 0 && (key & KEY_MIRRORED) !== 0)).toBe(true);
  },
);

test('a few dirty rows are gone through one by one, and come to what a pass over all gives', () => {
  for (const seed of [6, 7, 8]) {
    const [one, all] = both(5000, seed);
    const log = new SpanLog();
    updateColumns(one, 1, log);
    all.kernels.updateRange(all, 0, all.count, 1);
    const next = random(seed);
    // In any order, a parent after its child and a removed one among them.
    const rows = Array.from({ length: 300 }, () => 1 + Math.floor(next() * (one.count - 1)));
    for (const row of rows) {
      if (one.flags[row] === 0) continue;
      for (const columns of [one, all]) {
        columns.translation[row * 3 + 1] = row;
        columns.markDirty(row);
      }
    }
    const place = log.end;
    const moved = updateColumns(one, 2, log);
    expect(all.kernels.updateRange(all, 0, all.count, 2)).toBe(moved);
    expect([...one.world.subarray(0, one.count * 12)]).toEqual([...all.world.subarray(0, one.count * 12)]);
    expect(log.countSince(place)).toBe(moved);
    const forgotten: number[] = [];
    for (let at = place; at < log.end; at++) {
      for (let row = log.firstAt(at); row < log.firstAt(at) + log.countAt(at); row++)
        if (one.movedAt[row] !== 2) forgotten.push(row);
    }
    expect(forgotten).toEqual([]);
  }
});

test('columns keep what they hold when they grow and when they move into a WebAssembly memory', () => {
  const columns = new NodeColumns(4);
  for (let i = 0; i < 10_000; i++) {
    const row = columns.append();
    columns.translation.set([i, 2 * i, 3 * i], row * 3);
    if (i === 100) columns.reserveMatrices();
    if (i > 100) columns.local[row * 12 + 5] = i;
    if (i % 3 === 0) {
      const item = columns.itemCount++;
      columns.reserveItems(item + 1);
      columns.itemRow[item] = row;
    }
  }
  const held = Array.from({ length: 10_000 }, (_, i) => [
    ...columns.translation.subarray(i * 3, i * 3 + 3),
    ...columns.scale.subarray(i * 3, i * 3 + 3),
    columns.local[i * 12 + 5],
    columns.parent[i],
    i % 3 === 0 ? columns.itemRow[i / 3] : i,
  ]);
  expect(held).toEqual(
    Array.from({ length: 10_000 }, (_, i) => [i, 2 * i, 3 * i, 1, 1, 1, i > 100 ? i : 0, NONE, i]),
  );
});

test('a log remembers spans for readers at their own pace, and says when it does not', () => {
  const log = new SpanLog();
  log.add(5, 1);
  const place = log.end;
  log.add(7, 3);
  log.add(2, 1);
  expect([log.countSince(0), log.countSince(place)]).toEqual([5, 4]);
  expect([log.firstAt(place), log.countAt(place)]).toEqual([7, 3]);
  for (let i = 0; i < 4096; i++) log.add(i, 1);
  expect([log.holds(0), log.holds(log.end - 4096), log.holds(log.end)]).toEqual([false, true, true]);
  log.forget();
  expect(log.holds(log.end - 1)).toBe(true);
  expect(log.holds(4098)).toBe(false);
});
