import type { CameraView } from '../draw/camera-view.js';
import { LEVEL_SHIFT, REPEAT_SHIFT, SHOWN_SHIFT } from '../compiled/layouts.js';
import { INSTANCE_WORDS } from './instance-words.js';
import { BAND, type Swarm, type SwarmShape } from './swarm.js';
import { TILE_FLOATS } from './tiles.js';

/** Instances of one level of one shape. */
export interface SwarmRun {
  words: Uint32Array;
  /** Instances. */
  count: number;
  /** Copies in them. */
  copies: number;
}

/** What the camera is like, besides its planes. */
export interface SwarmCamera {
  view: CameraView;
  /** Pixels that a metre is high at distance 1; anywhere, if rays are parallel. */
  pixelsAtOne: number;
  isParallel: boolean;
}

/**
 * What of a swarm is drawn through one camera, for one node: by primitive, instances of several copies each. The words of an
 * instance: what any instance says of its node; where the shape's header lies on the GPU; its first copy in 24 bits, how
 * many there are less one in 6, and the level in 2; that copy's number in its tile, and how many the tile has, in 16 each.
 */
export class SwarmView {
  readonly runs: SwarmRun[] = [];
  /** Tiles that the last update looked at, and those of them that it left out. */
  tiles = 0;
  tilesLeftOut = 0;
  /** Copies in the tiles that are drawn, which thinning left out. */
  thinned = 0;
  // What the last update was made for.
  private version = -1;
  private before = new Float64Array(16 + 12 + 4);

  /**
   * @param world the node's world transforms, affine 3x4 by rows from `at` on
   * @param head where the swarm's values begin on the GPU, in steps of four floats
   * @param cull whether to leave out what the view's planes exclude
   * @returns whether anything may differ from the last call's
   */
  update(
    swarm: Swarm,
    world: Float32Array,
    at: number,
    camera: SwarmCamera,
    head: number,
    cull = true,
  ): boolean {
    if (!this.differs(swarm, world, at, camera, head, cull)) return false;
    this.tiles = this.tilesLeftOut = this.thinned = 0;
    if (cull) localPlanes(camera.view.planes, world, at);
    const { lengths } = stretches;
    for (let k = 0; k < 3; k++)
      lengths[k] = Math.hypot(world[at + k]!, world[at + 4 + k]!, world[at + 8 + k]!); // twelve numbers
    const [narrow, wide] = [Math.min(...lengths), Math.max(...lengths)];
    let first = 0;
    for (let i = 0; i < swarm.shapes.length; i++) {
      const shape = swarm.shapes[i]!; // i < length
      for (let level = 0; level < shape.levels.length; level++) {
        const run = (this.runs[first + level] ??= { words: new Uint32Array(64), count: 0, copies: 0 });
        run.count = run.copies = 0;
      }
      this.choose(swarm, shape, first, world, at, camera, head, cull, narrow, wide);
      first += shape.levels.length;
    }
    return true;
  }

  private differs(
    { version }: Swarm,
    world: Float32Array,
    at: number,
    { view, pixelsAtOne, isParallel }: SwarmCamera,
    head: number,
    cull: boolean,
  ): boolean {
    const { before } = this;
    let isOther = this.version !== version;
    this.version = version;
    const keep = (place: number, value: number): void => {
      if (before[place] === value) return;
      before[place] = value;
      isOther = true;
    };
    for (let k = 0; k < 16; k++) keep(k, view.viewProjection[k]!); // sixteen, and twelve
    for (let k = 0; k < 12; k++) keep(16 + k, world[at + k]!);
    keep(28, pixelsAtOne);
    keep(29, isParallel ? 1 : 0);
    keep(30, head);
    keep(31, cull ? 1 : 0);
    return isOther;
  }

