import { IN_VIEW, KEY_DEPTH, KEY_HIDDEN, NONE } from '../columns/flags.js';
import { CHUNK, plainKernels } from '../columns/plain-kernels.js';
import type { ItemFinder, ItemLook, TakeItems } from '../scene/guests.js';
import type { Scene } from '../scene/scene.js';
import type { BatchBlending } from './batch-blending.js';
import type { CameraView } from './camera-view.js';
import { grown } from './grown.js';

/** Hears of an item whose key became another that counts. */
export type TakeKey = (item: number, key: number, before: number, batch: number) => void;

/**
 * What a camera sees of each item, as a key: whether it is in view, mirrored, hidden, and how far away. Looks at what moved, at
 * clusters, or at all, and tells of those keys that differ from what was known.
 */
export class KeyWatch {
  /** By item: its key as of the last look. */
  key = new Uint32Array(0);
  /** Items known of. */
  itemCount = 0;
  hiddenCount = 0;
  /** Items in view that are too small to be drawn. */
  smallCount = 0;
  /** What the camera saw of the scene's clusters; made when there are some. */
  clusters: ItemLook | undefined;
  private clustersOf: ItemFinder | undefined;
  private scene: Scene | undefined;
  /** Place in the log of rows that moved. */
  private movedEnd = 0;
  private isCulling = true;
  /** By item: 1 when it is too small. */
  private small = new Uint8Array(0);
  /** Below this many pixels an item's sphere is too small to be drawn; 0: none is. */
  private smallest = 0;
  /** Pixels that a metre is high at distance 1, or anywhere where rays are parallel: negative then. */
  private perMetre = 0;
  private readonly takeLooked: TakeItems = (items, from, to, keys) => {
    const { key, blending } = this;
    const { blends, count: blended } = blending;
    const { itemBatch } = this.scene!.columns; // set before
    for (let i = from; i < to; i++) {
      const item = items[i]!; // i < to, here and below
      const differs = keys[i - from]! ^ key[item]!;
      if (differs === 0) continue;
      if ((differs & COARSE) === 0 && (blended === 0 || blends[itemBatch[item]!] === 0)) continue;
      this.take(item, keys[i - from]!, itemBatch[item]!);
    }
  };

  constructor(
    private readonly blending: BatchBlending,
    private readonly tell: TakeKey,
  ) {}

  /** Begins anew: nothing is known of any item. */
  forget(scene: Scene): void {
    this.scene = scene;
    this.clusters?.forget();
    this.itemCount = 0;
    scene.columns.keysOwner = undefined;
    this.key.fill(0);
    this.hiddenCount = this.smallCount = 0;
    this.small.fill(0);
  }

  reserve(capacity: number): void {
    this.key = grown(this.key, capacity);
    const small = new Uint8Array(capacity);
    small.set(this.small);
    this.small = small;
  }

  /** Has all items looked at anew. */
  lookAgain(): void {
    this.movedEnd = -Infinity;
    if (this.scene) this.scene.columns.keysOwner = undefined;
  }

  /** The same, where nothing is placed: see `DrawList.leaveOutSmall`. @returns whether that is other than before */
  leaveOutSmall(pixels: number, perMetre: number): boolean {
    if (pixels === this.smallest && (pixels === 0 || perMetre === this.perMetre)) return false;
    this.smallest = pixels;
    this.perMetre = perMetre;
    this.lookAgain();
    this.key.fill(0);
    this.hiddenCount = this.smallCount = 0;
    this.small.fill(0);
    return true;
  }

  /** An item is outside of the view as far as is known, and is found again. */
  hide(item: number): void {
    this.key[item]! &= ~IN_VIEW;
  }

  /** An item came, went, or is another under its number. @param isHole whether it went */
  renew(item: number, isHole: boolean, viewKeys: Uint32Array): void {
    if ((this.key[item]! & KEY_HIDDEN) !== 0) this.hiddenCount--;
    this.smallCount -= this.small[item]!;
    this.small[item] = 0;
    // A hole is hidden; what came is marked as moved, and is looked at as that.
    this.key[item] = isHole ? KEY_HIDDEN : 0;
    viewKeys[item] = this.key[item]!;
    if (isHole) this.hiddenCount++;
  }

  /** To be called before keys are changed in any other way, in each update. */
  begin(itemCount: number): void {
    if (this.movedEnd === -Infinity) this.clusters?.forget();
    this.itemCount = itemCount;
  }

  /**
   * Looks at what may have changed.
   *
   * @param isNew whether nothing was known
   * @param viewChanged whether the camera sees other things than at the last look
   */
  look(scene: Scene, view: CameraView, isNew: boolean, viewChanged: boolean, cull: boolean): void {
    const { movedRows, guests } = scene;
    const isWhole =
      isNew ||
      viewChanged ||
      cull !== this.isCulling ||
      !movedRows.holds(this.movedEnd) ||
      movedRows.countSince(this.movedEnd) * 4 > scene.columns.count;
    this.isCulling = cull;
    const { finder } = guests;
    if (isWhole && cull && !isNew && finder?.isReady && this.isMostlyStill(scene))
      this.lookByCluster(scene, finder, view);
    else if (isWhole) this.lookAtAll(scene, view, cull);
    else this.lookAtMoved(scene, view, cull);
    this.movedEnd = movedRows.end;
  }

