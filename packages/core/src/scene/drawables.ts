import type { NodeColumns } from '../columns/columns.js';
import { NONE } from '../columns/flags.js';
import { SpanLog } from '../columns/span-log.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';
import { boundsCenter, boundsRadius } from '../math/bounds.js';
import type { Mesh } from './components.js';

/** Everything that is drawn with one geometry and one material: one draw call. */
export interface Batch {
  geometry: Geometry;
  material: Material;
  /** How many primitives of the scene's nodes belong to it. */
  items: number;
}

/** glTF's default material, for primitives without one. */
export const DEFAULT_MATERIAL: Material = {};

/**
 * The primitives of a scene as items, and the batches they fall into. Kept up to date as nodes come and go, at a
 * cost that does not depend on how many others there are; all views of a scene share it.
 */
export class Drawables {
  /** By number; undefined where a batch lost its last item. */
  readonly batches: (Batch | undefined)[] = [];
  /** Changes whenever a batch appears or disappears. */
  batchesVersion = 0;
  /** Items that came, went, or moved to another row. */
  readonly log = new SpanLog();
  private readonly numbers = new Map<Material, Map<Geometry, number>>();
  private readonly freeItems: number[] = [];
  private readonly freeBatches: number[] = [];
  private ranking: number[] = [];
  private rankedFor = -1;

  constructor(private readonly columns: NodeColumns) {}

  /**
   * Numbers of the batches in the order in which to draw them: those of one material stand together, since
   * changing a material costs more than changing buffers.
   */
  get ranked(): readonly number[] {
    if (this.rankedFor !== this.batchesVersion) {
      this.rankedFor = this.batchesVersion;
      this.ranking = [...this.numbers.values()].flatMap((geometries) => [...geometries.values()]);
    }
    return this.ranking;
  }

  /** Adds the primitives of a mesh that a row carries from now on. */
  add(row: number, mesh: Mesh): void {
    const { columns } = this;
    // From the last to the first, so that the row's chain has the mesh's own order.
    for (let i = mesh.primitives.length - 1; i >= 0; i--) {
      const { geometry, material = DEFAULT_MATERIAL } = mesh.primitives[i]!; // i < length
      const item = this.freeItems.pop() ?? columns.itemCount++;
      columns.reserveItems(columns.itemCount);
      columns.itemRow[item] = row;
      columns.itemBatch[item] = this.numberOf(material, geometry);
      columns.itemNext[item] = columns.firstItem[row]!; // a row in use
      columns.firstItem[row] = item;
      // Geometry without a single vertex has no centre: it stays at the node, with no size.
      boundsCenter(geometry.bounds, center);
      const isSomewhere = Number.isFinite(center[0]);
      for (let k = 0; k < 3; k++) columns.localSphere[item * 4 + k] = isSomewhere ? center[k]! : 0;
      columns.localSphere[item * 4 + 3] = boundsRadius(geometry.bounds);
      columns.worldSphere[item * 4 + 3] = Infinity;
      this.log.add(item, 1);
    }
    columns.markDirty(row);
  }

  /** Takes away what a row carried. */
  remove(row: number): void {
    const { columns } = this;
    for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
      columns.itemRow[item] = NONE;
      columns.worldSphere[item * 4 + 3] = Infinity;
      this.freeItems.push(item);
      this.log.add(item, 1);
      const batch = columns.itemBatch[item]!; // an item in use
      if (--this.batches[batch]!.items === 0) this.dropBatch(batch);
    }
    columns.firstItem[row] = NONE;
  }

  /** To be called when a row's items stand in another row. */
  moved(row: number): void {
    const { columns } = this;
    for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!)
      this.log.add(item, 1);
  }

  private numberOf(material: Material, geometry: Geometry): number {
    let geometries = this.numbers.get(material);
    if (!geometries) this.numbers.set(material, (geometries = new Map<Geometry, number>()));
    let number = geometries.get(geometry);
    if (number === undefined) {
      number = this.freeBatches.pop() ?? this.batches.length;
      geometries.set(geometry, number);
      this.batches[number] = { geometry, material, items: 0 };
      this.batchesVersion++;
    }
    this.batches[number]!.items++; // entered by now
    return number;
  }

  private dropBatch(number: number): void {
    const { material, geometry } = this.batches[number]!; // it had an item until now
    const geometries = this.numbers.get(material);
    geometries?.delete(geometry);
    if (geometries?.size === 0) this.numbers.delete(material);
    this.batches[number] = undefined;
    this.freeBatches.push(number);
    this.batchesVersion++;
  }
}

const center = [0, 0, 0];