  private choose(
    swarm: Swarm,
    { levels, radius, tiles, head: shapeHead }: SwarmShape,
    firstRun: number,
    world: Float32Array,
    at: number,
    { view, pixelsAtOne, isParallel }: SwarmCamera,
    head: number,
    cull: boolean,
    narrow: number,
    wide: number,
  ): void {
    const { thin } = swarm;
    const { spheres } = tiles;
    const [ex, ey, ez] = [view.position[0]!, view.position[1]!, view.position[2]!];
    const size = 2 * radius * pixelsAtOne;
    this.tiles += tiles.count;
    for (let tile = 0; tile < tiles.count; tile++) {
      const s = tile * TILE_FLOATS;
      const x = spheres[s]!; // a tile in range, here and below
      const y = spheres[s + 1]!;
      const z = spheres[s + 2]!;
      if (cull && isOutside(x, y, z, spheres[s + 4]!)) {
        this.tilesLeftOut++;
        continue;
      }
      const dx = world[at]! * x + world[at + 1]! * y + world[at + 2]! * z + world[at + 3]! - ex;
      const dy = world[at + 4]! * x + world[at + 5]! * y + world[at + 6]! * z + world[at + 7]! - ey;
      const dz = world[at + 8]! * x + world[at + 9]! * y + world[at + 10]! * z + world[at + 11]! - ez;
      const distance = Math.sqrt(dx * dx + dy * dy + dz * dz);
      const stands = spheres[s + 3]! * wide;
      // A hundredth of slack, for what the shader rounds otherwise.
      const near = isParallel ? 1 : Math.max(distance - stands, 1e-6);
      const far = isParallel ? 1 : distance + stands;
      const largest = (1.01 * size * spheres[s + 6]! * wide) / near;
      const smallest = (0.99 * size * spheres[s + 5]! * narrow) / far;
      const all = swarm.shownOf(tiles.copies[tile]!, tile);
      let copies = all;
      if (copies === 0) continue;
      if (thin) {
        const kept = Math.ceil(copies * Math.min(1, shareOf(largest, thin.minPixels, thin.minShare)));
        this.thinned += copies - kept;
        copies = kept;
      }
      for (let level = 0; level < levels.length; level++) {
        if (largest < levels[level]!.minPixels) continue; // level < length
        // From here on the level before covers all.
        if (level > 0 && smallest > levels[level - 1]!.minPixels * BAND) break;
        this.add(
          firstRun + level,
          levels[level]!.repeats,
          level,
          tiles.first[tile]!,
          copies,
          all,
          head + shapeHead,
        );
      }
    }
  }

  private add(
    number: number,
    repeats: number,
    level: number,
    first: number,
    copies: number,
    ofTile: number,
    head: number,
  ): void {
    const run = this.runs[number]!; // made by update
    const instances = Math.ceil(copies / repeats);
    const need = (run.count + instances) * INSTANCE_WORDS;
    if (run.words.length < need) {
      const words = new Uint32Array(Math.max(need, run.words.length * 2));
      words.set(run.words);
      run.words = words;
    }
    const { words } = run;
    for (let i = 0, at = run.count * INSTANCE_WORDS; i < instances; i++) {
      const done = i * repeats;
      const here = copies - done < repeats ? copies - done : repeats;
      at++;
      words[at++] = head;
      words[at++] = (first + done) | ((here - 1) << REPEAT_SHIFT) | (level << LEVEL_SHIFT);
      words[at++] = done | (ofTile << SHOWN_SHIFT);
    }
    run.count += instances;
    run.copies += copies;
  }
}

/**
 * Share of the copies that are drawn at a size; above 1 all are, and those that went last grow in. The shader has the same.
 *
 * @param pixels height of a copy
 */
export function shareOf(pixels: number, from: number, least: number): number {
  const ratio = pixels / from;
  return Math.max(least, Math.min(BAND, BAND * ratio * ratio));
}

/** Six planes in the space of the node, each with the length of its normal. */
const planes = new Float64Array(30);
const stretches = { lengths: [1, 1, 1] };

function localPlanes(of: Float32Array, m: Float32Array, at: number): void {
  for (let i = 0; i < 6; i++) {
    const p = i * 4;
    const o = i * 5;
    let length = 0;
    for (let k = 0; k < 3; k++) {
      // Twelve numbers of a transform, and four of a plane.
      const n = of[p]! * m[at + k]! + of[p + 1]! * m[at + 4 + k]! + of[p + 2]! * m[at + 8 + k]!;
      planes[o + k] = n;
      length += n * n;
    }
    planes[o + 3] = of[p]! * m[at + 3]! + of[p + 1]! * m[at + 7]! + of[p + 2]! * m[at + 11]! + of[p + 3]!;
    planes[o + 4] = Math.sqrt(length);
  }
}

function isOutside(x: number, y: number, z: number, radius: number): boolean {
  for (let o = 0; o < 30; o += 5) {
    const d = planes[o]! * x + planes[o + 1]! * y + planes[o + 2]! * z + planes[o + 3]!;
    if (d < -radius * planes[o + 4]!) return true; // five numbers a plane
  }
  return false;
}
