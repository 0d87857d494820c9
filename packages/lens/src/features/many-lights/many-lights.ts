import type { CameraView, Scene, SceneNode } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBuffer } from '../../gpu/device.js';
import { type MoreOfLights, writeLight } from '../../batches/frame-uniforms.js';
import {
  BINDING_CLUSTERS,
  BINDING_CLUSTER_ITEMS,
  BINDING_LIGHT_TABLE,
  CELLS_ACROSS,
  CELLS_DEEP,
  CELLS_DOWN,
  CLUSTERS_CELLS,
  CLUSTERS_EVERYWHERE,
  CLUSTERS_NEAR,
  CLUSTERS_SLICES,
  LIGHT_SOURCE_FLOATS,
  LIGHT_SOURCE_SHADOW,
} from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { WANTS } from '../wants.js';

const MANY = flag({ override: 'useClusters' });

const CELLS = CELLS_ACROSS * CELLS_DOWN * CELLS_DEEP;
/** Words of the structure `Clusters` before its cells. */
const HEAD = CLUSTERS_CELLS;
const LIGHT_FLOATS = LIGHT_SOURCE_FLOATS;

/**
 * Which lights reach which part of the view, for scenes with more lights than a shader should ask one by one. The view is
 * divided by the picture's width and height, and by depth in equal ratios (Olsson, Billeter and Assarsson, "Clustered
 * Deferred and Forward Shading", 2012); lights with a range are entered into the cells that their sphere touches, the
 * others stand first and are asked everywhere.
 */
export class ManyLights implements Feature {
  /** Whether lights are looked up by cells, in any number. */
  takesAllLights = false;
  entries: readonly BindGroupEntry[];
  private table = new Float32Array(LIGHT_FLOATS);
  private tableWords = new Uint32Array(this.table.buffer);
  private readonly cells = new Uint32Array(HEAD + CELLS * 2);
  private readonly cellFloats = new Float32Array(this.cells.buffer);
  private items = new Uint32Array(1024);
  private boxes = new Int16Array(0);
  private cellBuffer: DeviceBuffer;
  private itemBuffer: DeviceBuffer;
  private tableBuffer: DeviceBuffer;

  private readonly device: Device;
  private readonly more: MoreOfLights;

  constructor(host: FeatureHost) {
    const { device } = host;
    this.device = device;
    this.more = host;
    this.cellBuffer = device.createBuffer({
      label: 'light cells',
      usage: 'storage',
      size: this.cells.byteLength,
    });
    this.itemBuffer = device.createBuffer({
      label: 'light items',
      usage: 'storage',
      size: this.items.byteLength,
    });
    this.tableBuffer = device.createBuffer({
      label: 'light table',
      usage: 'storage',
      size: this.table.byteLength,
    });
    this.entries = this.makeEntries();
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.manyLights(facts) ? [MANY] : [];
  }

  prepare({ scene, lights, state }: FrameAt, full: FullPipelines): void {
    this.takesAllLights = full.has(MANY);
    if (this.takesAllLights) this.enterAll(scene, lights, state.view);
  }

  /** Enters the lights that are shown. To be called outside a pass. */
  private enterAll(scene: Scene, nodes: readonly SceneNode[], view: CameraView): void {
    const shown = nodes.filter((node) => node.light && node.isShown);
    const isEverywhere = ({ light }: SceneNode): boolean =>
      light!.type === 'directional' || light!.range === undefined; // filtered
    const ordered = [...shown.filter(isEverywhere), ...shown.filter((node) => !isEverywhere(node))];
    const everywhere = ordered.findIndex((node) => !isEverywhere(node));
    this.writeTable(scene, ordered);
    const first = everywhere < 0 ? ordered.length : everywhere;
    const near = 0.1;
    const far = Math.max(
      10,
      ...this.depths(ordered, view).map((depth, i) => depth + this.rangeOf(ordered[i]!)),
    ); // as many
    this.cells[CLUSTERS_EVERYWHERE] = first;
    this.cellFloats[CLUSTERS_NEAR] = near;
    const slices = CELLS_DEEP / Math.log(far / near);
    this.cellFloats[CLUSTERS_SLICES] = slices;
    this.enter(ordered, first, view, near, Math.fround(slices));
    this.device.writeBuffer(this.cellBuffer, 0, this.cells);
  }

  private writeTable(scene: Scene, nodes: readonly SceneNode[]): void {
    const { device, more } = this;
    if (this.table.length < nodes.length * LIGHT_FLOATS) {
      this.table = new Float32Array(nodes.length * LIGHT_FLOATS);
      this.tableWords = new Uint32Array(this.table.buffer);
      this.tableBuffer.dispose();
      this.tableBuffer = device.createBuffer({
        label: 'light table',
        usage: 'storage',
        size: this.table.byteLength,
      });
      this.entries = this.makeEntries();
    }
    const { world } = scene.columns;
    nodes.forEach((node, i) => {
      writeLight(this.table, i * LIGHT_FLOATS, node.light!, world, node.row * 12); // filtered by the caller
      this.tableWords[i * LIGHT_FLOATS + LIGHT_SOURCE_SHADOW] = 0;
      more.writeMore(this.table, this.tableWords, i * LIGHT_FLOATS, node);
    });
    device.writeBuffer(this.tableBuffer, 0, this.table);
  }

