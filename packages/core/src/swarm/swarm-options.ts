import { watchOptions } from '#watch';
import { LensError } from '../errors/lens-error.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';
import type { MaterialShader } from '../material/shader-types.js';
import { boundsCenter, boundsRadius, emptyBounds, growBounds } from '../math/bounds.js';
import type { Mesh, Primitive } from '../scene/components.js';
import { marginOf } from '../scene/margins.js';
import {
  checkLength,
  countTransforms,
  type InstanceTransforms,
  TRANSFORM_FLOATS,
} from './instance-transforms.js';
import type { CopyBox, SwarmInput } from './swarm-layout.js';

/** One way to draw an instance, for a range of sizes on the screen. */
export interface SwarmLevel extends Primitive {
  // Left out, its material is the swarm's.
  /**
   * Pixels that the sphere around an instance is high at least, for this level to be drawn; 0 for the last one. Up to a quarter
   * more, it and the next are drawn into each other, each in its share of the pixels.
   */
  minPixels?: number;
}

/** How instances that are small on the screen are thinned. */
export interface SwarmDensity {
  /** Below this many pixels of an instance's height some are left out: a share as the square of its height over these. */
  minPixels: number;
  /** Share that is always drawn. 0..1, default 0.05. */
  minShare?: number;
  /**
   * How much wider, along X and Z of the geometry, the others become: 1 makes up for all that is left out, 0 for
   * nothing. Default 0.5.
   */
  grow?: number;
}

export interface SwarmOptions extends Partial<Omit<Mesh, 'primitives'>> {
  /** Share of the instances that are drawn, 0..1; `swarm.share` may be written to afterwards. Default 1. */
  share?: number;
  /** What is drawn of each instance. This, or `levels`, or `shapes`. */
  geometry?: Geometry;
  /** Nearest first, 4 at most. */
  levels?: readonly SwarmLevel[];
  /** Several shapes, each with its levels; `shapeOf` says which instance has which. */
  shapes?: readonly (readonly SwarmLevel[])[];
  /** Number of its shape, by instance. */
  shapeOf?: ArrayLike<number>;
  material?: Material;
  /** Materials that each instance is drawn with once more, over its own, in order; a level may have others. See `Primitive.overlays`. */
  overlays?: readonly Material[];
  /** Where the instances stand. */
  transforms: InstanceTransforms;
  /** 4 an instance: linear RGBA, by which the vertices' colour is multiplied. */
  colors?: ArrayLike<number>;
  /** Values for what the material's shader takes by instance (its `InstanceSettings`), by name, flat; others have their default. */
  settings?: Readonly<Record<string, ArrayLike<number>>>;
  density?: SwarmDensity;
  /** Metres by which hooks move vertices at most, in an instance's own space. Default what the compiler found for the shader, or 0. */
  boundsMargin?: number;
  /** What the order of thinning is drawn from. Default 1. */
  seed?: number;
}

export const MOST_LEVELS = 4;
/** Steps of four floats of a shape's header. */
export const HEAD = 4;

/** What a swarm is laid out from. @throws LensError as `Swarm` does */
export function swarmInput(options: SwarmOptions): SwarmInput {
  watchOptions('a swarm', options);
  for (const level of [...(options.levels ?? []), ...(options.shapes ?? []).flat()])
    watchOptions('a level of a swarm', level);
  const { transforms, colors, seed = 1, settings = {} } = options;
  const isGiven =
    typeof (transforms as unknown) === 'object' && ('matrices' in transforms || 'translations' in transforms);
  if (!isGiven)
    throw new LensError('swarm/transforms', 'a swarm needs to know where its instances are', {
      hint: 'Give `transforms`: { translations } of 3 numbers an instance, { matrices } of 12, or what a scatter helper gives.',
    });
  const count = countTransforms(transforms);
  checkLength('colors', colors, count, [4]);
  const thin = checkedThinning(options.density);
  const shapes = shapesOf(options);
  const all = shapes.flat();
  for (const { overlays } of [options, ...all])
    if (overlays !== undefined && !(Array.isArray(overlays) && overlays.every((one) => isObject(one))))
      throw new LensError('swarm/overlays', 'the overlays of the swarm are no materials', {
        hint: 'Give a list: { geometry, material, overlays: [rim], transforms }.',
      });
  const hookReach =
    options.boundsMargin ??
    Math.max(
      ...all.flatMap((level) =>
        materialsOf(level, options).map((one) => marginOf(level.geometry, one ?? {})),
      ),
    );
  const taken = settingsOf(options, shapes, count);
  const own = taken.reduce((sum, { components }) => sum + components, 0);
  const settingsAt = TRANSFORM_FLOATS + (colors ? 4 : 0);
  // Instances that stand for others that are left out are wider.
  const widest = thin ? (1 / thin.minShare) ** thin.grow : 1;
  return {
    transforms,
    colors,
    settings: taken.map(({ name, components, default: usual }) => ({
      given: settings[name],
      components,
      usual: typeof usual === 'number' ? [usual] : usual,
    })),
    shapeOf: shapeNumbers(options, count, shapes.length),
    shapes: shapes.map((levels) => ({
      reach: Math.max(...levels.map(({ geometry }) => reachOf(geometry, widest))) + hookReach,
      box: boxAround(levels),
    })),
    hookReach,
    head: HEAD,
    stride: Math.ceil((settingsAt + own) / 4),
    colorAt: colors ? TRANSFORM_FLOATS : 0,
    settingsAt,
    seed,
  };
}

