import { box, disc, plane } from './flat-shapes.js';
import type { Geometry } from './geometry.js';
import { convexHull, polyhedron } from './polyhedra.js';
import { capsule, cone, cylinder, icosphere, sphere, torus } from './round-shapes.js';
import { lathe, tube } from './swept-shapes.js';

/** What makes shapes, by their names. */
export const SHAPE_MAKERS: Readonly<Record<string, (options: never) => Geometry>> = {
  plane,
  disc,
  box,
  sphere,
  icosphere,
  cylinder,
  cone,
  capsule,
  torus,
  lathe,
  tube,
  polyhedron,
  convexHull,
};
