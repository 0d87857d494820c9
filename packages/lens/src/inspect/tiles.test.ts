import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { tilesOf } from './tiles.js';

const sides = fc.integer({ min: 1, max: 2000 });

test('tiles lie side by side: each pixel is kept once, and drawn with a margin', () => {
  holds(
    fc.property(
      sides,
      sides,
      fc.constantFrom(64, 300, 1024),
      fc.integer({ min: 0, max: 300 }),
      (width, height, most, stdDeviation) => {
        const { tiles } = tilesOf(width, height, [{ type: 'blur', stdDeviation }], most);
        let kept = 0;
        const wrong = tiles.filter(({ drawn, x, y, ...size }) => {
          kept += size.width * size.height;
          const [left, above] = [x - drawn.x, y - drawn.y];
          const right = drawn.width - left - size.width;
          const below = drawn.height - above - size.height;
          // At the picture's edges there is none.
          const margins = [
            drawn.x > 0 ? left : 1,
            drawn.y > 0 ? above : 1,
            drawn.x + drawn.width < width ? right : 1,
            drawn.y + drawn.height < height ? below : 1,
          ];
          const isWhole = drawn.wholeWidth === width && drawn.wholeHeight === height;
          const isWithin = Math.min(left, above, right, below, drawn.x, drawn.y) >= 0;
          const fits = Math.max(drawn.width, drawn.height) <= most;
          return !(isWhole && isWithin && fits && Math.min(...margins, size.width, size.height) > 0);
        });
        expect(wrong).toEqual([]);
        expect(kept).toBe(width * height);
        const corners = new Set(tiles.map(({ x, y }) => x * 1e6 + y));
        expect(corners.size).toBe(tiles.length);
      },
    ),
    { numRuns: 60 },
  );
});

test('a picture that the GPU takes is drawn at once, up to 8K', () => {
  const count = (width: number, height: number): number => tilesOf(width, height, [], 8192).tiles.length;
  expect([count(3840, 2160), count(7680, 4320), count(8193, 16)]).toEqual([1, 1, 3]);
  expect(count(8192, 8192)).toBeGreaterThan(1);
});

test('margins are as wide as what is read around a pixel, in steps of what effects halve to', () => {
  const marginOf = (finish: Parameters<typeof tilesOf>[2]): number => {
    const [first, second] = tilesOf(20_000, 100, finish, 8192).tiles;
    expect(second!.drawn.x % 64).toBe(0);
    return first!.drawn.width - first!.width;
  };
  expect(marginOf([])).toBe(64);
  expect(marginOf([{ type: 'bloom' }])).toBe(128);
  expect(marginOf([{ type: 'bloom' }, { type: 'blur', stdDeviation: 10 }])).toBe(192);
  expect(marginOf([{ type: 'screen-space-reflections' }])).toBe(576);
});

test('a lens that bends is read as far as its formula goes', () => {
  const [width, height] = [12_000, 6000];
  const half = Math.hypot(width, height) / 2;
  for (const amount of [-0.4, -0.05, 0.05, 0.3]) {
    // As the shader has it, along the way to a corner.
    const least = amount < 0 ? 1 + amount * (height / (2 * half)) ** 2 : 1 + amount;
    const reads = Array.from({ length: 101 }, (_, i) => {
      const r = i / 100;
      return Math.abs((r * (1 + amount * r * r)) / Math.max(least, 0.1) - r) * half;
    });
    const [first] = tilesOf(width, height, [{ type: 'lens-distortion', amount }], 4096).tiles;
    const margin = first!.drawn.width - first!.width;
    expect(margin).toBeGreaterThanOrEqual(Math.min(1024, Math.max(...reads)));
    expect(margin).toBeLessThan(Math.max(...reads) + 192);
  }
});

test('where effects read farther than there is room, that is known', () => {
  const isTight = (finish: Parameters<typeof tilesOf>[2], width = 20_000): boolean =>
    tilesOf(width, 100, finish, 8192).isTight;
  expect(isTight([{ type: 'blur', stdDeviation: 300 }])).toBe(false);
  expect(isTight([{ type: 'blur', stdDeviation: 400 }])).toBe(true);
  expect(isTight([{ type: 'light-shafts', from: [0, 0, 0] }])).toBe(true);
  expect(isTight([{ type: 'light-shafts', from: [0, 0, 0] }], 8000)).toBe(false);
});
