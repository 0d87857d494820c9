import { IN_VIEW, KEY_MIRRORED, NONE } from '../columns/flags.js';
import type { Batch } from '../scene/drawables.js';
import type { ItemLook } from '../scene/guests.js';
import type { Scene } from '../scene/scene.js';
import { BatchBlending } from './batch-blending.js';
import { BlendedOrder } from './blended-order.js';
import type { CameraView } from './camera-view.js';
import { DrawCommands } from './draw-commands.js';
import { ItemPositions, type TransformSlots } from './item-positions.js';
import { ItemSorter } from './item-sorter.js';
import { COARSE, KeyWatch } from './key-watch.js';
import { OpaqueRuns } from './opaque-runs.js';

/**
 * What is to be drawn of a scene through a camera: culled, sorted and batched into plain arrays.
 *
 * Command `i` draws `commandCount[i]` instances, from position `commandFirst[i]` of `instances` on, of batch
 * `commandBatch[i]`. Commands below `opaqueCommands` are opaque or masked: by batch, each coarsely front to back.
 * The others are blended, back to front. Instances of mirrored nodes come in commands of their own
 * (`commandMirrored[i]` is 1), since their faces wind the other way.
 *
 * The list is mended, not made anew: a node that moves, comes or goes costs the same among ten others as among
 * a hundred thousand. `KeyWatch` tells what the camera sees of it otherwise than before, `OpaqueRuns` and `BlendedOrder` keep
 * the items in order, `ItemPositions` the words that shaders read.
 */
export class DrawList extends DrawCommands {
  /** By number, as `Drawables.batches`. */
  batches: readonly (Batch | undefined)[] = [];
  /** Instances to be drawn. */
  instanceCount = 0;
  /** Items left out because they are outside the view, or too small. */
  culledCount = 0;

  private readonly blending = new BatchBlending();
  private readonly positions = new ItemPositions();
  private readonly opaque = new OpaqueRuns(this.positions);
  private readonly blended = new BlendedOrder(this.positions);
  private readonly sorter = new ItemSorter();
  private readonly watch = new KeyWatch(this.blending, (item, key, before, batch) => {
    this.takeKey(item, key, before, batch);
  });
  private scene: Scene | undefined;
  private slots: TransformSlots | undefined;
  /** Places in the logs of the scene's items and of the slots. */
  private itemsEnd = 0;
  private slotsEnd = 0;
  private mustList = true;
  private batchesVersion = -1;
  /** Of the tree, where what is blended goes by it. */
  private treeVersion = -1;

  /**
   * @param regroups whether it looks for materials whose kind changed; where a frame has several lists, whoever draws
   *   them does so once: `scene.drawables.regroup()`
   */
  constructor(private readonly regroups = true) {
    super();
  }

  /**
   * By position: the slot (or row) of an instance's transform, with the number of its material in its table in six bits
   * above, and the node's traits in the two highest. Between the batches there is room.
   */
  get instances(): Uint32Array<ArrayBuffer> {
    return this.positions.instances;
  }

  /** Positions in use, gaps included. */
  get room(): number {
    return this.positions.room;
  }

  /** Positions that the last update wrote: from the first to before the second; none when that is not less. */
  get changedFrom(): number {
    return this.positions.changedFrom;
  }

  get changedTo(): number {
    return this.positions.changedTo;
  }

  /** Of the items left out: those that are too small. */
  get smallCount(): number {
    return this.watch.smallCount;
  }