const isObject = (value: unknown): boolean => typeof value === 'object' && value !== null;

/** What a level is drawn with: its own material or that of all, and what lies over it. */
const materialsOf = (
  { material, overlays }: SwarmLevel,
  all: Pick<SwarmOptions, 'material' | 'overlays'>,
): readonly (Material | undefined)[] => [material ?? all.material, ...(overlays ?? all.overlays ?? [])];

/** Metres from a geometry's origin to the sphere around it, and through that, if it is so much wider along X and Z. */
function reachOf({ bounds }: Geometry, wider: number): number {
  const center = boundsCenter(bounds);
  if (!Number.isFinite(center[0])) return 0;
  const { min, max } = bounds;
  const across = Math.hypot(...[0, 2].map((k) => Math.max(Math.abs(min[k]!), Math.abs(max[k]!)))); // three each
  return Math.hypot(center[0]!, center[1]!, center[2]!) + boundsRadius(bounds) + (wider - 1) * across;
}

/** The box around all levels. */
function boxAround(levels: readonly SwarmLevel[]): CopyBox {
  const bounds = emptyBounds();
  for (const { geometry } of levels) {
    growBounds(bounds, ...geometry.bounds.min);
    growBounds(bounds, ...geometry.bounds.max);
  }
  const { min, max } = bounds;
  const [x, y, z] = min.map((least, k) => Math.max(0, (max[k]! - least) / 2)) as [number, number, number]; // three each
  return {
    center: boundsCenter(bounds).map((c) => (Number.isFinite(c) ? c : 0)) as [number, number, number],
    half: [x, y, z],
  };
}

export function shapesOf({ geometry, levels, shapes }: SwarmOptions): readonly (readonly SwarmLevel[])[] {
  const all = shapes ?? [levels ?? (geometry ? [{ geometry }] : [])];
  if (
    all.length === 0 ||
    all.length > 255 ||
    all.some(({ length }) => length === 0 || length > MOST_LEVELS)
  ) {
    throw new LensError('swarm/levels', 'a swarm needs a geometry, or 1 to 4 levels a shape', {
      hint: 'Give `geometry`, or `levels: [{ geometry, minPixels: 60 }, { geometry: coarse }]`.',
    });
  }
  for (const one of all) {
    one.forEach(({ minPixels = 0 }, i) => {
      const before = i > 0 ? (one[i - 1]!.minPixels ?? 0) : Infinity; // i - 1 in range
      const isLast = i === one.length - 1;
      if ((isLast ? minPixels === 0 : minPixels > 0) && minPixels < before) return;
      throw new LensError('swarm/levels', `level ${i} begins at ${minPixels} pixels`, {
        hint: 'Levels come nearest first: each begins at fewer pixels than the one before, and the last at 0.',
      });
    });
  }
  return all;
}

function shapeNumbers({ shapeOf }: SwarmOptions, count: number, shapes: number): Uint8Array {
  const numbers = new Uint8Array(count);
  if (!shapeOf) return numbers;
  checkLength('shapeOf', shapeOf, count, [1]);
  for (let copy = 0; copy < count; copy++) {
    const shape = shapeOf[copy]!; // checked
    if (!(shape >= 0 && shape < shapes && Number.isInteger(shape))) {
      throw new LensError('swarm/shape', `instance ${copy} has shape ${shape}`, {
        hint: `There are ${shapes} shapes, numbered from 0.`,
      });
    }
    numbers[copy] = shape;
  }
  return numbers;
}

export function checkedThinning(thin: SwarmDensity | undefined): Required<SwarmDensity> | undefined {
  if (!thin) return undefined;
  const { minPixels, minShare: least = 0.05, grow: wider = 0.5 } = thin;
  if (minPixels > 0 && minPixels < Infinity && least > 0 && least <= 1 && wider >= 0 && wider <= 1)
    return { minPixels, minShare: least, grow: wider };
  throw new LensError('swarm/density', `a swarm cannot have the density ${JSON.stringify(thin)}`, {
    hint: '`minPixels` is above 0, `minShare` above 0 and at most 1, `grow` 0 to 1.',
  });
}

/** What the materials' shaders take by instance, in the order in which they read it. */
function settingsOf(
  options: SwarmOptions,
  shapes: readonly (readonly SwarmLevel[])[],
  count: number,
): MaterialShader['instanceSettings'] {
  const { settings = {} } = options;
  const lists = shapes
    .flat()
    .flatMap((level) => materialsOf(level, options).map((one) => one?.shader?.instanceSettings ?? []));
  const taken = lists.find(({ length }) => length > 0) ?? [];
  const names = taken.map(({ name }) => name);
  if (lists.some((list) => list.length > 0 && list.some(({ name }, i) => name !== names[i])))
    throw new LensError('swarm/settings', 'the materials of the swarm take different settings by instance', {
      hint: 'Give their shaders the same InstanceSettings.',
    });
  for (const [name, values] of Object.entries(settings)) {
    const setting = taken.find((one) => one.name === name);
    if (!setting) {
      throw new LensError('swarm/settings', `the material takes no setting "${name}" by instance`, {
        hint:
          names.length > 0
            ? `It takes ${names.join(', ')}.`
            : 'Give its shader a structure InstanceSettings.',
      });
    }
    checkLength(`settings.${name}`, values, count, [setting.components]);
  }
  return taken;
}
