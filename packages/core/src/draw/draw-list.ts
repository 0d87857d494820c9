import {
  GUEST_SLOT,
  IN_VIEW,
  KEY_DEPTH,
  KEY_HIDDEN,
  KEY_MIRRORED,
  MATERIAL_SHIFT,
  NONE,
  TRAIT_SHIFT,
} from '../columns/flags.js';
import { CHUNK, plainKernels } from '../columns/plain-kernels.js';
import type { SpanLog } from '../columns/span-log.js';
import type { Batch } from '../scene/drawables.js';
import type { ItemFinder, ItemLook, TakeItems } from '../scene/guests.js';
import type { Scene } from '../scene/scene.js';
import type { CameraView } from './camera-view.js';
import { RadixSort } from './radix-sort.js';

/** Where the transforms of rows lie on the GPU, for a list whose instances name places there. */
export interface TransformSlots {
  /** Slot by row. */
  readonly slots: Uint32Array;
  /** Rows that changed their slot. */
  readonly log: SpanLog;
}

/**
 * What is to be drawn of a scene through a camera: culled, sorted and batched into plain arrays.
 *
 * Command `i` draws `commandCount[i]` instances, from position `commandFirst[i]` of `instances` on, of batch
 * `commandBatch[i]`. Commands below `opaqueCommands` are opaque or masked: by batch, each coarsely front to back.
 * The others are blended, back to front. Instances of mirrored nodes come in commands of their own
 * (`commandMirrored[i]` is 1), since their faces wind the other way.
 *
 * The list is mended, not made anew: a node that moves, comes or goes costs the same among ten others as among
 * a hundred thousand. What comes into a batch is put at its end, and what moves stays where it is, so the order
 * front to back decays; when a quarter is out of order, everything is sorted again. Blended ones are always in order.
 */
export class DrawList {
  /** By number, as `Drawables.batches`. */
  batches: readonly (Batch | undefined)[] = [];
  /**
   * By position: the slot (or row) of an instance's transform, with the number of its material in its table in six bits
   * above, and the node's traits in the two highest. Between the batches there is room.
   */
  instances = new Uint32Array(0);
  /** Positions in use, gaps included. */
  room = 0;
  /** Positions that the last update wrote: from the first to before the second; none when that is not less. */
  changedFrom = 0;
  changedTo = 0;
  /** Instances to be drawn. */
  instanceCount = 0;
  commands = 0;
  opaqueCommands = 0;
  commandBatch = new Uint32Array(0);
  commandFirst = new Uint32Array(0);
  commandCount = new Uint32Array(0);
  commandMirrored = new Uint8Array(0);
  /** What the camera saw of the scene's clusters; made when there are some. */
  clusters: ItemLook | undefined;
  private clustersOf: ItemFinder | undefined;
  private readonly takeLooked: TakeItems = (items, from, to, keys) => {
    const { key, blends, blendedBatches } = this;
    const { itemBatch } = this.scene!.columns; // set before
    for (let i = from; i < to; i++) {
      const item = items[i]!; // i < to, here and below
      const differs = keys[i - from]! ^ key[item]!;
      if (differs === 0) continue;
      if ((differs & COARSE) === 0 && (blendedBatches === 0 || blends[itemBatch[item]!] === 0)) continue;
      this.take(item, keys[i - from]!, itemBatch[item]!);
    }
  };
  /** Items left out because they are outside the view, or too small. */
  culledCount = 0;
  /** Of those: too small. */
  smallCount = 0;

