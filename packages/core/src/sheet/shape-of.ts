import type { Geometry } from '../geometry/geometry.js';
import { SHAPE_MAKERS } from '../geometry/shape-makers.js';
import { noteMade } from '../properties/made-of.js';
import type { SheetMesh, SheetPlaced, SheetPrimitive } from './sheet.js';

/** The primitives of a mesh, however it is given. */
export function primitivesOf(mesh: NonNullable<SheetPlaced['mesh']>): readonly SheetPrimitive[] {
  if (Array.isArray(mesh)) return mesh;
  return 'primitives' in mesh ? (mesh as SheetMesh).primitives : [mesh as SheetPrimitive];
}

/** What tells shapes apart. */
export function shapeKey(primitive: SheetPrimitive): string {
  const { material: _material, overlays: _overlays, ...shape } = primitive;
  return JSON.stringify(shape);
}

/** Makes a shape, and notes what it is made of. @throws LensError those of the function that makes it */
export function shapeOf({
  material: _material,
  overlays: _overlays,
  shape,
  ...options
}: SheetPrimitive): Geometry {
  const made = SHAPE_MAKERS[shape]!(options as never); // shapes were looked at
  noteMade(made, shape, options);
  return made;
}