  /** What the camera saw of the scene's clusters, where there are some. */
  get clusters(): ItemLook | undefined {
    return this.watch.clusters;
  }

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
    const { drawables } = scene;
    const { positions, watch } = this;
    positions.changedFrom = Infinity;
    positions.changedTo = 0;
    const isLost = scene !== this.scene || slots !== this.slots || !drawables.log.holds(this.itemsEnd);
    if (isLost) this.forget(scene, slots);
    watch.begin(scene.columns.itemCount);
    this.reserve(scene);
    if (drawables.batchesVersion !== this.batchesVersion) {
      this.batchesVersion = drawables.batchesVersion;
      this.mustList = true;
      // Another may come first.
      if (this.blending.orders) this.blended.mustSort = true;
    }
    // Whatever such a batch placed is in the wrong half of the list: both are made anew out of the keys.
    this.blending.follow(this.batches, this.unplaceBatch);
    if (this.itemsEnd !== drawables.log.end) this.takeChangedItems(scene);
    watch.look(scene, view, isLost, viewChanged, cull);
    this.takeNewSlots(scene);
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
    const { watch, positions } = this;
    if (!watch.leaveOutSmall(pixels, perMetre)) return;
    for (let item = 0; item < watch.itemCount; item++)
      if (positions.position[item] !== NONE) this.unplace(item);
    this.opaque.mustSort = this.blended.mustSort = true;
  }

  /** Row of the node that is drawn at a position. */
  rowAt(position: number): number {
    return this.scene!.columns.itemRow[this.positions.itemAt[position]!]!; // the list was updated before
  }

  /** How far along the camera's way of looking the middle of what is drawn at a position is. Metres. */
  depthAt(position: number, { forward, position: eye }: CameraView): number {
    const { worldSphere } = this.scene!.columns; // the list was updated before
    const at = this.positions.itemAt[position]! * 4;
    let depth = 0;
    for (let k = 0; k < 3; k++) depth += (worldSphere[at + k]! - eye[k]!) * forward[k]!; // three each
    return depth;
  }

  /** Begins anew: nothing is placed, nothing is known of any item. */
  private forget(scene: Scene, slots: TransformSlots | undefined): void {
    this.scene = scene;
    this.slots = slots;
    this.batches = scene.drawables.batches;
    this.itemsEnd = scene.drawables.log.end;
    this.slotsEnd = slots?.log.end ?? 0;
    this.batchesVersion = -1;
    this.watch.forget(scene);
    this.positions.forget(scene, slots);
    this.opaque.forget();
    this.blended.forget();
  }

  private reserve({ columns: { itemCapacity } }: Scene): void {
    if (this.watch.key.length < itemCapacity) {
      this.watch.reserve(itemCapacity);
      this.positions.reserveItems(itemCapacity);
      this.blended.reserveItems(itemCapacity);
      this.sorter.reserve(itemCapacity);
    }
    const batches = this.batches.length;
    if (this.blending.blends.length < batches) {
      const capacity = batches + (batches >> 1) + 8;
      this.blending.reserve(capacity);
      this.opaque.reserveBatches(capacity);
    }
  }

  private readonly unplaceBatch = (batch: number): void => {
    const { watch, positions, scene } = this;
    for (let item = 0; item < watch.itemCount; item++) {
      if (positions.position[item] !== NONE && positions.order[item]! >> 1 === batch) this.unplace(item);
      if (scene?.columns.itemBatch[item] === batch) watch.hide(item);
    }
    // They are found again by their keys.
    watch.lookAgain();
    this.opaque.mustSort = this.blended.mustSort = true;
  };

  /** Items that came or went: whatever was known under their number is out of date. */
  private takeChangedItems({ drawables: { log }, columns }: Scene): void {
    for (let at = this.itemsEnd; at < log.end; at++) {
      const first = log.firstAt(at);
      for (let item = first; item < first + log.countAt(at); item++) {
        if (this.positions.position[item] !== NONE) this.unplace(item);
        this.watch.renew(item, columns.itemRow[item] === NONE, columns.viewKeys);
      }
    }
  }

  private takeKey(item: number, key: number, before: number, batch: number): void {
    const { positions } = this;
    const isIn = (key & IN_VIEW) !== 0;
    const order = (batch << 1) | ((key & KEY_MIRRORED) === 0 ? 0 : 1);
    if (positions.position[item] !== NONE) {
      if (isIn && positions.order[item] === order) {
        if (this.blending.blends[batch] === 1) this.blended.mustSort = true;
        else if (((key ^ before) & COARSE) !== 0) this.opaque.moved();
        return;
      }
      this.unplace(item);
    }
    if (isIn) this.place(item, order);
  }

  private place(item: number, order: number): void {
    this.positions.order[item] = order;
    if (this.blending.blends[order >> 1] === 1) this.blended.place(item);
    else if (this.opaque.place(item, order)) this.mustList = true;
  }

  private unplace(item: number): void {
    const { position, order } = this.positions;
    const at = position[item]!; // placed: the caller's contract
    position[item] = NONE;
    if (this.blending.blends[order[item]! >> 1] === 1) this.blended.unplace(item, at);
    else {
      this.opaque.unplace(item, at, order[item]!);
      this.mustList = true;
    }
  }

  private takeNewSlots({ columns }: Scene): void {
    const { slots, positions, opaque, blended } = this;
    if (!slots || this.slotsEnd === slots.log.end) return;
    const { log } = slots;
    if (!log.holds(this.slotsEnd)) opaque.mustSort = blended.mustSort = true;
    else {
      for (let at = this.slotsEnd; at < log.end; at++) {
        const first = log.firstAt(at);
        for (let row = first; row < first + log.countAt(at); row++) {
          for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
            const position = positions.position[item]!;
            if (position === NONE) continue;
            if (this.blending.blends[positions.order[item]! >> 1] === 1) blended.mustSort = true;
            else if (!opaque.mustSort) positions.put(item, position);
          }
        }
      }
    }
    this.slotsEnd = log.end;
  }

  /** Sorts where there is need, and lists the commands where their counts changed. */
  private settle(scene: Scene): boolean {
    const { opaque, blended, watch, positions, sorter } = this;
    const treeVersion = scene.blendedOrder === 'tree' ? scene.columns.linkVersion : -1;
    if (treeVersion !== this.treeVersion) {
      this.treeVersion = treeVersion;
      blended.mustSort = true;
    }
    if (opaque.mustSort || opaque.isDecayed) {
      opaque.sort(watch, scene.columns.itemBatch, this.blending.blends, sorter, blended.count);
      // They stand behind the opaque ones.
      blended.mustSort = true;
    }
    if (blended.mustSort) {
      const places = scene.blendedOrder === 'tree' ? scene.treeOrder : undefined;
      blended.sort(
        watch.key,
        sorter,
        opaque.room,
        this.blending.orders,
        this.blending.overs,
        places,
        scene.columns.itemRow,
      );
      this.mustList = true;
    }
    if (this.mustList) this.listCommands(scene);
    const isListed = this.mustList;
    this.mustList = false;
    this.instanceCount = opaque.count + blended.count;
    this.culledCount = watch.itemCount - watch.hiddenCount - this.instanceCount;
    return isListed || positions.changedFrom < positions.changedTo;
  }

  private listCommands({ drawables: { ranked } }: Scene): void {
    const { opaque, blended, positions } = this;
    const { blends } = this.blending;
    this.commands = 0;
    for (let i = 0; i < ranked.length; i++) {
      const batch = ranked[i]!; // i < length
      if (blends[batch] === 1) continue;
      for (let order = batch * 2; order <= batch * 2 + 1; order++) {
        if (opaque.used[order]! > 0) this.addCommand(order, opaque.first[order]!, opaque.used[order]!);
      }
    }
    this.opaqueCommands = this.commands;
    let last = -1;
    for (let i = 0; i < blended.count; i++) {
      const order = positions.order[blended.items[i]!]!; // i < count
      if (order === last) this.commandCount[this.commands - 1]!++;
      else this.addCommand((last = order), opaque.room + i, 1);
    }
  }
}
