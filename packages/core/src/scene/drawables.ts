import type { NodeColumns } from '../columns/columns.js';
import { NONE, GUEST_SLOT } from '../columns/flags.js';
import { SpanLog } from '../columns/span-log.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';
import { type MaterialKind, MaterialTable } from '../material/material-table.js';
import { boundsCenter, boundsRadius } from '../math/bounds.js';
import type { Mesh } from './components.js';
import { marginOf } from './margins.js';
import type { SceneNode } from './scene-node.js';

/** What nodes above things say of how they are drawn: things of which it differs are drawn apart. One object for each combination. */
export interface Apart {
  /** The nearest node with effects: what is below it is drawn into a layer. */
  readonly layer: SceneNode | undefined;
  /** Bits of the cameras that see it: see `SceneNode.visibleTo`. */
  readonly visibleTo: number;
  /** Which of the overlays of its primitive it is, from 1; 0: none. It is drawn after those with less. */
  readonly over: number;
}

export const NOT_APART: Apart = { layer: undefined, visibleTo: -1, over: 0 };

/** Everything that is drawn with one geometry and materials that differ in numbers alone: one draw call. */
export interface Batch {
  geometry: Geometry;
  /** One of its materials: what it has besides numbers, all of them have. */
  material: Material;
  /** Its materials, and how many primitives of the scene's nodes each has. */
  materials: Map<Material, number>;
  kind: MaterialKind;
  /** What keeps it apart from others of its geometry and kind of material. */
  apart: Apart;
  /** How many primitives of the scene's nodes belong to it. */
  items: number;
  /** What some of them were drawn in before their material became another kind. */
  before: Batch | undefined;
  /** Of the geometry's box, as its items were measured. */
  boundsVersion: number | undefined;
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
  /** Called when a batch disappears: what it was drawn with may be nobody's any more. */
  readonly onLeave = new Set<() => void>();
  /** By item: the number of its material in its table. */
  itemSlot = new Uint8Array(0);
  private readonly table = new MaterialTable();
  private readonly numbers = new Map<Apart, Map<MaterialKind, Map<Geometry, number>>>();
  /** Items whose geometry may grow, and which version of its bounds was measured. */
  private readonly growing = new Map<number, number>();
  /** Metres around items that shaders move things by; those of meshes that say so themselves stay. */
  private readonly margins = new Map<number, { metres: number; isGiven: boolean }>();
  /** Of what things are apart by, the same for overlays, by their number. */
  private readonly overlays = new WeakMap<Apart, Apart[]>();
  private readonly freeItems: number[] = [];
  private readonly freeBatches: number[] = [];
  private ranking: number[] = [];
  private rankedFor = -1;
  /** Whether some batch is to come before or after others. */
  private isOrdered = false;

  constructor(
    private readonly columns: NodeColumns,
    private readonly apartOf: (row: number) => Apart = () => NOT_APART,
  ) {}

  /**
   * Numbers of the batches in the order in which to draw them: those of one kind of material stand together, since
   * changing a material costs more than changing buffers.
   */
  get ranked(): readonly number[] {
    if (this.rankedFor !== this.batchesVersion) {
      this.rankedFor = this.batchesVersion;
      this.ranking = [...this.numbers.values()].flatMap((kinds) =>
        [...kinds.values()].flatMap((geometries) => [...geometries.values()]),
      );
      this.isOrdered = this.batches.some((batch) => batch && (orderOf(batch) !== 0 || batch.apart.over > 0));
      if (this.isOrdered)
        this.ranking.sort((first, second) => {
          const [a, b] = [this.batches[first]!, this.batches[second]!]; // ranked ones are there
          return orderOf(a) - orderOf(b) || a.apart.over - b.apart.over;
        });
    }
    return this.ranking;
  }

  /** Whether an item's sphere may change without its row being told to have moved: those of what grows, and of what guests give its shape. */
  isRestless(item: number): boolean {
    const row = this.columns.itemRow[item]!; // an item in range
    return this.growing.has(item) || (row !== NONE && (this.columns.traits[row]! & GUEST_SLOT) !== 0);
  }

  /** Adds the primitives of a mesh that a row carries from now on. */
  add(row: number, mesh: Mesh): void {
    const { columns } = this;
    let last = NONE;
    // In the mesh's own order, in which batches are drawn: what lies on another primitive of the mesh is seen.
    for (let i = 0; i < mesh.primitives.length; i++) {
      const { geometry, material = DEFAULT_MATERIAL, overlays } = mesh.primitives[i]!; // i < length
      last = this.addItem(row, last, geometry, material, mesh.boundsMargin, 0);
      for (let over = 0; over < (overlays?.length ?? 0); over++)
        last = this.addItem(row, last, geometry, overlays![over]!, mesh.boundsMargin, over + 1); // over < length
    }
    columns.markDirty(row);
  }