  private scene: Scene | undefined;
  private slots: TransformSlots | undefined;
  /** Places in the logs of the scene and of the slots. */
  private movedEnd = 0;
  private itemsEnd = 0;
  private slotsEnd = 0;
  /** Items known of. */
  private itemCount = 0;
  /** By item: its key as of the last look. */
  private key = new Uint32Array(0);
  /** By item: its position, or NONE. For blended ones: its place in `blended`. */
  private position = new Int32Array(0);
  /** By item: batch * 2 + mirrored where it was put. */
  private order = new Uint32Array(0);
  private itemAt = new Uint32Array(0);
  /** By batch: 1 when it is blended. */
  private blends = new Uint8Array(0);
  private blendedBatches = 0;
  /** By order: where its run of positions begins, how many are used, and how many it has. */
  private runFirst = new Uint32Array(0);
  private runCount = new Uint32Array(0);
  private runRoom = new Uint32Array(0);
  private blended = new Uint32Array(0);
  private blendedCount = 0;
  private opaqueCount = 0;
  private opaqueRoom = 0;
  private hiddenCount = 0;
  /** Changes since the last sort that left something out of order. */
  private disorder = 0;
  private mustSort = true;
  private mustSortBlended = false;
  private mustList = true;
  private batchesVersion = -1;
  private isCulling = true;
  /** Below this many pixels an item's sphere is too small to be drawn; 0: none is. */
  private smallest = 0;
  /** Pixels that a metre is high at distance 1, or anywhere where rays are parallel: negative then. */
  private perMetre = 0;
  /** By item: 1 when it is too small. */
  private small = new Uint8Array(0);
  private readonly sorter = new RadixSort();
  private high = new Uint32Array(0);
  private low = new Uint32Array(0);
  private sorted = new Uint32Array(0);

  /**
   * @param regroups whether it looks for materials whose kind changed; where a frame has several lists, whoever draws
   *   them does so once: `scene.drawables.regroup()`
   */
  constructor(private readonly regroups = true) {}

  /**
   * Brings the list up to date.
   *
   * @param viewChanged whether `view` differs from the last call's
   * @param slots where transforms lie on the GPU; left out: instances name rows
   * @param cull whether to leave out what the view's planes exclude
   * @returns whether anything changed; if not, the arrays are those of the last call
   */
  update(scene: Scene, view: CameraView, viewChanged: boolean, slots?: TransformSlots, cull = true): boolean {
    if (this.regroups) scene.drawables.regroup();
    scene.update();
    const { drawables, movedRows } = scene;
    this.changedFrom = Infinity;
    this.changedTo = 0;
    const isLost = scene !== this.scene || slots !== this.slots || !drawables.log.holds(this.itemsEnd);
    if (isLost) this.forget(scene, slots);
    if (this.movedEnd === -Infinity) this.clusters?.forget();
    this.makeRoom(scene);
    if (drawables.batchesVersion !== this.batchesVersion) {
      this.batchesVersion = drawables.batchesVersion;
      this.mustList = true;
    }
    this.lookAtAlphaModes();
    if (this.itemsEnd !== drawables.log.end) this.takeChangedItems(scene);
    const isWhole =
      isLost ||
      viewChanged ||
      cull !== this.isCulling ||
      !movedRows.holds(this.movedEnd) ||
      movedRows.countSince(this.movedEnd) * 4 > scene.columns.count;
    this.isCulling = cull;
    const { finder } = scene.guests;
    if (isWhole && cull && !isLost && finder?.isReady && this.isMostlyStill(scene))
      this.lookByCluster(scene, finder, view);
    else if (isWhole) this.lookAtAll(scene, view, cull);
    else this.lookAtMoved(scene, view, cull);
    this.takeNewSlots(scene);
    this.movedEnd = movedRows.end;
    this.itemsEnd = drawables.log.end;
    return this.settle(scene);
  }

  /**
   * Leaves out what is too small to be seen: items whose sphere is less than so many pixels high, as of when their depth last
   * changed by an eighth.
   *
   * @param pixels 0: nothing is too small
   * @param perMetre pixels that a metre is high at distance 1; anywhere, and negative, where rays are parallel
   */
  leaveOutSmall(pixels: number, perMetre: number): void {
    if (pixels === this.smallest && (pixels === 0 || perMetre === this.perMetre)) return;
    this.smallest = pixels;
    this.perMetre = perMetre;
    // All are looked at anew.
    this.movedEnd = -Infinity;
    if (this.scene) this.scene.columns.keysOwner = undefined;
    this.key.fill(0);
    for (let item = 0; item < this.itemCount; item++) if (this.position[item] !== NONE) this.unplace(item);
    this.hiddenCount = this.smallCount = 0;
    this.small.fill(0);
    this.mustSort = this.mustSortBlended = true;
  }

  /** Row of the node that is drawn at a position. */
  rowAt(position: number): number {
    return this.scene!.columns.itemRow[this.itemAt[position]!]!; // the list was updated before
  }

