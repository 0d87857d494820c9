import { affineInvert, type SceneNode } from '@umber-lens/core/engine';
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

/** A place that values are computed for: members of `Fragment` there, and of `frame`. */
export interface ProbedPlace {
  p: Readonly<Record<string, unknown>>;
  frame: Readonly<Record<string, unknown>>;
}

/** The same for pictures of nodes. @param time seconds */
export const probedOnBall = (probe: Probe, time = 0): ProbedPlace => ({
  p: placeOnBall(probe),
  frame: { time, cameraPosition: [0, 0, 3], forward: [0, 0, -1], size: [1, 1], exposure: 1 },
});

/** What is at a place of the running picture. */
export interface SceneHit {
  node: SceneNode;
  /** In the world. */
  point: ArrayLike<number>;
  normal: ArrayLike<number>;
  texcoord?: readonly number[] | undefined;
}

/**
 * What a surface of the scene is where it was hit.
 *
 * @param at pixels of the picture, and its size
 * @param time seconds
 */
export function probedInScene(
  { node, normal, point, texcoord = [0, 0] }: SceneHit,
  camera: SceneNode,
  at: { x: number; y: number; width: number; height: number },
  time = 0,
): ProbedPlace {
  const eye = camera.readWorld(new Float64Array(12));
  const [toCameraSpace, toObject] = [new Float64Array(12), new Float64Array(12)];
  affineInvert(toCameraSpace, 0, eye, 0);
  const world = node.readWorld(new Float64Array(12));
  affineInvert(toObject, 0, world, 0);
  const cameraPosition = [eye[3]!, eye[7]!, eye[11]!]; // twelve numbers
  const isParallel = camera.camera?.type === 'orthographic';
  const back = unit([eye[2]!, eye[6]!, eye[10]!]); // as above
  const position = Array.from(point);
  return {
    p: {
      position,
      normal: Array.from(normal),
      toCamera: isParallel ? back : unit(cameraPosition.map((part, k) => part - position[k]!)), // three
      viewPosition: through(toCameraSpace, position, 1),
      viewNormal: unit(through(toCameraSpace, Array.from(normal), 0)),
      objectPosition: through(toObject, position, 1),
      // Normals go by the transposed of the way there.
      objectNormal: unit(
        [0, 1, 2].map((k) => [0, 1, 2].reduce((sum, i) => sum + world[i * 4 + k]! * normal[i]!, 0)),
      ),
      ...{ texcoord0: [...texcoord], texcoord1: [...texcoord], color: [1, 1, 1, 1], isFront: true },
      ...{ screenPosition: [at.x, at.y], screenSize: [at.width, at.height] },
    },
    frame: {
      ...{ time, cameraPosition, forward: back.map((part) => -part), isParallel: isParallel ? 1 : 0 },
      ...{ size: [at.width, at.height], exposure: 1 },
    },
  };
}

const unit = (way: readonly number[]): number[] => {
  const length = Math.hypot(...way) || 1;
  return way.map((part) => part / length);
};

const through = (m: Float64Array, [x = 0, y = 0, z = 0]: readonly number[], w: 0 | 1): number[] =>
  [0, 4, 8].map((row) => m[row]! * x + m[row + 1]! * y + m[row + 2]! * z + m[row + 3]! * w); // twelve numbers

/** What each node is there; nothing where it cannot be computed without a GPU: of textures, and of changes from pixel to pixel. */
export function valuesAt(
  preview: { compiled: CompiledGraph } | undefined,
  { frame, p }: ProbedPlace,
  settings: Readonly<Record<string, unknown>>,
  file: string,
): ReadonlyMap<string, unknown> {
  if (!preview) return new Map();
  const s = { baseColor: [1, 1, 1], alpha: 1, normal: p['normal'], roughness: 1, metallic: 1, occlusion: 1 };
  try {
    return evaluateGraph(
      preview.compiled,
      'outputColor',
      { p, s, instance: { shownNode: 0 } },
      { file, settings: numbersOf(settings), resources: { frame } },
    ).nodes;
  } catch {
    // It asks for what is on the GPU alone.
    return new Map();
  }
}

/** What nodes are at the probe, in words, and how far the GPU agrees. */
export interface ProbedValues {
  words: ReadonlyMap<string, string>;
  /** Nodes that are the same there. */
  same: string[];
  /** Those that are not. */
  other: string[];
  /** Those that the GPU alone can compute. */
  alone: string[];
}

/** How many of the GPU's numbers count, by what a node gives. */
const PARTS: Readonly<Record<string, number>> = {
  f32: 1,
  i32: 1,
  u32: 1,
  bool: 1,
  vec2f: 2,
  vec3f: 3,
  vec4f: 3,
};
/** By how much two may differ: surfaces are made of triangles, and some GPUs draw half floats. */
const TOLERANCE = 0.02;

/** @param gpu what it computed, if it was asked; three numbers a node */
export function withGpu(
  values: ReadonlyMap<string, unknown>,
  gpu: ReadonlyMap<string, readonly number[]> | undefined,
  types: ReadonlyMap<string, string>,
): ProbedValues {
  const words = new Map([...values].map(([name, value]) => [name, inWords(value)] as const));
  const found: ProbedValues = { words, same: [], other: [], alone: [] };
  for (const [name, numbers] of gpu ?? []) {
    const parts = PARTS[types.get(name) ?? ''];
    if (parts === undefined) continue;
    const drawn = numbers.slice(0, parts);
    const told = inWords(parts === 1 ? drawn[0] : drawn);
    const value = values.get(name);
    if (value === undefined) {
      found.alone.push(name);
      words.set(name, `${told} on the GPU`);
    } else if ([value].flat().every((part, k) => k >= parts || isNear(Number(part), drawn[k]!)))
      found.same.push(name); // k < parts
    else {
      found.other.push(name);
      words.set(name, `${inWords(value)}, but ${told} on the GPU`);
    }
  }
  return found;
}

const isNear = (a: number, b: number): boolean =>
  Number.isFinite(a) && Number.isFinite(b)
    ? Math.abs(a - b) <= TOLERANCE * Math.max(1, Math.abs(a))
    : Number.isFinite(a) === Number.isFinite(b);

/** Whether what a graph computes depends on the pixel, or on how the camera is turned: a look at one place alone is another one. */
export const asksForPicture = (wgsl: string): boolean =>
  /\b(screenPosition|screenSize|viewPosition|viewNormal|depth|frame\.(size|forward|right|up|view\w*))\b|\b(dpdx|dpdy|fwidth)\w*\(/.test(
    wgsl,
  );

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
