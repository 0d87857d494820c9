import { type CompiledGraph, evaluateGraph } from '@umber-lens/core/graphs';

/** A place on a ball: what its pictures show there. */
export interface Probe {
  /** Across and down, -1 to 1 from the middle. */
  x: number;
  y: number;
}

/** What a surface is at a place of a ball of radius 1, seen straight on. */
export function placeOnBall({ x, y }: Probe): Record<string, unknown> {
  const squared = Math.min(0.999, x * x + y * y);
  const normal = [x, -y, Math.sqrt(1 - squared)];
  const texcoord0 = [Math.atan2(x, normal[2]!) / (2 * Math.PI) + 0.5, Math.acos(-y) / Math.PI]; // three
  return {
    ...{ position: normal, normal, toCamera: [0, 0, 1], viewPosition: normal, viewNormal: normal },
    ...{ objectPosition: normal, objectNormal: normal, texcoord0, texcoord1: texcoord0, color: [1, 1, 1, 1] },
    isFront: true,
  };
}

/** What each node is there, in words; nothing where it cannot be computed without a GPU: of textures, and of changes from pixel to pixel. */
export function valuesAt(
  preview: { compiled: CompiledGraph } | undefined,
  probe: Probe,
  settings: Readonly<Record<string, unknown>>,
  file: string,
): Map<string, string> {
  const found = new Map<string, string>();
  if (!preview) return found;
  const p = placeOnBall(probe);
  const s = { baseColor: [1, 1, 1], alpha: 1, normal: p['normal'], roughness: 1, metallic: 1, occlusion: 1 };
  try {
    const { nodes } = evaluateGraph(
      preview.compiled,
      'outputColor',
      { p, s, instance: { shownNode: 0 } },
      { file, settings: numbersOf(settings) },
    );
    for (const [name, value] of nodes) found.set(name, inWords(value));
  } catch {
    // It asks for what is on the GPU alone.
  }
  return found;
}

/** Settings that are numbers: textures are on the GPU alone. */
export const numbersOf = (settings: object | undefined): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(settings ?? {}).flatMap(([name, value]): [string, unknown][] =>
      typeof value === 'number' ? [[name, value]] : isNumbers(value) ? [[name, Array.from(value)]] : [],
    ),
  );

const isNumbers = (value: unknown): value is ArrayLike<number> =>
  Array.isArray(value) ? value.every((one) => typeof one === 'number') : value instanceof Float32Array;

const inWords = (value: unknown): string =>
  Array.isArray(value)
    ? value.map((one) => inWords(one)).join('  ')
    : typeof value === 'number'
      ? shortNumber(value)
      : String(value);

const shortNumber = (value: number): string =>
  Number.isFinite(value) ? String(Number(value.toFixed(3))) : 'not a number';
