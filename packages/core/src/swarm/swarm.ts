import { SpanLog } from '../columns/span-log.js';
import { watchOptions } from '#watch';
import { LensError } from '../errors/lens-error.js';
import { type Geometry, vertexCount } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';
import type { MaterialShader } from '../material/shader-types.js';
import { boundsCenter, type Bounds, boundsRadius, emptyBounds, growBounds } from '../math/bounds.js';
import type { Mesh, Primitive } from '../scene/components.js';
import { marginOf } from '../scene/margins.js';
import {
  checkLength,
  countTransforms,
  TRANSFORM_FLOATS,
  type InstanceTransforms,
  writeTransform,
} from './instance-transforms.js';
import { repeated, repeatsFor } from './repeat.js';
import {
  type CopyBox,
  growByCopy,
  type LaidOutShape,
  layOutSwarm,
  measureTile,
  type SwarmInput,
  type SwarmLayout,
} from './swarm-layout.js';
import type { Tiles } from './tiles.js';

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

declare module '../geometry/geometry.js' {
  interface Placements {
    /** The vertices of one level, several times over; its bounds are those of all instances. */
    instances: SwarmPart;
  }
}

/** One level of one shape: a primitive, drawn by its instances. */
export class SwarmPart {
  readonly kind = 'instances';

  constructor(
    readonly swarm: Swarm,
    readonly shape: number,
    readonly level: number,
    /** Its number among all levels of all shapes: its run in a `SwarmView`. */
    readonly run: number,
    /** What one instance looks like. */
    readonly geometry: Geometry,
  ) {}

  get boundsVersion(): number {
    return this.swarm.boundsVersion;
  }
}

/** What a primitive's geometry is a part of, if it is that of a swarm. */
export const swarmPart = ({ placement }: Geometry): SwarmPart | undefined =>
  placement?.kind === 'instances' ? placement : undefined;

/** Instances of one shape. */
export interface SwarmShape {
  readonly levels: readonly { given: number; minPixels: number; repeats: number }[];
  /** Radius of the sphere around the first level's geometry, metres. */
  readonly radius: number;
  /** Metres from an instance's origin to the farthest of what is drawn of it, when it is not scaled. */
  readonly reach: number;
  /** Around what is drawn of an instance, in its own space. */
  readonly box: CopyBox;
  readonly tiles: Tiles;
  /** Where in `values` its header and its first record lie, in steps of four floats. */
  readonly head: number;
  readonly firstRecord: number;
  /** Numbers of its instances, by record. */
  readonly order: Uint32Array;
}

export const MOST_LEVELS = 4;
/** Steps of four floats of a shape's header. */
const HEAD = 4;
/** Sizes between a level's least pixels and this many times as much belong to two levels. */
export const BAND = 1.25;

/**
 * Thousands to millions of instances of one thing, or of a few: a mesh of its own kind, for `createNode({ mesh: swarm })`.
 *
 * Instances that stand near one another form tiles. Each frame the tiles in view are chosen, with the levels that they are
 * drawn at and how many of their instances, so that the script's cost follows the tiles. Everything a mesh has applies: all
 * materials and hooks, shadows, picking (`hit.instance`), and several nodes may carry one swarm.
 *
 * On the GPU an instance is a record of `stride` times four floats: three rows of its matrix, its colour if there are any, and
 * its settings. A header a shape comes before the records.
 */
export class Swarm implements Mesh {
  name?: string;
  extras?: unknown;
  readonly primitives: Primitive[] = [];
  readonly count: number;
  readonly shapes: readonly SwarmShape[];
  /** As it is in force: what was given, by `detail`. */
  readonly thin: Required<SwarmDensity> | undefined;
  readonly boundsMargin: number;
  /** Headers and records, as they go to the GPU: floats, and the same bits as whole numbers. */
  readonly values: Float32Array;
  readonly words: Uint32Array;
  /** Steps of four floats from one record to the next. */
  readonly stride: number;
  /** Steps of `values` that changed. */
  readonly log = new SpanLog();
  /** Counts changes: what chose tiles before is out of date. */
  version = 0;
  /** Box of all instances, metres, in the space of the node. It grows when instances leave it. */
  readonly bounds: Bounds;
  /** Counts how often it may have grown. */
  boundsVersion = 0;
  private readonly colorAt: number;
  private readonly thinGiven: SwarmDensity | undefined;
  private detailFactor = 1;
  /** Of the instances that are drawn, in parts of 65,536. */
  shareParts = 65536;
  /** By instance: its shape, and its record in it. */
  private readonly shapeOf: Uint8Array;
  private readonly recordOf: Uint32Array;

