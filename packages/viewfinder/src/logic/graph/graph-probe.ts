import { affineInvert, affinePoint, type SceneNode } from '@umber-lens/core/engine';
import { comparesPixels, type CompiledGraph, evaluateGraph } from '@umber-lens/core/graphs';
import { dot, minus, times, unit, type Vec } from '../handles/vectors.js';

/** A place on a ball: what its pictures show there. */
export interface Probe {
  /** Across and down, -1 to 1 from the middle. */
  x: number;
  y: number;
}

/** Columns of a node's place in the world: where nothing is moved. */
const UNMOVED = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
  [0, 0, 0],
];

/** So near its edge a ball is still seen, as a share of its radius: it is drawn of flat sides. */
const EDGE = 0.995;

/** Beside the ball there is nothing: the nearest place of it. */
function ontoBall({ x, y }: Probe): Probe {
  const share = Math.min(1, EDGE / Math.hypot(x, y));
  return { x: x * share, y: y * share };
}

/** How far before the middle of pictures of nodes their camera stands, metres. */
export const CAMERA_DISTANCE = 5;

/** What a surface is at a place of a ball of radius 1, seen straight on. */
export function placeOnBall(probe: Probe): Record<string, unknown> {
  const { x, y } = ontoBall(probe);
  const z = Math.sqrt(1 - x * x - y * y);
  const normal = [x, -y, z];
  const texcoord0 = [Math.atan2(x, z) / (2 * Math.PI) + 0.5, Math.acos(-y) / Math.PI];
  return {
    ...{ position: normal, normal, toCamera: [0, 0, 1], viewNormal: normal },
    viewPosition: [x, -y, z - CAMERA_DISTANCE],
    ...{ objectPosition: normal, objectNormal: normal, texcoord0, texcoord1: texcoord0, color: [1, 1, 1, 1] },
    isFront: true,
    objectToWorld: UNMOVED,
  };
}

/** A place that values are computed for: members of `Fragment` there, and of `frame`. */
export interface ProbedPlace {
  p: Readonly<Record<string, unknown>>;
  frame: Readonly<Record<string, unknown>>;
  /** Whence nodes count places; left out: from the world's origin. */
  middle?: readonly [number, number, number];
  /** `p` at the two by two pixels that a GPU compares, and which of them it is; left out: what compares them is not known. */
  quad?: { places: readonly Readonly<Record<string, unknown>>[]; lane: number };
}

/** Under what nodes are looked at. */
export interface ProbeConditions {
  /** From where light comes on pictures of nodes, for those that ask for one. */
  light: readonly [number, number, number];
  /** Seconds. */
  time: number;
}

/** Where a camera stands that sees a place of a picture in its middle. */
export function cameraOverBall(probe: Probe): [number, number, number] {
  const { x, y } = ontoBall(probe);
  return [x, -y, CAMERA_DISTANCE];
}

/** The same for pictures of nodes. */
export const probedOnBall = (probe: Probe, { time }: ProbeConditions): ProbedPlace => ({
  p: placeOnBall(probe),
  frame: { time, cameraPosition: cameraOverBall(probe), exposure: 1, isParallel: 1 },
});