  private lookAtAll({ columns }: Scene, view: CameraView, cull: boolean): void {
    this.clusters?.forget();
    const { itemCount } = this;
    const { kernels, itemBatch } = columns;
    if (columns.keysOwner === this) {
      // The keys there are those that this list saw last, so the kernel itself tells what changed.
      const mask = this.blending.count > 0 ? 0xffffffff : COARSE;
      const changed = kernels.viewKeys(columns, view, 0, itemCount, cull, mask);
      const { viewKeys, changedItems } = columns;
      for (let i = 0; i < changed; i++) {
        const item = changedItems[i]!; // i < changed
        if (item < itemCount) this.take(item, viewKeys[item]!, itemBatch[item]!);
      }
      return;
    }
    kernels.viewKeys(columns, view, 0, itemCount, cull, 0);
    columns.keysOwner = this;
    for (let item = 0; item < itemCount; item += CHUNK) {
      this.compare(columns.viewKeys, item, Math.min(itemCount, item + CHUNK));
    }
  }

  /** Whether so little moved that clusters are worth following. */
  private isMostlyStill({ columns, movedRows }: Scene): boolean {
    return movedRows.holds(this.movedEnd) && movedRows.countSince(this.movedEnd) * 4 <= columns.count;
  }

  /** Looks at what moved, and at clusters that are in view or were. */
  private lookByCluster(scene: Scene, finder: ItemFinder, view: CameraView): void {
    scene.columns.keysOwner = undefined;
    this.lookAtMoved(scene, view, true);
    const { columns } = scene;
    for (const item of finder.loose) {
      plainKernels.viewKeys(columns, view, item, item + 1, true, 0);
      this.compare(columns.viewKeys, item, item + 1);
    }
    finder.refit();
    if (this.clustersOf !== finder) this.clusters = undefined;
    this.clustersOf = finder;
    this.clusters ??= finder.createLook();
    this.clusters.look(view, this.takeLooked);
  }

  private lookAtMoved({ columns, movedRows }: Scene, view: CameraView, cull: boolean): void {
    if (columns.keysOwner !== this) columns.keysOwner = undefined;
    for (let at = this.movedEnd; at < movedRows.end; at++) {
      const first = movedRows.firstAt(at);
      const end = Math.min(first + movedRows.countAt(at), columns.count);
      for (let row = first; row < end; row++) {
        for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
          plainKernels.viewKeys(columns, view, item, item + 1, cull, 0);
          this.compare(columns.viewKeys, item, item + 1);
        }
      }
    }
  }

  /** Holds fresh keys against those known. Opaque items tell depths apart to one part in eight. */
  private compare(fresh: Uint32Array, from: number, to: number): void {
    const { key, blending } = this;
    const { blends, count: blended } = blending;
    const { itemBatch } = this.scene!.columns; // set before
    for (let item = from; item < to; item++) {
      const differs = fresh[item]! ^ key[item]!; // item < to, here and below
      if (differs === 0) continue;
      if ((differs & COARSE) === 0 && (blended === 0 || blends[itemBatch[item]!] === 0)) continue;
      this.take(item, fresh[item]!, itemBatch[item]!);
    }
  }

  private take(item: number, given: number, batch: number): void {
    let key = given;
    if (this.smallest > 0) {
      const isSmall = (key & IN_VIEW) !== 0 && this.isSmall(item, key) ? 1 : 0;
      this.smallCount += isSmall - this.small[item]!; // an item in range
      this.small[item] = isSmall;
      if (isSmall === 1) key = (key & ~IN_VIEW) >>> 0;
    }
    const before = this.key[item]!; // an item in range
    this.key[item] = key;
    if ((before & KEY_HIDDEN) !== 0) this.hiddenCount--;
    if ((key & KEY_HIDDEN) !== 0) this.hiddenCount++;
    this.tell(item, key, before, batch);
  }

  private isSmall(item: number, key: number): boolean {
    const { smallest, perMetre } = this;
    const radius = Math.abs(this.scene!.columns.worldSphere[item * 4 + 3]!); // set before; an item in range
    if (perMetre < 0) return -2 * radius * perMetre < smallest;
    depthBits[0] = (key & KEY_DEPTH) << 2;
    // The near side of the sphere counts.
    const distance = depthOfBits[0]! - radius;
    return distance > 0 && 2 * radius * perMetre < smallest * distance;
  }
}

/** Bits of a key that tell opaque items apart: all but the finer ones of the depth. */
export const COARSE = 0xfffc0000;

/** A depth out of the bits of a key. */
const depthBits = new Uint32Array(1);
const depthOfBits = new Float32Array(depthBits.buffer);
