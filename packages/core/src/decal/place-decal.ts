import { LensError } from '../errors/lens-error.js';
import { attributeFloats, type Geometry, geometryFrom, placedBy } from '../geometry/geometry.js';
import { withSmoothNormals } from '../geometry/normals.js';
import { eachTriangle } from '../geometry/triangles.js';
import type { Material } from '../material/material.js';
import { affineDeterminant, affineInvert, affineMultiply, affinePoint } from '../math/affine.js';
import { facing } from '../math/rotation.js';
import { findInBox } from '../pick/find-in-region.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { clipToBox, type Corner } from './clip-to-box.js';

type Vec3 = readonly [number, number, number];

export interface DecalOptions {
  /** Where it is, in the world: the middle of what is painted. */
  position: Vec3;
  /** The way that it is thrown, in the world. Default straight down. */
  direction?: Vec3;
  /** Width and height, metres. */
  size: readonly [width: number, height: number];
  /** Metres before and behind `position` together, within which surfaces are painted. Default the larger side. */
  depth?: number;
  /** Turns it about its direction, radians. Default 0. */
  rotation?: number;
  /** What it looks like: texture coordinates 0,0 are its upper left. As a rule with `alphaMode` `blend` or `mask`. */
  material: Material;
  /** Surfaces that face away from it by more than this angle are left out, radians. Default 1.3. */
  maxAngle?: number;
  /** Metres that it lies above what it is painted on, so that the two do not meet. Default 0.002. */
  offset?: number;
  /** What is painted. Default: all meshes that stand there, but for those that bend and swarms. */
  targets?: readonly SceneNode[];
  /** Of the nodes that are made. Default `decal`. */
  name?: string;
}

/**
 * Paints onto the surfaces in a box: their triangles are cut to it and become meshes of their own, each a child of the node
 * that it lies on, so that it moves along. Being ordinary meshes, decals are drawn by every path and shader, on both GPU
 * interfaces, are picked, and go into files. What they were cut out of is not followed when it changes its shape.
 *
 *     placeDecal(scene, { position: hit.point, direction: into, size: [0.4, 0.4], material: tar });
 *
 * @returns the nodes that were made: none where nothing is met
 * @throws LensError `decal/size`, `decal/direction`
 */
export function placeDecal(scene: Scene, options: DecalOptions): SceneNode[] {
  const { material, name = 'decal', maxAngle = 1.3, offset = 0.002 } = options;
  const toWorld = boxOf(options);
  const toBox = new Float64Array(12);
  affineInvert(toBox, 0, toWorld, 0);
  scene.update();
  const made: SceneNode[] = [];
  for (const node of options.targets ?? findInBox(scene, boundsOf(toWorld), {})) {
    const { mesh } = node;
    if (!mesh || node.row < 0 || scene.guests.shapes(node)) continue;
    const world = scene.columns.world.subarray(node.row * 12, node.row * 12 + 12);
    const cutter = new Cutter(toBox, toWorld, world, Math.cos(maxAngle), offset);
    const geometries = mesh.primitives.flatMap(({ geometry }) => {
      if (placedBy(geometry) !== 'node' || geometry.targets) return [];
      return cutter.cut(geometry, name) ?? [];
    });
    if (geometries.length === 0) continue;
    made.push(
      scene.createNode({
        name,
        parent: node,
        mesh: { primitives: geometries.map((geometry) => ({ geometry, material })) },
      }),
    );
  }
  return made;
}

/** The box's own space to the world, affine 3x4: -1..1 on each axis, its picture seen along -Z, y up. */
function boxOf({
  position,
  direction = [0, -1, 0],
  size,
  depth = Math.max(...size),
  rotation = 0,
}: DecalOptions): Float64Array {
  if (![...size, depth].every((metres) => metres > 0 && metres < Infinity)) {
    throw new LensError('decal/size', `a decal cannot be ${size.join(' x ')} and ${depth} deep`, {
      hint: 'Give metres above 0.',
    });
  }
  if (!(Math.hypot(...direction) > 0)) {
    throw new LensError('decal/direction', 'a decal cannot be thrown nowhere', {
      hint: 'Give `direction`: the normal of the surface, turned about.',
    });
  }
  const [x, y, z, w] = facing(direction);
  const half = [size[0] / 2, size[1] / 2, depth / 2];
  // The columns of the rotation, the first two turned about the third.
  const columns = [
    [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)],
    [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
    [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)],
  ];
  const [right, up, back] = columns as [number[], number[], number[]];
  const [sin, cos] = [Math.sin(rotation), Math.cos(rotation)];
  const out = new Float64Array(12);
  for (let k = 0; k < 3; k++) {
    const [r, u] = [right[k]!, up[k]!]; // three numbers each, here and below
    out[k * 4] = (r * cos + u * sin) * half[0]!;
    out[k * 4 + 1] = (u * cos - r * sin) * half[1]!;
    out[k * 4 + 2] = back[k]! * half[2]!;
    out[k * 4 + 3] = position[k]!;
  }
  return out;
}