/** A pixel of a picture, counted from the upper left, and the size of that. */
export interface PixelAt {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The two by two pixels of which a GPU compares one with the others, row by row; and which of them it is. */
export function quadOf({ x, y }: Pick<PixelAt, 'x' | 'y'>): {
  pixels: [x: number, y: number][];
  lane: number;
} {
  const [left, top] = [x - (x % 2), y - (y % 2)];
  return {
    pixels: [
      [left, top],
      [left + 1, top],
      [left, top + 1],
      [left + 1, top + 1],
    ],
    lane: (x % 2) + 2 * (y % 2),
  };
}

/** The pixel of a picture that a place of it lies in. */
export const pixelOf = (probe: Probe, side: number): PixelAt => {
  const along = (share: number): number =>
    Math.min(side - 1, Math.max(0, Math.floor(((share + 1) / 2) * side)));
  return { x: along(probe.x), y: along(probe.y), width: side, height: side };
};

/** The same for pictures of nodes that ask for what is around a pixel: in the middle of one. @param side of a picture, pixels */
export function probedOnBallPixel(probe: Probe, side: number, { time }: ProbeConditions): ProbedPlace {
  const { lane, pixels } = quadOf(pixelOf(probe, side));
  const quad = pixels.map(([x, y]) => ({
    ...placeOnBall({ x: ((x + 0.5) / side) * 2 - 1, y: ((y + 0.5) / side) * 2 - 1 }),
    ...{ screenPosition: [x + 0.5, y + 0.5], screenSize: [side, side] },
  }));
  return {
    p: quad[lane]!, // one of four
    quad: { places: quad, lane },
    frame: {
      ...{ time, cameraPosition: [0, 0, CAMERA_DISTANCE], forward: [0, 0, -1], isParallel: 1 },
      ...{ size: [side, side], exposure: 1 },
    },
  };
}

/** What is at a place of the running picture. */
export interface SceneHit {
  node: SceneNode;
  /** In the world. */
  point: ArrayLike<number>;
  normal: ArrayLike<number>;
  texcoord?: readonly number[] | undefined;
  /** Where the picture of a node stands that it is on: places count from there. */
  middle?: readonly [number, number, number];
}

/**
 * What a surface of the scene is where it was hit.
 *
 * @param at pixels of the picture, and its size
 */
export function probedInScene(
  { middle, node, normal, point, texcoord = [0, 0] }: SceneHit,
  camera: SceneNode,
  at: { x: number; y: number; width: number; height: number },
  { time }: ProbeConditions,
): ProbedPlace {
  const eye = camera.readWorld(new Float64Array(12));
  const [toCameraSpace, toObject] = [new Float64Array(12), new Float64Array(12)];
  affineInvert(toCameraSpace, 0, eye, 0);
  const world = node.readWorld(new Float64Array(12));
  affineInvert(toObject, 0, world, 0);
  const cameraPosition: Vec = [eye[3]!, eye[7]!, eye[11]!]; // twelve numbers, here and below
  const isParallel = camera.camera?.type === 'orthographic';
  const back = unit([eye[2]!, eye[6]!, eye[10]!]);
  const [position, facing] = [vecOf(point), vecOf(normal)];
  const origin = placeThrough(toCameraSpace, [0, 0, 0]);
  return {
    p: {
      position,
      normal: facing,
      toCamera: isParallel ? back : unit(minus(cameraPosition, position)),
      viewPosition: placeThrough(toCameraSpace, position),
      viewNormal: unit(minus(placeThrough(toCameraSpace, facing), origin)),
      objectPosition: placeThrough(toObject, position),
      // Normals go by the transposed of the way there.
      objectNormal: unit(
        [0, 1, 2].map((k) => dot(facing, [world[k]!, world[4 + k]!, world[8 + k]!])) as never,
      ),
      ...{ texcoord0: [...texcoord], texcoord1: [...texcoord], color: [1, 1, 1, 1], isFront: true },
      ...{ screenPosition: [at.x, at.y], screenSize: [at.width, at.height] },
      objectToWorld: [0, 1, 2, 3].map((k) => [world[k]!, world[4 + k]!, world[8 + k]!]),
    },
    ...(middle ? { middle } : {}),
    frame: {
      ...{ time, cameraPosition, forward: times(back, -1), isParallel: isParallel ? 1 : 0 },
      ...{ size: [at.width, at.height], exposure: 1 },
    },
  };
}

/**
 * The same in the middle of a pixel, for what asks for what is around it.
 *
 * @param hitAt what is there in the middle of a pixel
 * @returns undefined where the thing is not at all of the pixels that a GPU compares: beyond its edge there is nothing to compute
 */
export function probedAtPixel(
  hitAt: (x: number, y: number) => SceneHit | undefined,
  camera: SceneNode,
  pixel: PixelAt,
  conditions: ProbeConditions,
): ProbedPlace | undefined {
  const { height, width } = pixel;
  const { lane, pixels } = quadOf(pixel);
  const quad = pixels.map(([x, y]) => {
    const hit = hitAt(x + 0.5, y + 0.5);
    return hit && probedInScene(hit, camera, { x: x + 0.5, y: y + 0.5, width, height }, conditions);
  });
  const own = quad[lane];
  if (!own || quad.some((one) => one === undefined)) return undefined;
  return { ...own, quad: { places: quad.map((one) => one!.p), lane } };
}

const vecOf = (three: ArrayLike<number>): Vec => [three[0]!, three[1]!, three[2]!];

/** A place, in another space. */
function placeThrough(m: Float64Array, [x, y, z]: Vec): Vec {
  const out: [number, number, number] = [0, 0, 0];
  affinePoint(out, m, 0, x, y, z);
  return out;
}

/** What each node is there; nothing where it cannot be computed without a GPU: of textures, and of changes from pixel to pixel. */
export function valuesAt(
  preview: { compiled: CompiledGraph } | undefined,
  { frame, middle = [0, 0, 0], p, quad }: ProbedPlace,
  settings: Readonly<Record<string, unknown>>,
  { file, sources = {} }: { file: string; sources?: Readonly<Record<string, string>> },
  { light }: ProbeConditions,
): ReadonlyMap<string, unknown> {
  // Alone, a pixel has nothing to be compared with.
  if (!preview || (!quad && comparesPixels(preview.compiled.wgsl, sources))) return new Map();
  const given = (place: Readonly<Record<string, unknown>>): Record<string, unknown> => ({
    p: place,
    s: { baseColor: [1, 1, 1], alpha: 1, normal: place['normal'], roughness: 1, metallic: 1, occlusion: 1 },
    instance: { shownNode: 0, previewMiddle: middle },
  });
  try {
    return evaluateGraph(preview.compiled, 'outputColor', given(p), {
      ...{
        file,
        sources,
        settings: { ...numbersOf(settings), previewLight: [...light] },
        resources: { frame },
      },
      ...(quad ? { quad: { args: quad.places.map(given), lane: quad.lane } } : {}),
    }).nodes;
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
      // Where all are the GPU's it is said once.
      words.set(name, values.size > 0 ? `${told} on the GPU` : told);
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
export const asksForPicture = (wgsl: string, sources: Readonly<Record<string, string>>): boolean =>
  comparesPixels(wgsl, sources) ||
  /\b(screenPosition|screenSize|viewPosition|viewNormal|depth|frame\.(size|forward|right|up|view\w*))\b/.test(
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
