import type { Geometry } from '../geometry/geometry.js';
import { boundsCenter, boundsRadius } from '../math/bounds.js';
import type { AlphaMode, Material } from '../material/material.js';
import type { Scene } from '../scene/scene.js';

/** Everything that is drawn with one geometry and one material: one draw call. */
export interface Batch {
  geometry: Geometry;
  material: Material;
  /** As of the last update; a material may change it. */
  alphaMode: AlphaMode;
}

/** glTF's default material, for primitives without one. */
export const DEFAULT_MATERIAL: Material = {};

/**
 * The primitives of a scene as items in columns, and the batches they fall into. Made anew when the
 * scene's structure changes, which may allocate; a steady frame only reads it.
 */
export interface ItemTable {
  count: number;
  /** Row of the node, by item. */
  row: Int32Array;
  /** Index into `batches`, by item. */
  batch: Uint32Array;
  /** Local sphere by item: centre xyz and radius, stride 4. */
  localSphere: Float32Array;
  batches: Batch[];
}

/**
 * Lists every primitive. Batches are numbered so that equal materials stand together: first by
 * geometry within a material, since changing a material costs more than changing buffers.
 */
export function listItems(scene: Scene): ItemTable {
  const found: { row: number; geometry: Geometry; material: Material }[] = [];
  for (const [node, mesh] of scene.meshes) {
    for (const { geometry, material } of mesh.primitives) {
      found.push({ row: node.row, geometry, material: material ?? DEFAULT_MATERIAL });
    }
  }
  const materials = new Map<Material, Map<Geometry, number>>();
  for (const { material, geometry } of found) {
    let geometries = materials.get(material);
    if (!geometries) materials.set(material, (geometries = new Map<Geometry, number>()));
    geometries.set(geometry, 0);
  }
  const batches: Batch[] = [];
  for (const [material, geometries] of materials) {
    for (const geometry of geometries.keys()) {
      geometries.set(geometry, batches.length);
      batches.push({ geometry, material, alphaMode: material.alphaMode ?? 'opaque' });
    }
  }
  const table: ItemTable = {
    count: found.length,
    row: new Int32Array(found.length),
    batch: new Uint32Array(found.length),
    localSphere: new Float32Array(found.length * 4),
    batches,
  };
  const center = [0, 0, 0];
  found.forEach(({ row, geometry, material }, i) => {
    table.row[i] = row;
    table.batch[i] = materials.get(material)!.get(geometry)!; // entered above
    const radius = boundsRadius(geometry.bounds);
    // Geometry without a single vertex has no centre: it stays at the node, with no size.
    boundsCenter(geometry.bounds, center);
    table.localSphere.set(Number.isFinite(center[0]) ? center : [0, 0, 0], i * 4);
    table.localSphere[i * 4 + 3] = radius;
  });
  return table;
}
