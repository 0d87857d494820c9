import { SpanLog } from '../columns/span-log.js';
import { LensError } from '../errors/lens-error.js';
import { type Geometry, vertexCount } from '../geometry/geometry.js';
import { type Bounds, boundsRadius } from '../math/bounds.js';
import type { Mesh, Primitive } from '../scene/components.js';
import { TRANSFORM_FLOATS, type InstanceTransforms, writeTransform } from './instance-transforms.js';
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
import {
  checkedThinning,
  HEAD,
  MOST_LEVELS,
  shapesOf,
  type SwarmDensity,
  swarmInput,
  type SwarmLevel,
  type SwarmOptions,
} from './swarm-options.js';
import type { Tiles } from './tiles.js';

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
   * @throws LensError `swarm/length`, `swarm/levels`, `swarm/shape`, `swarm/number`, `swarm/density`,
   *   `swarm/overlays`
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
      levels.forEach((level, number) => this.addPart(level, shape, number, options)),
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
    { minPixels: _, geometry, material, overlays, ...rest }: SwarmLevel,
    shape: number,
    level: number,
    ofAll: Pick<SwarmOptions, 'material' | 'overlays'>,
  ): void {
    const times = this.shapes[shape]!.levels[level]!.repeats; // one each
    const part = new SwarmPart(this, shape, level, this.primitives.length, geometry);
    const drawn: Geometry = { ...repeated(geometry, times), bounds: this.bounds, placement: part };
    delete drawn.targets;
    const own = material ?? ofAll.material;
    const over = overlays ?? ofAll.overlays ?? [];
    this.primitives.push({
      ...rest,
      geometry: drawn,
      ...(own ? { material: own } : {}),
      ...(over.length > 0 ? { overlays: [...over] } : {}),
    });
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
