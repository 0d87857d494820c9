import { color, colorWithAlpha } from './color.js';

// IEC 61966-2-1, by hand: below 0.04045 a twelfth, above a power.
test.each<[string | number, number[]]>([
  ['#ffffff', [1, 1, 1, 1]],
  ['#000', [0, 0, 0, 1]],
  ['#808080', [0.215861, 0.215861, 0.215861, 1]],
  ['#0a0a0a', [0.003035, 0.003035, 0.003035, 1]],
  [0xff8000, [1, 0.215861, 0, 1]],
  ['tomato', [1, 0.124772, 0.06301, 1]],
  ['rgb(255 128 0 / 50%)', [1, 0.215861, 0, 0.5]],
  ['rgba(255, 128, 0, 0.25)', [1, 0.215861, 0, 0.25]],
  ['#ff800080', [1, 0.215861, 0, 0.5]],
  ['hsl(120, 100%, 50%)', [0, 1, 0, 1]],
  ['hsl(30, 100%, 50%)', [1, 0.214041, 0, 1]],
  ['hsl(210, 50%, 40%)', [0.033105, 0.132868, 0.318547, 1]],
  ['hwb(120, 0%, 0%)', [0, 1, 0, 1]],
  ['hwb(0, 50%, 0%)', [1, 0.214041, 0.214041, 1]],
  [' White ', [1, 1, 1, 1]],
])('%s is linear', (css, expected) => {
  const found = colorWithAlpha(css);
  found.forEach((part, i) => expect(part).toBeCloseTo(expected[i]!, i === 3 ? 1 : 5));
  expect(color(css)).toEqual(found.slice(0, 3));
});

test.each(['sunny', '', '#12', 0x1000000, -1, 1.5, undefined, null])('%s is refused', (css) => {
  expect(() => color(css as never)).toThrow(expect.objectContaining({ code: 'color/unknown' }));
});