  /** Begins anew: nothing is placed, nothing is known of any item. */
  private forget(scene: Scene, slots: TransformSlots | undefined): void {
    this.scene = scene;
    this.slots = slots;
    this.clusters?.forget();
    this.batches = scene.drawables.batches;
    this.itemsEnd = scene.drawables.log.end;
    this.slotsEnd = slots?.log.end ?? 0;
    this.batchesVersion = -1;
    this.itemCount = 0;
    scene.columns.keysOwner = undefined;
    this.key.fill(0);
    this.position.fill(NONE);
    this.blendedCount = 0;
    this.opaqueCount = 0;
    this.hiddenCount = this.smallCount = 0;
    this.small.fill(0);
    this.mustSort = true;
    this.mustSortBlended = true;
  }

  private makeRoom(scene: Scene): void {
    const { itemCapacity, itemCount } = scene.columns;
    this.itemCount = itemCount;
    if (this.key.length < itemCapacity) {
      this.key = grown(this.key, itemCapacity);
      this.order = grown(this.order, itemCapacity);
      this.high = new Uint32Array(itemCapacity);
      this.low = new Uint32Array(itemCapacity);
      this.sorted = new Uint32Array(itemCapacity);
      this.blended = grown(this.blended, itemCapacity);
      const small = new Uint8Array(itemCapacity);
      small.set(this.small);
      this.small = small;
      const position = new Int32Array(itemCapacity).fill(NONE);
      position.set(this.position);
      this.position = position;
    }
    const batches = this.batches.length;
    if (this.blends.length < batches) {
      const capacity = batches + (batches >> 1) + 8;
      const blends = new Uint8Array(capacity);
      blends.set(this.blends);
      this.blends = blends;
      this.runFirst = grown(this.runFirst, capacity * 2);
      this.runCount = grown(this.runCount, capacity * 2);
      this.runRoom = grown(this.runRoom, capacity * 2);
    }
  }

  /** Materials may change whether they blend at any time. */
  private lookAtAlphaModes(): void {
    this.blendedBatches = 0;
    for (let i = 0; i < this.batches.length; i++) {
      const batch = this.batches[i];
      const blends = batch?.material.alphaMode === 'blend' ? 1 : 0;
      this.blendedBatches += blends;
      if (this.blends[i] === blends) continue;
      // Whatever this batch placed is in the wrong half of the list: both are made anew out of the keys.
      this.unplaceBatch(i);
      this.blends[i] = blends;
      this.mustSort = true;
      this.mustSortBlended = true;
    }
  }

  private unplaceBatch(batch: number): void {
    for (let item = 0; item < this.itemCount; item++) {
      if (this.position[item] !== NONE && this.order[item]! >> 1 === batch) this.unplace(item);
      if (this.scene?.columns.itemBatch[item] === batch) this.key[item]! &= ~IN_VIEW;
    }
    // They are found again by their keys.
    this.movedEnd = -Infinity;
    if (this.scene) this.scene.columns.keysOwner = undefined;
  }

  /** Items that came or went: whatever was known under their number is out of date. */
  private takeChangedItems({ drawables, columns }: Scene): void {
    const { log } = drawables;
    for (let at = this.itemsEnd; at < log.end; at++) {
      const first = log.firstAt(at);
      for (let item = first; item < first + log.countAt(at); item++) {
        if (this.position[item] !== NONE) this.unplace(item);
        if ((this.key[item]! & KEY_HIDDEN) !== 0) this.hiddenCount--;
        this.smallCount -= this.small[item]!;
        this.small[item] = 0;
        // A hole is hidden; what came is marked as moved, and is looked at as that.
        const isHole = columns.itemRow[item] === NONE;
        this.key[item] = isHole ? KEY_HIDDEN : 0;
        columns.viewKeys[item] = this.key[item]!;
        if (isHole) this.hiddenCount++;
      }
    }
  }

