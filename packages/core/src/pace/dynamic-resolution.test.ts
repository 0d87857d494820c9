import { DynamicResolution } from './dynamic-resolution.js';

/** Runs frames whose time follows their pixels. @returns the scale after each, and how often it changed */
function run(
  resolution: DynamicResolution,
  full: number,
  seconds: number,
  vsync = 1000 / 60,
): { scales: number[]; changes: number } {
  const scales: number[] = [];
  let [now, changes] = [0, 0];
  let state = 17;
  const noise = (): number => (state = (state * 48271) % 2147483647) / 2147483647;
  while (now < seconds * 1000) {
    // A screen shows pictures at its own pace: times are multiples of it.
    const cost = full * resolution.scale ** 2 * (0.95 + 0.1 * noise()) * (noise() > 0.97 ? 2 : 1);
    const time = Math.max(1, Math.ceil(cost / vsync)) * vsync;
    now += time;
    if (resolution.frame(time, now)) changes++;
    scales.push(resolution.scale);
  }
  return { scales, changes };
}

test('fast frames keep every pixel', () => {
  expect(run(new DynamicResolution(), 9, 20)).toMatchObject({ changes: 0 });
});

test('slow frames get fewer pixels within a second, and settle without flickering', () => {
  const resolution = new DynamicResolution();
  const { scales, changes } = run(resolution, 50, 120);
  // 50 ms at full size: at 0.52 of it 13.5 ms, at 0.61 18.6 ms.
  expect(scales.at(-1)).toBe(0.52);
  expect(scales.filter((scale) => scale === 0.52).length / scales.length).toBeGreaterThan(0.9);
  // It tries the next size again after 1.5, 3, 6, 12, 24 and 48 seconds: twice a change each.
  expect(changes).toBeLessThan(16);
});

test('when there is room again it goes back up, one step at a time', () => {
  const resolution = new DynamicResolution();
  run(resolution, 80, 5);
  expect(resolution.scale).toBeLessThan(0.5);
  const { scales } = run(resolution, 8, 300);
  expect(scales.at(-1)).toBe(1);
});

test('there is a least size, and pauses of the page say nothing', () => {
  const resolution = new DynamicResolution({ minScale: 0.5 });
  expect(run(resolution, 400, 30).scales.at(-1)).toBe(0.52);
  const paused = new DynamicResolution();
  for (let i = 0; i < 100; i++) expect(paused.frame(i % 2 === 0 ? 50_000 : 0, i * 50_000)).toBe(false);
});

test('one hitch is let pass; work that piles up until a frame waits for it is not', () => {
  const hitch = new DynamicResolution();
  for (let i = 0; i < 120; i++) hitch.frame(i === 40 ? 900 : 16, i * 16);
  expect(hitch.scale).toBe(1);
  const piled = new DynamicResolution();
  for (let i = 0; i < 120; i++) piled.frame(i % 10 === 9 ? 2000 : 16, i * 200);
  expect(piled.scale).toBeLessThan(0.4);
});