  /** @returns the item, which stands behind the last one of its row */
  private addItem(
    row: number,
    last: number,
    geometry: Geometry,
    material: Material,
    boundsMargin: number | undefined,
    over: number,
  ): number {
    const { columns } = this;
    const item = this.freeItems.pop() ?? columns.itemCount++;
    columns.reserveItems(columns.itemCount);
    columns.itemRow[item] = row;
    this.enter(item, material, geometry, this.apartFor(row, over));
    if (last === NONE) {
      columns.itemNext[item] = columns.firstItem[row]!; // a row in use
      columns.firstItem[row] = item;
    } else {
      columns.itemNext[item] = columns.itemNext[last]!; // an item in use
      columns.itemNext[last] = item;
    }
    this.keepMargin(item, geometry, material, boundsMargin);
    this.measure(item, geometry);
    columns.worldSphere[item * 4 + 3] = Infinity;
    this.log.add(item, 1);
    return item;
  }

  /** What a row's things are apart by, those of an overlay too. */
  private apartFor(row: number, over: number): Apart {
    const plain = this.apartOf(row);
    if (over === 0) return plain;
    const known = this.overlays.get(plain) ?? [];
    this.overlays.set(plain, known);
    return (known[over] ??= { ...plain, over });
  }

  private measure(item: number, { bounds, placement }: Geometry): void {
    const { localSphere } = this.columns;
    // Geometry without a single vertex has no centre: it stays at the node, with no size.
    boundsCenter(bounds, center);
    const isSomewhere = Number.isFinite(center[0]);
    for (let k = 0; k < 3; k++) localSphere[item * 4 + k] = isSomewhere ? center[k]! : 0;
    localSphere[item * 4 + 3] = boundsRadius(bounds) + this.marginAt(item);
    if (placement?.boundsVersion !== undefined) this.growing.set(item, placement.boundsVersion);
  }

  /** Metres around an item, in its own space, into which shaders may move it. */
  marginAt(item: number): number {
    return this.margins.get(item)?.metres ?? 0;
  }

  private keepMargin(item: number, geometry: Geometry, material: Material, given?: number): void {
    const metres = given ?? marginOf(geometry, material);
    if (metres > 0 || given !== undefined) this.margins.set(item, { metres, isGiven: given !== undefined });
    else this.margins.delete(item);
  }

  /** Brings the margins of items up to date whose material may have another shader. @returns whether one changed */
  private widen(items: readonly number[], material: Material): boolean {
    const { columns } = this;
    let isAny = false;
    for (const item of items) {
      const { geometry } = this.batches[columns.itemBatch[item]!]!; // an item in use
      if (this.margins.get(item)?.isGiven || this.marginAt(item) === marginOf(geometry, material)) continue;
      this.keepMargin(item, geometry, material);
      this.measure(item, geometry);
      columns.markDirty(columns.itemRow[item]!);
      isAny = true;
    }
    return isAny;
  }