function boundsOf(box: Float64Array): { min: [number, number, number]; max: [number, number, number] } {
  const reach = [0, 1, 2].map(
    (k) => Math.abs(box[k * 4]!) + Math.abs(box[k * 4 + 1]!) + Math.abs(box[k * 4 + 2]!),
  );
  const at = (sign: number) =>
    [0, 1, 2].map((k) => box[k * 4 + 3]! + sign * reach[k]!) as [number, number, number];
  return { min: at(-1), max: at(1) };
}

/** Skinned things move away from under what is painted. */
/** Cuts geometries of one node to the box. */
class Cutter {
  /** From the node's space to the box's. */
  private readonly between = new Float64Array(12);
  /** Unit vector of the world against which the picture is thrown. */
  private readonly back: number[];
  private readonly lift: number;
  private readonly mirrors: boolean;

  /**
   * @param world the node's transform, affine 3x4
   * @param least cosine between a face's normal and the way back
   * @param lift metres of the world
   */
  constructor(
    toBox: Float64Array,
    toWorld: Float64Array,
    private readonly world: Float32Array,
    private readonly least: number,
    lift: number,
  ) {
    affineMultiply(this.between, 0, toBox, 0, world, 0);
    const length = Math.hypot(toWorld[2]!, toWorld[6]!, toWorld[10]!); // twelve numbers
    this.back = [2, 6, 10].map((k) => toWorld[k]! / length);
    this.mirrors = affineDeterminant(world) < 0;
    this.lift = lift / (Math.cbrt(Math.abs(affineDeterminant(world))) || 1);
  }

  /** What of a geometry lies in the box, as a geometry of its own in the same space; undefined where nothing does. */
  cut(geometry: Geometry, name: string): Geometry | undefined {
    const source = geometry.attributes['normal'] ? geometry : withSmoothNormals(geometry, 0.7);
    const positions = attributeFloats(source.attributes['position']!); // every geometry has some
    const normals = attributeFloats(source.attributes['normal']!); // it had, or was given some
    const position: number[] = [];
    const normal: number[] = [];
    const texcoord0: number[] = [];
    const indices: number[] = [];
    eachTriangle(source, (a, b, c) => {
      const corners = [a, b, c].map((v) => this.corner(positions, normals, v));
      if (!this.isTurned(corners)) return;
      const polygon = clipToBox(corners);
      if (polygon.length < 3) return;
      const first = position.length / 3;
      for (const [x, y, , px, py, pz, nx, ny, nz] of polygon) {
        const length = Math.hypot(nx, ny, nz) || 1;
        const [ux, uy, uz] = [nx / length, ny / length, nz / length];
        position.push(px + ux * this.lift, py + uy * this.lift, pz + uz * this.lift);
        normal.push(ux, uy, uz);
        texcoord0.push((x + 1) / 2, (1 - y) / 2);
      }
      for (let k = 2; k < polygon.length; k++) indices.push(first, first + k - 1, first + k);
    });
    return indices.length > 0 ? geometryFrom({ position, normal, texcoord0 }, indices, { name }) : undefined;
  }

  private corner(positions: Float32Array, normals: Float32Array, vertex: number): Corner {
    const at = vertex * 3;
    const [px, py, pz] = [positions[at]!, positions[at + 1]!, positions[at + 2]!]; // three a vertex, here and below
    const place = new Float64Array(3);
    affinePoint(place, this.between, 0, px, py, pz);
    return [place[0]!, place[1]!, place[2]!, px, py, pz, normals[at]!, normals[at + 1]!, normals[at + 2]!];
  }

  /** Whether a face looks towards where the picture comes from. */
  private isTurned(corners: readonly Corner[]): boolean {
    const { back, world: m } = this;
    const [a, b, c] = corners.map(([, , , x, y, z]) =>
      [0, 4, 8].map((r) => m[r]! * x + m[r + 1]! * y + m[r + 2]! * z),
    ) as [number[], number[], number[]];
    const [u, v] = [b, c].map((to) => to.map((value, k) => value - a[k]!)) as [number[], number[]];
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    const length = Math.hypot(...n);
    if (length === 0) return false;
    const cosine = n.reduce((sum, value, k) => sum + value * back[k]!, 0) / length;
    return (this.mirrors ? -cosine : cosine) >= this.least;
  }
}
