import { affineLargestScale } from '../math/affine.js';
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
  private sphere = new Float32Array(0);
  private sphereAt = new Uint32Array(0);
  private high = new Uint32Array(0);
  private low = new Uint32Array(0);
  private opaque = new Uint32Array(0);
  private blended = new Uint32Array(0);
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
    const [opaque, blended] = this.select(scene, view, cull);
    this.emit(scene, opaque, blended);
    return true;
  }

  private rebuild(scene: Scene): void {
    const items = listItems(scene);
    this.scene = scene;
    this.structure = scene.structureVersion;
    this.items = items;
    this.batches = items.batches;
    this.batchesVersion++;
    if (this.high.length < items.count) {
      const room = Math.ceil(items.count * 1.25);
      this.sphere = new Float32Array(room * 4);
      this.sphereAt = new Uint32Array(room);
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
    this.sphereAt.fill(0);
  }

  private refreshAlphaModes(): boolean {
    let changed = false;
    for (let i = 0; i < this.batches.length; i++) {
      const batch = this.batches[i]!; // i < length
      const mode = batch.material.alphaMode ?? 'opaque';
      if (mode === batch.alphaMode) continue;
      batch.alphaMode = mode;
      changed = true;
    }
    return changed;
  }

  /** Culls, and writes the keys of what remains. */
  private select(scene: Scene, view: CameraView, cull: boolean): [number, number] {
    const { row, batch, localSphere, count } = this.items!; // rebuilt before
    const { batches, sphere, sphereAt, high, low, opaque, blended } = this;
    const { flags, world, movedAt } = scene.columns;
    const p = view.planes;
    const [fx, fy, fz] = [view.forward[0]!, view.forward[1]!, view.forward[2]!];
    const eye = view.position[0]! * fx + view.position[1]! * fy + view.position[2]! * fz;
    let opaqueCount = 0;
    let blendedCount = 0;
    let culled = 0;
    // Plane by plane in locals: reads from a typed array in the loop would cost a check each.
    const [ax, ay, az, aw] = [p[0]!, p[1]!, p[2]!, p[3]!];
    const [bx, by, bz, bw] = [p[4]!, p[5]!, p[6]!, p[7]!];
    const [cx, cy, cz, cw] = [p[8]!, p[9]!, p[10]!, p[11]!];
    const [dx, dy, dz, dw] = [p[12]!, p[13]!, p[14]!, p[15]!];
    const [ex, ey, ez, ew] = [p[16]!, p[17]!, p[18]!, p[19]!];
    const [gx, gy, gz, gw] = [p[20]!, p[21]!, p[22]!, p[23]!];
    for (let item = 0; item < count; item++) {
      const r = row[item]!;
      const flag = flags[r]!;
      if ((flag & SHOWN) === 0) continue;
      const s = item * 4;
      if (sphereAt[item] !== movedAt[r]) {
        sphereAt[item] = movedAt[r]!;
        writeSphere(sphere, localSphere, s, world, r * 12);
      }
      const x = sphere[s]!;
      const y = sphere[s + 1]!;
      const z = sphere[s + 2]!;
      const reach = -sphere[s + 3]!;
      if (
        cull &&
        (ax * x + ay * y + az * z + aw < reach ||
          bx * x + by * y + bz * z + bw < reach ||
          cx * x + cy * y + cz * z + cw < reach ||
          dx * x + dy * y + dz * z + dw < reach ||
          ex * x + ey * y + ez * z + ew < reach ||
          gx * x + gy * y + gz * z + gw < reach)
      ) {
        culled++;
        continue;
      }
      const b = batch[item]!;
      const order = (b << 1) | ((flag & MIRRORED) === 0 ? 0 : 1);
      const distance = x * fx + y * fy + z * fz - eye;
      float[0] = distance > 0 ? distance : 0;
      // Bits of a positive float grow with it; 22 of them tell depths apart to one part in 8192.
      const depth = bits[0]! >>> 10;
      if (batches[b]!.alphaMode === 'blend') {
        high[item] = 0x3fffff - depth;
        low[item] = order;
        blended[blendedCount++] = item;
      } else {
        high[item] = order;
        low[item] = depth;
        opaque[opaqueCount++] = item;
      }
    }
    this.culledCount = culled;
    this.sorter.sort(high, low, opaque, opaqueCount);
    this.sorter.sort(high, low, blended, blendedCount);
    return [opaqueCount, blendedCount];
  }

  /** Merges runs of one batch into commands and copies their transforms together. */
  private emit(scene: Scene, opaqueCount: number, blendedCount: number): void {
    const { row, batch } = this.items!; // rebuilt before
    const { opaque, blended, instances, commandBatch, commandFirst, commandCount, commandMirrored } = this;
    const { flags, world } = scene.columns;
    const total = opaqueCount + blendedCount;
    let command = -1;
    let lastBatch = -1;
    let lastMirrored = -1;
    this.opaqueCommands = 0;
    for (let i = 0, o = 0; i < total; i++, o += INSTANCE_FLOATS) {
      const item = i < opaqueCount ? opaque[i]! : blended[i - opaqueCount]!;
      const r = row[item]!;
      const b = batch[item]!;
      const mirrored = (flags[r]! & MIRRORED) === 0 ? 0 : 1;
      if (b !== lastBatch || mirrored !== lastMirrored || i === opaqueCount) {
        if (i === opaqueCount) this.opaqueCommands = command + 1;
        command++;
        commandBatch[command] = b;
        commandFirst[command] = i;
        commandCount[command] = 0;
        commandMirrored[command] = mirrored;
        lastBatch = b;
        lastMirrored = mirrored;
      }
      commandCount[command]!++;
      const w = r * 12;
      instances[o] = world[w]!;
      instances[o + 1] = world[w + 1]!;
      instances[o + 2] = world[w + 2]!;
      instances[o + 3] = world[w + 3]!;
      instances[o + 4] = world[w + 4]!;
      instances[o + 5] = world[w + 5]!;
      instances[o + 6] = world[w + 6]!;
      instances[o + 7] = world[w + 7]!;
      instances[o + 8] = world[w + 8]!;
      instances[o + 9] = world[w + 9]!;
      instances[o + 10] = world[w + 10]!;
      instances[o + 11] = world[w + 11]!;
    }
    if (blendedCount === 0) this.opaqueCommands = command + 1;
    this.instanceCount = total;
    this.commands = command + 1;
  }
}

const float = new Float32Array(1);
const bits = new Uint32Array(float.buffer);

function writeSphere(out: Float32Array, local: Float32Array, s: number, world: Float32Array, w: number): void {
  const x = local[s]!;
  const y = local[s + 1]!;
  const z = local[s + 2]!;
  out[s] = world[w]! * x + world[w + 1]! * y + world[w + 2]! * z + world[w + 3]!;
  out[s + 1] = world[w + 4]! * x + world[w + 5]! * y + world[w + 6]! * z + world[w + 7]!;
  out[s + 2] = world[w + 8]! * x + world[w + 9]! * y + world[w + 10]! * z + world[w + 11]!;
  out[s + 3] = local[s + 3]! * affineLargestScale(world, w);
}
