import { MIRRORED, SHOWN } from '../scene/columns.js';
import type { Scene } from '../scene/scene.js';
import { type Batch, type ItemTable, listItems } from './batches.js';
import type { CameraView } from './camera-view.js';
import { RadixSort } from './radix-sort.js';

/** Floats an instance: the world transform, affine 3x4 by rows. */
export const INSTANCE_FLOATS = 12;

/**
 * What is to be drawn of a scene through a camera: culled, sorted and batched into plain arrays.
 *
 * Command `i` draws `commandCount[i]` instances, from instance `commandFirst[i]` on, of batch
 * `commandBatch[i]`. Commands below `opaqueCommands` are opaque or masked, ordered by batch and then
 * front to back; the others are blended, back to front. Instances of mirrored nodes come in commands
 * of their own (`commandMirrored[i]` is 1), since their faces wind the other way.
 */
export class DrawList {
  batches: readonly Batch[] = [];
  /** Changes whenever `batches` is made anew. */
  batchesVersion = 0;
  /** World transforms in drawing order, `INSTANCE_FLOATS` each; the first `instanceCount` are valid. */
  instances = new Float32Array(0);
  instanceCount = 0;
  commands = 0;
  opaqueCommands = 0;
  commandBatch = new Uint32Array(0);
  commandFirst = new Uint32Array(0);
  commandCount = new Uint32Array(0);
  commandMirrored = new Uint8Array(0);
  /** Items left out because they are outside the view, in the last update. */
  culledCount = 0;

  private scene: Scene | undefined;
  private structure = -1;
  private seenUpdate = -1;
  private items: ItemTable | undefined;
  private high = new Uint32Array(0);
  private low = new Uint32Array(0);
  private opaque = new Uint32Array(0);
  private blended = new Uint32Array(0);
  private opaqueCount = 0;
  private blendedCount = 0;
  /** By batch: 1 when it is blended. */
  private blends = new Uint8Array(0);
  private readonly sorter = new RadixSort();

  /**
   * Brings the list up to date.
   *
   * @param viewChanged whether `view` differs from the last call's
   * @param cull whether to leave out what the view's planes exclude
   * @returns whether anything changed; if not, the arrays are those of the last call
   */
  update(scene: Scene, view: CameraView, viewChanged: boolean, cull = true): boolean {
    scene.update();
    const isNew = scene !== this.scene || scene.structureVersion !== this.structure;
    if (isNew) this.rebuild(scene);
    const modesChanged = this.refreshAlphaModes();
    if (!isNew && !viewChanged && !modesChanged && scene.updateCount === this.seenUpdate) return false;
    this.seenUpdate = scene.updateCount;
    this.select(scene, view, cull);
    this.emit(scene);
    return true;
  }

  /** Row of the node that an instance belongs to. */
  rowAt(instance: number): number {
    const item =
      instance < this.opaqueCount ? this.opaque[instance]! : this.blended[instance - this.opaqueCount]!;
    return this.items!.row[item]!; // the list was updated before
  }

  private rebuild(scene: Scene): void {
    const items = listItems(scene);
    this.scene = scene;
    this.structure = scene.structureVersion;
    this.items = items;
    this.batches = items.batches;
    this.batchesVersion++;
    this.blends = Uint8Array.from(items.batches, ({ alphaMode }) => (alphaMode === 'blend' ? 1 : 0));
    if (this.high.length < items.count) {
      const room = Math.ceil(items.count * 1.25);
      this.high = new Uint32Array(room);
      this.low = new Uint32Array(room);
      this.opaque = new Uint32Array(room);
      this.blended = new Uint32Array(room);
      this.instances = new Float32Array(room * INSTANCE_FLOATS);
      this.commandBatch = new Uint32Array(room);
      this.commandFirst = new Uint32Array(room);
      this.commandCount = new Uint32Array(room);
      this.commandMirrored = new Uint8Array(room);
    }
  }

  private refreshAlphaModes(): boolean {
    let changed = false;
    for (let i = 0; i < this.batches.length; i++) {
      const batch = this.batches[i]!; // i < length
      const mode = batch.material.alphaMode ?? 'opaque';
      if (mode === batch.alphaMode) continue;
      batch.alphaMode = mode;
      this.blends[i] = mode === 'blend' ? 1 : 0;
      changed = true;
    }
    return changed;
  }

  /** Culls, and writes the keys of what remains. */
  private select(scene: Scene, view: CameraView, cull: boolean): void {
    const { count } = this.items!; // rebuilt before
    this.opaqueCount = 0;
    this.blendedCount = 0;
    this.culledCount = 0;
    for (let item = 0; item < count; item += CHUNK) {
      this.selectRange(scene, view, cull, item, Math.min(count, item + CHUNK));
    }
    this.sorter.sort(this.high, this.low, this.opaque, this.opaqueCount);
    this.sorter.sort(this.high, this.low, this.blended, this.blendedCount);
  }