  /** Takes away what a row carried. */
  remove(row: number): void {
    const { columns } = this;
    for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
      columns.itemRow[item] = NONE;
      this.growing.delete(item);
      this.margins.delete(item);
      columns.worldSphere[item * 4 + 3] = Infinity;
      this.freeItems.push(item);
      this.log.add(item, 1);
      this.leave(item);
    }
    columns.firstItem[row] = NONE;
  }

  /**
   * Looks whether materials were written to such that they can no longer be drawn with those they were drawn with, or can
   * with others now. Draw lists call it, before `Scene.update`.
   *
   * @returns whether that was so: some items are marked as moved then
   */
  regroup(): boolean {
    const { columns, table } = this;
    const changed = table.changed();
    let isAny = this.measureGrown();
    if (this.measureChanged()) isAny = true;
    for (const material of changed) {
      const { kind, slot } = table.placeOf(material)!; // it is in the table
      const items: number[] = [];
      for (let item = 0; item < columns.itemCount; item++) {
        if (columns.itemRow[item] === NONE || this.itemSlot[item] !== slot) continue;
        if (this.batches[columns.itemBatch[item]!]!.kind === kind) items.push(item); // an item in use
      }
      if (this.widen(items, material)) isAny = true;
      const { state } = kind.traits;
      if (!table.replace(material)) {
        // It stays where it is, and may be drawn in another order.
        if (state !== kind.traits.state) this.batchesVersion++;
        continue;
      }
      isAny = true;
      const now = table.placeOf(material)!; // as before
      for (const item of items) {
        const before = this.batches[columns.itemBatch[item]!]!; // as above
        this.recount(item, material, now.kind, now.slot, before.apart);
      }
    }
    return isAny;
  }

  /** To be called when what a row's things are apart by may be another. */
  setApart(row: number): void {
    const { columns } = this;
    for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
      const { apart, kind } = this.batches[columns.itemBatch[item]!]!; // an item in use
      const now = this.apartFor(row, apart.over);
      const slot = this.itemSlot[item]!;
      if (now !== apart) this.recount(item, kind.page.slots[slot]!, kind, slot, now); // as entered
    }
  }

  /** Moves an item from its batch to another. */
  private recount(item: number, material: Material, kind: MaterialKind, slot: number, apart: Apart): void {
    const { columns } = this;
    const before = this.batches[columns.itemBatch[item]!]!; // an item in use
    this.uncount(item, material);
    const batch = this.count(item, material, kind, slot, before.geometry, apart);
    batch.before ??= before;
    this.log.add(item, 1);
    columns.markDirty(columns.itemRow[item]!);
  }

  /** To be called when a row's items stand in another row. */
  moved(row: number): void {
    const { columns } = this;
    for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!)
      this.log.add(item, 1);
  }

  /** Geometries that were written to and have another box now. */
  private measureChanged(): boolean {
    const { batches, columns } = this;
    let isAny = false;
    for (let number = 0; number < batches.length; number++) {
      const batch = batches[number];
      if (!batch || batch.boundsVersion === batch.geometry.boundsVersion) continue;
      batch.boundsVersion = batch.geometry.boundsVersion;
      isAny = true;
      for (let item = 0; item < columns.itemCount; item++) {
        if (columns.itemRow[item] === NONE || columns.itemBatch[item] !== number) continue;
        this.measure(item, batch.geometry);
        columns.markDirty(columns.itemRow[item]!);
      }
    }
    return isAny;
  }

  /** Geometries that left the box they had. */
  private measureGrown(): boolean {
    const { columns, growing } = this;
    let isAny = false;
    for (const [item, version] of growing) {
      const { geometry } = this.batches[columns.itemBatch[item]!]!; // an item in use
      if (geometry.placement?.boundsVersion === version) continue;
      this.measure(item, geometry);
      columns.markDirty(columns.itemRow[item]!);
      isAny = true;
    }
    return isAny;
  }

  private enter(item: number, material: Material, geometry: Geometry, apart: Apart): void {
    const { kind, slot } = this.table.add(material);
    this.count(item, material, kind, slot, geometry, apart);
  }

  private leave(item: number): void {
    const { kind } = this.batches[this.columns.itemBatch[item]!]!; // an item in use
    const material = kind.page.slots[this.itemSlot[item]!]!; // as entered
    this.uncount(item, material);
    this.table.remove(material);
  }

  /** Counts an item to the batch of a geometry and a kind of material. */
  private count(
    item: number,
    material: Material,
    kind: MaterialKind,
    slot: number,
    geometry: Geometry,
    apart: Apart,
  ): Batch {
    let kinds = this.numbers.get(apart);
    if (!kinds) this.numbers.set(apart, (kinds = new Map<MaterialKind, Map<Geometry, number>>()));
    let geometries = kinds.get(kind);
    if (!geometries) kinds.set(kind, (geometries = new Map<Geometry, number>()));
    let number = geometries.get(geometry);
    if (number === undefined) {
      number = this.freeBatches.pop() ?? this.batches.length;
      geometries.set(geometry, number);
      this.batches[number] = {
        geometry,
        material,
        materials: new Map<Material, number>(),
        kind,
        apart,
        items: 0,
        before: undefined,
        boundsVersion: geometry.boundsVersion,
      };
      this.batchesVersion++;
    }
    const batch = this.batches[number]!; // entered by now
    batch.items++;
    batch.materials.set(material, (batch.materials.get(material) ?? 0) + 1);
    this.columns.itemBatch[item] = number;
    if (this.itemSlot.length < this.columns.itemCapacity) {
      const slots = new Uint8Array(this.columns.itemCapacity);
      slots.set(this.itemSlot);
      this.itemSlot = slots;
    }
    this.itemSlot[item] = slot;
    return batch;
  }

  private uncount(item: number, material: Material): void {
    const number = this.columns.itemBatch[item]!; // an item in use
    const batch = this.batches[number]!; // it has this item
    const { apart, geometry, kind, materials } = batch;
    const left = materials.get(material)! - 1; // counted, as the item was
    if (left > 0) materials.set(material, left);
    else materials.delete(material);
    if (--batch.items > 0) {
      if (batch.material === material && left === 0) batch.material = materials.keys().next().value!; // items are left
      return;
    }
    const kinds = this.numbers.get(apart)!; // it was counted there
    const geometries = kinds.get(kind)!; // as before
    geometries.delete(geometry);
    if (geometries.size === 0) kinds.delete(kind);
    if (kinds.size === 0) this.numbers.delete(apart);
    this.batches[number] = undefined;
    this.freeBatches.push(number);
    this.batchesVersion++;
    for (const listener of this.onLeave) listener();
  }
}

/** See `Material.drawOrder`. */
export const orderOf = ({ kind }: Batch): number => kind.traits.state?.drawOrder ?? 0;

const center = [0, 0, 0];