  /**
   * @param layout what `swarmInput` of the options was laid out to, where that was done elsewhere
   * @throws LensError `swarm/length`, `swarm/levels`, `swarm/shape`, `swarm/number`, `swarm/density`
   */
  constructor(options: SwarmOptions, layout?: SwarmLayout) {
    if (options.name !== undefined) this.name = options.name;
    if (options.extras !== undefined) this.extras = options.extras;
    const shapes = shapesOf(options);
    const input = swarmInput(options);
    const { values, recordOf, shapes: laidOut, bounds } = layout ?? layOutSwarm(input);
    this.count = input.shapeOf.length;
    this.thinGiven = options.density;
    this.thin = checkedThinning(options.density);
    this.boundsMargin = input.hookReach;
    this.colorAt = input.colorAt;
    this.stride = input.stride;
    this.shapeOf = input.shapeOf;
    this.recordOf = recordOf;
    this.values = values;
    this.words = new Uint32Array(values.buffer);
    this.bounds = bounds;
    this.shapes = shapes.map(
      (levels, number) => this.shapeFrom(levels, number, input, laidOut[number]!), // one each
    );
    this.writeDetail();
    this.share = options.share ?? 1;
    shapes.forEach((levels, shape) =>
      levels.forEach((level, number) => this.addPart(level, shape, number, options.material)),
    );
  }

  /** A shape with its levels, and its header in `values`. */
  private shapeFrom(
    levels: readonly SwarmLevel[],
    number: number,
    input: SwarmInput,
    { order, tiles, firstRecord }: LaidOutShape,
  ): SwarmShape {
    const { reach, box } = input.shapes[number]!; // one each
    const head = number * HEAD;
    for (let i = 0; i < MOST_LEVELS; i++)
      this.values[head * 4 + i] = levels[i] ? vertexCount(levels[i]!.geometry) : 1;
    this.words.set([this.stride, this.colorAt / 4, input.settingsAt, firstRecord - head], head * 4 + 12);
    return {
      levels: levels.map(({ geometry, minPixels = 0 }) => ({
        given: minPixels,
        minPixels,
        repeats: repeatsFor(geometry, order.length),
      })),
      radius: boundsRadius(levels[0]!.geometry.bounds), // at least one: checked
      ...{ reach, box, tiles, head, firstRecord, order },
    };
  }

  /** A level as a primitive of its own: one draw call, or a part of one. */
  private addPart(
    { minPixels: _, geometry, material, ...rest }: SwarmLevel,
    shape: number,
    level: number,
    ofAll: Material | undefined,
  ): void {
    const times = this.shapes[shape]!.levels[level]!.repeats; // one each
    const part = new SwarmPart(this, shape, level, this.primitives.length, geometry);
    const drawn: Geometry = { ...repeated(geometry, times), bounds: this.bounds, placement: part };
    delete drawn.targets;
    const own = material ?? ofAll;
    this.primitives.push({ ...rest, geometry: drawn, ...(own ? { material: own } : {}) });
  }

  /**
   * Moves an instance. What it reaches may grow, and does not shrink again.
   *
   * @param placing of one instance
   * @throws LensError `swarm/instance`, `swarm/number`
   */
  setTransform(instance: number, placing: InstanceTransforms): void {
    const { shape, record } = this.placeOf(instance);
    const at = (shape.firstRecord + record * this.stride) * 4;
    writeTransform(placing, 0, this.values, at);
    const { first, count } = shape.tiles;
    let tile = 0;
    for (let step = 1 << 24; step >= 1; step >>= 1)
      if (tile + step < count && first[tile + step]! <= record) tile += step;
    const { box, firstRecord, reach, tiles } = shape;
    measureTile(tiles, tile, this.values, firstRecord, this.stride, reach);
    this.boundsVersion++;
    growByCopy(this.bounds, this.values, at, box, this.boundsMargin);
    this.changed(at, TRANSFORM_FLOATS);
  }

  /**
   * Share of the instances that are drawn: 0.3 shows three of ten, spread over the whole as all of them are, and the same ones each
   * time. Costs nothing to change: no record is written or sent. 0 to 1, default 1.
   *
   * @throws LensError `swarm/share`
   */
  get share(): number {
    return this.shareParts / 65536;
  }

  set share(share: number) {
    if (!(share >= 0 && share <= 1))
      throw new LensError('swarm/share', `a swarm cannot show a share of ${share}`, {
        hint: 'Give 0 for none of the instances to 1 for all.',
      });
    const parts = Math.round(share * 65536);
    if (parts === this.shareParts) return;
    this.shareParts = parts;
    this.version++;
  }

  /**
   * How many instances of a tile are shown, its first ones: the share of them, rounded by the tile's own luck, in whole numbers as
   * choose-tiles.wgsl has it.
   */
  shownOf(copies: number, tile: number): number {
    return (copies * this.shareParts + (Math.imul(tile, 40503) & 0xffff)) >>> 16;
  }