  private selectRange(scene: Scene, view: CameraView, cull: boolean, from: number, to: number): void {
    const { row, batch, localSphere } = this.items!; // rebuilt before
    const { blends, high, low, opaque, blended } = this;
    const { flags, world, stretch } = scene.columns;
    const p = view.planes;
    const f = view.forward;
    const fx = f[0]!;
    const fy = f[1]!;
    const fz = f[2]!;
    const eye = view.position[0]! * fx + view.position[1]! * fy + view.position[2]! * fz;
    let { opaqueCount, blendedCount } = this;
    let culled = 0;
    for (let item = from; item < to; item++) {
      const r = row[item]!;
      const flag = flags[r]!;
      if ((flag & SHOWN) === 0) continue;
      const s = item * 4;
      const lx = localSphere[s]!;
      const ly = localSphere[s + 1]!;
      const lz = localSphere[s + 2]!;
      const m = r * 12;
      const x = world[m]! * lx + world[m + 1]! * ly + world[m + 2]! * lz + world[m + 3]!;
      const y = world[m + 4]! * lx + world[m + 5]! * ly + world[m + 6]! * lz + world[m + 7]!;
      const z = world[m + 8]! * lx + world[m + 9]! * ly + world[m + 10]! * lz + world[m + 11]!;
      const reach = -localSphere[s + 3]! * stretch[r]!;
      if (cull && isOutside(p, x, y, z, reach)) {
        culled++;
        continue;
      }
      const b = batch[item]!;
      const order = (b << 1) | ((flag & MIRRORED) === 0 ? 0 : 1);
      const distance = x * fx + y * fy + z * fz - eye;
      float[0] = distance > 0 ? distance : 0;
      // Bits of a positive float grow with it: 22 tell depths apart to one part in 8192, and 11 to one
      // in 8, which is enough to draw what hides others first and sorts in a single pass.
      const depth = bits[0]!;
      if (blends[b] === 1) {
        high[item] = 0x3fffff - (depth >>> 10);
        low[item] = order;
        blended[blendedCount++] = item;
      } else {
        high[item] = order;
        low[item] = depth >>> 20;
        opaque[opaqueCount++] = item;
      }
    }
    this.opaqueCount = opaqueCount;
    this.blendedCount = blendedCount;
    this.culledCount += culled;
  }

  /** Merges runs of one batch into commands and copies their transforms together. */
  private emit(scene: Scene): void {
    const { opaqueCount, blendedCount } = this;
    this.commands = 0;
    this.emitAll(scene, this.opaque, opaqueCount, 0);
    this.opaqueCommands = this.commands;
    this.emitAll(scene, this.blended, blendedCount, opaqueCount);
    this.instanceCount = opaqueCount + blendedCount;
  }

  private emitAll(scene: Scene, items: Uint32Array, count: number, firstInstance: number): void {
    const { row, batch } = this.items!; // rebuilt before
    const { commandBatch, commandFirst, commandCount, commandMirrored } = this;
    const { flags } = scene.columns;
    let command = this.commands - 1;
    let lastOrder = -1;
    for (let i = 0; i < count; i++) {
      const item = items[i]!;
      const mirrored = (flags[row[item]!]! & MIRRORED) === 0 ? 0 : 1;
      const order = (batch[item]! << 1) | mirrored;
      if (order !== lastOrder) {
        lastOrder = order;
        command++;
        commandBatch[command] = order >>> 1;
        commandFirst[command] = firstInstance + i;
        commandCount[command] = 0;
        commandMirrored[command] = mirrored;
      }
      commandCount[command]!++;
    }
    this.commands = command + 1;
    for (let i = 0; i < count; i += CHUNK) {
      const to = Math.min(count, i + CHUNK);
      copyTransforms(
        this.instances,
        scene.columns.world,
        row,
        items,
        i,
        to,
        (firstInstance + i) * INSTANCE_FLOATS,
      );
    }
  }
}

/**
 * Items a call of the innermost loops. A loop that runs once a frame over everything is compiled
 * while it runs, and engines throw such code away at its end; called often, it stays compiled.
 */
const CHUNK = 1024;

function copyTransforms(
  out: Float32Array,
  world: Float32Array,
  row: Int32Array,
  items: Uint32Array,
  from: number,
  to: number,
  at: number,
): void {
  for (let i = from, o = at; i < to; i++, o += INSTANCE_FLOATS) {
    const w = row[items[i]!]! * 12;
    out[o] = world[w]!;
    out[o + 1] = world[w + 1]!;
    out[o + 2] = world[w + 2]!;
    out[o + 3] = world[w + 3]!;
    out[o + 4] = world[w + 4]!;
    out[o + 5] = world[w + 5]!;
    out[o + 6] = world[w + 6]!;
    out[o + 7] = world[w + 7]!;
    out[o + 8] = world[w + 8]!;
    out[o + 9] = world[w + 9]!;
    out[o + 10] = world[w + 10]!;
    out[o + 11] = world[w + 11]!;
  }
}

/** Whether a sphere lies wholly behind one of the six planes; `reach` is minus its radius. */
function isOutside(p: Float32Array, x: number, y: number, z: number, reach: number): boolean {
  return (
    p[0]! * x + p[1]! * y + p[2]! * z + p[3]! < reach ||
    p[4]! * x + p[5]! * y + p[6]! * z + p[7]! < reach ||
    p[8]! * x + p[9]! * y + p[10]! * z + p[11]! < reach ||
    p[12]! * x + p[13]! * y + p[14]! * z + p[15]! < reach ||
    p[16]! * x + p[17]! * y + p[18]! * z + p[19]! < reach ||
    p[20]! * x + p[21]! * y + p[22]! * z + p[23]! < reach
  );
}

const float = new Float32Array(1);
const bits = new Uint32Array(float.buffer);
