import type { Texture } from 'umber-lens';

type Color = readonly [red: number, green: number, blue: number];
/** What a place of a flag shows, both 0..1 from the upper left; undefined: nothing, it is cut out. */
type Design = (x: number, y: number) => Color | undefined;

const WHITE: Color = [238, 230, 214];
const RED: Color = [190, 52, 40];
const BLUE: Color = [34, 70, 122];
const YELLOW: Color = [232, 176, 62];
const BLACK: Color = [34, 31, 30];
const GREEN: Color = [46, 112, 92];

const within = (value: number, middle: number, half: number): boolean => Math.abs(value - middle) < half;
const round = (x: number, y: number, radius: number): boolean =>
  Math.hypot((x - 0.5) * 1.5, y - 0.5) < radius;
const swallowtail = (x: number, y: number): boolean => x > 1 - 0.28 * (1 - Math.abs(y - 0.5) * 2);

/** Fifteen flags of the harbour's own. */
export const DESIGNS: readonly Design[] = [
  (x) => (x < 0.5 ? BLUE : WHITE),
  (x, y) => (round(x, y, 0.26) ? RED : WHITE),
  (x, y) => (swallowtail(x, y) ? undefined : x < 0.45 ? YELLOW : BLUE),
  (x, y) => (within(x * 1.5, 0.75, 0.12) || within(y, 0.5, 0.12) ? WHITE : RED),
  (_, y) => [RED, WHITE, BLUE][Math.min(2, Math.floor(y * 3))],
  (x, y) => (Math.abs(x - 0.5) + Math.abs(y - 0.5) < 0.42 ? YELLOW : GREEN),
  (x, y) => (Math.floor(x * 4) % 2 === Math.floor(y * 4) % 2 ? BLACK : YELLOW),
  (x, y) => (swallowtail(x, y) ? undefined : Math.floor(y * 5) % 2 === 0 ? RED : WHITE),
  (x, y) => (within(x, 0.5, 0.32) && within(y, 0.5, 0.28) ? (round(x, y, 0.17) ? BLUE : WHITE) : BLUE),
  (x, y) => (x * 0.62 + y * 0.78 < 0.68 ? YELLOW : RED),
  (x, y) => (Math.abs((x - 0.5) * 1.5) + 0.1 < Math.abs(y - 0.5) * 1.4 + 0.14 ? GREEN : WHITE),
  (x, y) =>
    x > 1 - Math.abs(y - 0.5) * 0.0001 ? undefined : Math.abs(y - 0.5) * 1.2 < 0.5 - x * 0.5 ? BLUE : YELLOW,
  (x, y) => (round(x, y, 0.4) && !round(x, y, 0.24) ? WHITE : GREEN),
  (x, y) => (within((x - y * 0.67) % 0.3, 0.15, 0.075) ? WHITE : BLUE),
  (x, y) => (x < 0.34 || y < 0.34 ? RED : WHITE),
];

const [WIDTH, HEIGHT] = [132, 88];

/** A flag as a picture: woven, with a hem, its edges smooth. */
export function flagTexture(design: Design, seed: number): Texture {
  const data = new Uint8Array(WIDTH * HEIGHT * 4);
  let state = seed * 7919 + 17;
  const chance = (): number => (state = (state * 1103515245 + 12345) & 0x7fffffff) / 0x7fffffff;
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const sum = [0, 0, 0, 0];
      // Sixteen places of each pixel, so that edges are smooth.
      for (let k = 0; k < 16; k++) {
        const [u, v] = [(x + ((k & 3) + 0.5) / 4) / WIDTH, (y + ((k >> 2) + 0.5) / 4) / HEIGHT];
        const color = design(u, v);
        if (!color) continue;
        for (let c = 0; c < 3; c++) sum[c]! += color[c]!; // three
        sum[3]!++;
      }
      const count = sum[3]!;
      const weave = 1 + 0.05 * (((x >> 1) + (y >> 1)) % 2) - 0.06 * chance();
      const hem = x < 4 || y < 2 || y >= HEIGHT - 2 ? 0.86 : 1;
      for (let c = 0; c < 3; c++)
        data[(y * WIDTH + x) * 4 + c] = count === 0 ? 0 : Math.min(255, (sum[c]! / count) * weave * hem);
      data[(y * WIDTH + x) * 4 + 3] = (count / 16) * 255;
    }
  return { image: { name: `flag ${seed}`, content: { kind: 'pixels', width: WIDTH, height: HEIGHT, data } } };
}

/** A column of colors from top to bottom, smooth. */
export function gradient(stops: readonly Color[], height = 256): Texture {
  const data = new Uint8Array(height * 4);
  for (let y = 0; y < height; y++) {
    const at = (y / (height - 1)) * (stops.length - 1);
    const low = Math.min(stops.length - 2, Math.floor(at));
    for (let c = 0; c < 3; c++)
      data[y * 4 + c] = stops[low]![c]! + (stops[low + 1]![c]! - stops[low]![c]!) * (at - low); // both are there
    data[y * 4 + 3] = 255;
  }
  return { image: { content: { kind: 'pixels', width: 1, height, data } } };
}

/** A disc that fades to nothing towards its rim. */
export function softDisc(color: Color, size = 96): Texture {
  const data = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const away = Math.hypot(x + 0.5 - size / 2, y + 0.5 - size / 2) / (size / 2);
      data.set([...color, 255 * Math.max(0, 1 - away) ** 2], (y * size + x) * 4);
    }
  return { image: { content: { kind: 'pixels', width: size, height: size, data } } };
}