  private depths(nodes: readonly SceneNode[], { position, forward }: CameraView): number[] {
    return nodes.map((_, i) => {
      let depth = 0;
      for (let k = 0; k < 3; k++) depth += (this.table[i * LIGHT_FLOATS + k]! - position[k]!) * forward[k]!; // written before
      return depth;
    });
  }

  private rangeOf({ light }: SceneNode): number {
    return light?.range ?? 0;
  }

  /** Counts the lights of each cell, gives each its place among the items, and writes their numbers there. */
  private enter(
    nodes: readonly SceneNode[],
    first: number,
    view: CameraView,
    near: number,
    slices: number,
  ): void {
    const { cells } = this;
    cells.fill(0, HEAD);
    if (this.boxes.length < nodes.length * 6) this.boxes = new Int16Array(nodes.length * 6);
    for (let i = first; i < nodes.length; i++) {
      this.writeBox(i, this.rangeOf(nodes[i]!), view, near, slices); // i < length
      this.eachCell(i, (cell) => cells[HEAD + cell * 2 + 1]!++);
    }
    let sum = 0;
    for (let cell = 0; cell < CELLS; cell++) {
      cells[HEAD + cell * 2] = sum;
      sum += cells[HEAD + cell * 2 + 1]!; // within the cells
      cells[HEAD + cell * 2 + 1] = 0;
    }
    if (sum > this.items.length) {
      this.items = new Uint32Array(sum + (sum >> 1));
      this.itemBuffer.dispose();
      this.itemBuffer = this.device.createBuffer({
        label: 'light items',
        usage: 'storage',
        size: this.items.byteLength,
      });
      this.entries = this.makeEntries();
    }
    for (let i = first; i < nodes.length; i++)
      this.eachCell(i, (cell) => (this.items[cells[HEAD + cell * 2]! + cells[HEAD + cell * 2 + 1]!++] = i));
    if (sum > 0) this.device.writeBuffer(this.itemBuffer, 0, this.items, 0, sum);
  }

  /** Cells that a light's sphere may touch: first and last across, down and deep; none when the first is -1. */
  private writeBox(
    i: number,
    range: number,
    { view, projection, position, forward }: CameraView,
    near: number,
    slices: number,
  ): void {
    const { table, boxes } = this;
    const at = i * LIGHT_FLOATS;
    const relative = [0, 1, 2].map((k) => table[at + k]! - position[k]!); // written before
    const along = (k: number): number =>
      view[k]! * relative[0]! + view[4 + k]! * relative[1]! + view[8 + k]! * relative[2]!;
    const depth = forward[0]! * relative[0]! + forward[1]! * relative[1]! + forward[2]! * relative[2]!;
    const isParallel = projection[15] === 1;
    const [nearest, farthest] = [depth - range, depth + range];
    if (farthest < 0) return void boxes.fill(-1, i * 6, i * 6 + 6);
    const slice = (d: number): number =>
      Math.min(CELLS_DEEP - 1, Math.max(0, Math.floor(Math.log(Math.max(d, near) / near) * slices)));
    [0, 1].forEach((k) => {
      const cells = k === 0 ? CELLS_ACROSS : CELLS_DOWN;
      const scale = projection[k * 5]!;
      // Where it is a part of a larger picture.
      const shift = projection[12 + k]! - projection[8 + k]!;
      let [low, high] = [-1, 1];
      if (isParallel || nearest > near) {
        const over = isParallel ? [1] : [nearest, farthest];
        const ends = over.flatMap((d) => [
          ((along(k) - range) * scale) / d,
          ((along(k) + range) * scale) / d,
        ]);
        [low, high] = [Math.min(...ends) + shift, Math.max(...ends) + shift];
      }
      const cell = (x: number): number => Math.floor((x * 0.5 + 0.5) * cells);
      if (high < -1 || low > 1) boxes.fill(-1, i * 6, i * 6 + 6);
      else if (boxes[i * 6] !== -1 || k === 0) {
        boxes[i * 6 + k * 2] = Math.max(0, cell(low));
        boxes[i * 6 + k * 2 + 1] = Math.min(cells - 1, cell(high));
      }
    });
    boxes[i * 6 + 4] = slice(nearest);
    boxes[i * 6 + 5] = slice(farthest);
  }

  private eachCell(i: number, visit: (cell: number) => void): void {
    const { boxes } = this;
    const at = i * 6;
    if (boxes[at] === -1) return;
    for (let z = boxes[at + 4]!; z <= boxes[at + 5]!; z++)
      for (let y = boxes[at + 2]!; y <= boxes[at + 3]!; y++)
        for (let x = boxes[at]!; x <= boxes[at + 1]!; x++) visit((z * CELLS_DOWN + y) * CELLS_ACROSS + x); // six numbers each
  }

  private makeEntries(): BindGroupEntry[] {
    return [
      { binding: BINDING_CLUSTERS, buffer: this.cellBuffer },
      { binding: BINDING_CLUSTER_ITEMS, buffer: this.itemBuffer },
      { binding: BINDING_LIGHT_TABLE, buffer: this.tableBuffer },
    ];
  }
}