  /**
   * Factor on the sizes at which levels begin and instances are thinned: 2 keeps detail twice as far away, 0.5 half as far.
   * Default 1.
   *
   * @throws LensError `swarm/detail`
   */
  get detail(): number {
    return this.detailFactor;
  }

  set detail(factor: number) {
    if (!(factor > 0 && factor < Infinity))
      throw new LensError('swarm/detail', `a swarm cannot have a detail of ${factor}`, {
        hint: 'Give a factor above 0; 1 is what levels and thinning were made for.',
      });
    if (factor === this.detailFactor) return;
    this.detailFactor = factor;
    this.writeDetail();
    for (const { head } of this.shapes) this.changed(head * 4, HEAD * 4);
  }

  private writeDetail(): void {
    const { thin, thinGiven, values, detailFactor } = this;
    if (thin && thinGiven) thin.minPixels = thinGiven.minPixels / detailFactor;
    for (const { head, levels, radius } of this.shapes) {
      for (let i = 0; i < levels.length; i++) {
        const level = levels[i]!; // i < length
        values[head * 4 + 4 + i] = level.minPixels = level.given / detailFactor;
      }
      values.set([thin?.minPixels ?? 0, thin?.minShare ?? 1, thin?.grow ?? 0, radius], head * 4 + 8);
    }
  }

  /** Shows an instance no longer, until it is placed again. @throws LensError `swarm/instance` */
  hide(instance: number): void {
    const { shape, record } = this.placeOf(instance);
    const at = (shape.firstRecord + record * this.stride) * 4;
    for (let k = 0; k < TRANSFORM_FLOATS; k++) if (k % 4 !== 3) this.values[at + k] = 0;
    this.changed(at, TRANSFORM_FLOATS);
  }

  /** @param color linear RGBA @throws LensError `swarm/instance`, `swarm/colors` for a swarm that was made without any */
  setColor(instance: number, color: ArrayLike<number>): void {
    if (this.colorAt === 0)
      throw new LensError('swarm/colors', 'the swarm has no colours', {
        hint: 'Give `colors` when it is made.',
      });
    const { shape, record } = this.placeOf(instance);
    const at = (shape.firstRecord + record * this.stride) * 4 + this.colorAt;
    for (let k = 0; k < 4; k++) this.values[at + k] = color[k]!; // four numbers: the caller's contract
    this.changed(at, 4);
  }

  /** The number of the instance that lies in a record. */
  instanceAt(shape: number, record: number): number {
    return this.shapes[shape]!.order[record]!; // both are the swarm's own
  }

  /** Writes where an instance stands into `out`: affine 3x4 by rows. @throws LensError `swarm/instance` */
  readTransform(instance: number, out: Float32Array): void {
    const { shape, record } = this.placeOf(instance);
    const at = (shape.firstRecord + record * this.stride) * 4;
    for (let k = 0; k < TRANSFORM_FLOATS; k++) out[k] = this.values[at + k]!; // a record of its own
  }

  private placeOf(instance: number): { shape: SwarmShape; record: number } {
    if (!(instance >= 0 && instance < this.count && Number.isInteger(instance))) {
      throw new LensError('swarm/instance', `there is no instance ${instance}`, {
        hint: `The swarm has ${this.count} instances, numbered from 0.`,
      });
    }
    return { shape: this.shapes[this.shapeOf[instance]!]!, record: this.recordOf[instance]! }; // in range
  }

  private changed(float: number, floats: number): void {
    const first = float >> 2;
    this.log.add(first, ((float + floats + 3) >> 2) - first);
    this.version++;
  }
}

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
  const hookReach =
    options.boundsMargin ??
    Math.max(...all.map(({ geometry, material = options.material ?? {} }) => marginOf(geometry, material)));
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

/** Metres from a geometry's origin to the sphere around it, and through that, if it is so much wider along X and Z. */
function reachOf({ bounds }: Geometry, wider: number): number {
  const center = boundsCenter(bounds);
  if (!Number.isFinite(center[0])) return 0;
  const { min, max } = bounds;
  const across = Math.hypot(...[0, 2].map((k) => Math.max(Math.abs(min[k]!), Math.abs(max[k]!)))); // three each
  return Math.hypot(center[0]!, center[1]!, center[2]!) + boundsRadius(bounds) + (wider - 1) * across;
}

/** The box around all levels. */
function boxAround(levels: readonly SwarmLevel[]): SwarmShape['box'] {
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

function shapesOf({ geometry, levels, shapes }: SwarmOptions): readonly (readonly SwarmLevel[])[] {
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

function checkedThinning(thin: SwarmDensity | undefined): Required<SwarmDensity> | undefined {
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
  { material, settings = {} }: SwarmOptions,
  shapes: readonly (readonly SwarmLevel[])[],
  count: number,
): MaterialShader['instanceSettings'] {
  const lists = shapes.flat().map((level) => (level.material ?? material)?.shader?.instanceSettings ?? []);
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