  private lookAtAll({ columns }: Scene, view: CameraView, cull: boolean): void {
    this.clusters?.forget();
    const { itemCount } = this;
    const { kernels, itemBatch } = columns;
    if (columns.keysOwner === this) {
      // The keys there are those that this list saw last, so the kernel itself tells what changed.
      const mask = this.blendedBatches > 0 ? 0xffffffff : COARSE;
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
    const { key, blends, blendedBatches } = this;
    const { itemBatch } = this.scene!.columns; // set before
    for (let item = from; item < to; item++) {
      const differs = fresh[item]! ^ key[item]!; // item < to, here and below
      if (differs === 0) continue;
      if ((differs & COARSE) === 0 && (blendedBatches === 0 || blends[itemBatch[item]!] === 0)) continue;
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
    const isIn = (key & IN_VIEW) !== 0;
    const order = (batch << 1) | ((key & KEY_MIRRORED) === 0 ? 0 : 1);
    if (this.position[item] !== NONE) {
      if (isIn && this.order[item] === order) {
        if (this.blends[batch] === 1) this.mustSortBlended = true;
        else if (((key ^ before) & COARSE) !== 0) this.disorder++;
        return;
      }
      this.unplace(item);
    }
    if (isIn) this.place(item, order);
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

  private place(item: number, order: number): void {
    this.order[item] = order;
    if (this.blends[order >> 1] === 1) {
      this.position[item] = this.blendedCount;
      this.blended[this.blendedCount++] = item;
      this.mustSortBlended = true;
      return;
    }
    this.opaqueCount++;
    this.disorder++;
    const count = this.runCount[order]!; // an order of a batch, here and below
    if (this.mustSort || count === this.runRoom[order]) {
      this.mustSort = true;
      return;
    }
    this.runCount[order] = count + 1;
    this.put(item, this.runFirst[order]! + count);
    this.mustList = true;
  }

  private unplace(item: number): void {
    const at = this.position[item]!; // placed: the caller's contract
    const order = this.order[item]!;
    this.position[item] = NONE;
    if (this.blends[order >> 1] === 1) {
      const last = this.blended[--this.blendedCount]!;
      this.blended[at] = last;
      if (last !== item) this.position[last] = at;
      this.mustSortBlended = true;
      return;
    }
    this.opaqueCount--;
    this.disorder++;
    this.mustList = true;
    const end = this.runFirst[order]! + --this.runCount[order]!;
    const last = this.itemAt[end]!;
    if (last !== item) this.put(last, at);
  }

  private put(item: number, at: number): void {
    this.position[item] = at;
    this.itemAt[at] = item;
    this.instances[at] = this.slotOf(item);
    if (at < this.changedFrom) this.changedFrom = at;
    if (at >= this.changedTo) this.changedTo = at + 1;
  }

  private slotOf(item: number): number {
    const row = this.scene!.columns.itemRow[item]!; // set before; an item in use
    const { columns, guests } = this.scene!;
    const traits = columns.traits[row]!;
    const slot = (traits & GUEST_SLOT) !== 0 ? guests.slotOf(row) : this.slots ? this.slots.slots[row]! : row; // a row in use
    return (slot | (this.scene!.drawables.itemSlot[item]! << MATERIAL_SHIFT) | (traits << TRAIT_SHIFT)) >>> 0;
  }

  private takeNewSlots({ columns }: Scene): void {
    const { slots } = this;
    if (!slots || this.slotsEnd === slots.log.end) return;
    const { log } = slots;
    if (!log.holds(this.slotsEnd)) this.mustSort = this.mustSortBlended = true;
    else {
      for (let at = this.slotsEnd; at < log.end; at++) {
        const first = log.firstAt(at);
        for (let row = first; row < first + log.countAt(at); row++) {
          for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
            const position = this.position[item]!;
            if (position === NONE) continue;
            if (this.blends[this.order[item]! >> 1] === 1) this.mustSortBlended = true;
            else if (!this.mustSort) this.put(item, position);
          }
        }
      }
    }
    this.slotsEnd = log.end;
  }

  /** Sorts where there is need, and lists the commands where their counts changed. */
  private settle(scene: Scene): boolean {
    if (this.disorder > 64 && this.disorder * 4 > this.opaqueCount) this.mustSort = true;
    if (this.mustSort) {
      this.sortOpaque(scene);
      // They stand behind the opaque ones.
      this.mustSortBlended = true;
    }
    if (this.mustSortBlended) this.sortBlended();
    if (this.mustList) this.listCommands(scene);
    const isListed = this.mustList;
    this.mustList = false;
    this.instanceCount = this.opaqueCount + this.blendedCount;
    this.culledCount = this.itemCount - this.hiddenCount - this.instanceCount;
    return isListed || this.changedFrom < this.changedTo;
  }

  private sortOpaque({ columns, drawables }: Scene): void {
    const { key, high, low, sorted, blends, runFirst, runCount, runRoom } = this;
    const { itemBatch } = columns;
    this.disorder = 0;
    this.mustSort = false;
    this.mustList = true;
    runCount.fill(0);
    let count = 0;
    for (let item = 0; item < this.itemCount; item++) {
      const k = key[item]!; // an item in range, here and below
      if ((k & IN_VIEW) === 0) continue;
      const batch = itemBatch[item]!;
      if (blends[batch] === 1) continue;
      const order = (batch << 1) | ((k & KEY_MIRRORED) === 0 ? 0 : 1);
      this.order[item] = order;
      runCount[order]!++;
      high[item] = order;
      // 11 bits of a float tell depths apart to one part in 8: what hides others first, in a single pass.
      low[item] = (k & KEY_DEPTH) >>> 18;
      sorted[count++] = item;
    }
    this.opaqueCount = count;
    this.sorter.sort(high, low, sorted, count);
    let first = 0;
    for (let order = 0; order < drawables.batches.length * 2; order++) {
      const used = runCount[order]!;
      runFirst[order] = first;
      runRoom[order] = used === 0 ? 0 : used + (used >> 3) + 4;
      first += runRoom[order]!;
    }
    this.opaqueRoom = first;
    this.makePositions(first + this.blendedCount);
    for (let i = 0, at = 0, last = -1; i < count; i++, at++) {
      const item = sorted[i]!;
      const order = high[item]!;
      if (order !== last) at = runFirst[(last = order)]!;
      this.put(item, at);
    }
  }

  /** Back to front; nearest depths told apart to one part in 8192. */
  private sortBlended(): void {
    const { blended, blendedCount, high, low, key, order } = this;
    this.mustSortBlended = false;
    this.mustList = true;
    this.makePositions(this.opaqueRoom + blendedCount);
    for (let i = 0; i < blendedCount; i++) {
      const item = blended[i]!; // i < count, here and below
      high[item] = 0x3fffff - ((key[item]! & KEY_DEPTH) >>> 8);
      low[item] = order[item]!;
    }
    this.sorter.sort(high, low, blended, blendedCount);
    for (let i = 0; i < blendedCount; i++) {
      const item = blended[i]!;
      const at = this.opaqueRoom + i;
      this.put(item, at);
      this.position[item] = i;
    }
  }

  private makePositions(room: number): void {
    this.room = room;
    if (this.instances.length >= room) return;
    // Whole steps of four words, as storage goes.
    const capacity = (room + (room >> 2) + 19) & ~3;
    this.instances = grown(this.instances, capacity);
    this.itemAt = grown(this.itemAt, capacity);
  }

  private listCommands({ drawables }: Scene): void {
    const { runFirst, runCount, blends } = this;
    const { ranked } = drawables;
    this.commands = 0;
    for (let i = 0; i < ranked.length; i++) {
      const batch = ranked[i]!; // i < length
      if (blends[batch] === 1) continue;
      for (let order = batch * 2; order <= batch * 2 + 1; order++) {
        if (runCount[order]! > 0) this.addCommand(order, runFirst[order]!, runCount[order]!);
      }
    }
    this.opaqueCommands = this.commands;
    let last = -1;
    for (let i = 0; i < this.blendedCount; i++) {
      const order = this.order[this.blended[i]!]!; // i < count
      if (order === last) this.commandCount[this.commands - 1]!++;
      else this.addCommand((last = order), this.opaqueRoom + i, 1);
    }
  }

  private addCommand(order: number, first: number, count: number): void {
    const at = this.commands++;
    if (at >= this.commandBatch.length) {
      const capacity = at + (at >> 1) + 16;
      this.commandBatch = grown(this.commandBatch, capacity);
      this.commandFirst = grown(this.commandFirst, capacity);
      this.commandCount = grown(this.commandCount, capacity);
      const mirrored = new Uint8Array(capacity);
      mirrored.set(this.commandMirrored);
      this.commandMirrored = mirrored;
    }
    this.commandBatch[at] = order >> 1;
    this.commandFirst[at] = first;
    this.commandCount[at] = count;
    this.commandMirrored[at] = order & 1;
  }
}

/** Bits of a key that tell opaque items apart: all but the finer ones of the depth. */
const COARSE = 0xfffc0000;

function grown(old: Uint32Array, length: number): Uint32Array<ArrayBuffer> {
  const next = new Uint32Array(length);
  next.set(old);
  return next;
}

/** A depth out of the bits of a key. */
const depthBits = new Uint32Array(1);
const depthOfBits = new Float32Array(depthBits.buffer);
