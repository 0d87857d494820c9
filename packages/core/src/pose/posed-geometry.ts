import {
  attributeBounds,
  attributeFloats,
  attributeFrom,
  type Geometry,
  vertexCount,
} from '../geometry/geometry.js';
import { LensError } from '../errors/lens-error.js';
import { affineFromMatrix, affineInvert, affineMultiply } from '../math/affine.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { Pose } from './pose.js';
import { influenceSets } from './bend-geometry.js';

/**
 * The geometry of a node as its skin and its morph targets bend it now, in the node's own space: with the node's world
 * transform it stands where it is drawn. A copy, worked out on the CPU.
 *
 * @param primitive which of the mesh's primitives
 * @throws LensError `scene/no-mesh`, `scene/flat-node` when the node has a scale of zero and a skin
 */
export function posedGeometry(node: SceneNode, primitive = 0): Geometry {
  const found = node.mesh?.primitives[primitive]?.geometry;
  if (!found)
    throw new LensError('scene/no-mesh', `node "${node.name}" has no primitive ${primitive}`, {
      hint: `It has ${node.mesh?.primitives.length ?? 0}.`,
    });
  node.scene.update();
  return node.scene.guests.ask((guest) => guest.shapeOf?.(node, primitive)) ?? found;
}

/** A geometry as a pose bends it. */
export function bentBy(pose: Pose, found: Geometry): Geometry {
  const morphed = morph(found, pose.weights);
  return pose.skin && found.attributes['joints0'] ? skinned(pose.node, morphed, pose) : morphed;
}

/** Each target's displacements by its weight, added (glTF 2.0, 3.7.2.2). */
function morph(geometry: Geometry, weights: Float32Array): Geometry {
  const { targets = [] } = geometry;
  const attributes = { ...geometry.attributes };
  const names = new Set(targets.flatMap(({ attributes: own }) => Object.keys(own)));
  for (const name of names) {
    const from = attributes[name];
    if (!from) continue;
    const values = Float32Array.from(attributeFloats(from));
    targets.forEach(({ attributes: own }, t) => {
      const moves = own[name];
      const weight = weights[t] ?? 0;
      if (!moves || weight === 0) return;
      const by = attributeFloats(moves);
      for (let v = 0; v < from.count; v++)
        for (let k = 0; k < moves.components; k++)
          values[v * from.components + k]! += weight * by[v * moves.components + k]!; // a vertex
    });
    attributes[name] = attributeFrom(values, from.components);
  }
  return { ...geometry, attributes, bounds: attributeBounds(attributes['position']!) }; // every geometry has one
}

function skinned(node: SceneNode, geometry: Geometry, { skin }: Pose): Geometry {
  const { world } = node.scene.columns;
  const toNode = new Float64Array(12);
  const own = Float64Array.from(world.subarray(node.row * 12, node.row * 12 + 12));
  if (!affineInvert(toNode as never, 0, own, 0))
    throw new LensError(
      'scene/flat-node',
      `"${node.name}" has a scale of zero: nothing can be told in its space`,
    );
  const matrices = skin!.joints.map((joint, j) => {
    const bind = new Float64Array(12);
    const given = skin!.inverseBindMatrices?.subarray(j * 16, j * 16 + 16); // of a pose with a skin
    affineFromMatrix(bind as never, 0, given ?? [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
    const inWorld = new Float64Array(12);
    const at = new Float64Array(12);
    affineMultiply(inWorld as never, 0, world, joint.row * 12, bind, 0);
    affineMultiply(at as never, 0, toNode, 0, inWorld, 0);
    return at;
  });
  const sets = influenceSets(geometry);
  const { position, normal, tangent } = geometry.attributes;
  const places = Float32Array.from(attributeFloats(position!)); // every geometry has one
  const normals = normal && Float32Array.from(attributeFloats(normal));
  const tangents = tangent && Float32Array.from(attributeFloats(tangent));
  const m = new Float64Array(12);
  for (let v = 0; v < vertexCount(geometry); v++) {
    m.fill(0);
    for (const { joints, weights } of sets)
      for (let i = 0; i < 4; i++) {
        const matrix = matrices[joints[v * 4 + i]!]; // four a vertex
        const weight = weights[v * 4 + i]!;
        if (matrix && weight !== 0) for (let k = 0; k < 12; k++) m[k]! += weight * matrix[k]!; // twelve
      }
    transform(m, places, v * 3, 1);
    if (normals) turnNormal(m, normals, v * 3);
    if (tangents) turnTangent(m, tangents, v * 4);
  }
  const attributes = { ...geometry.attributes };
  attributes['position'] = attributeFrom(places, 3);
  if (normals) attributes['normal'] = attributeFrom(normals, 3);
  if (tangents) attributes['tangent'] = attributeFrom(tangents, 4);
  return { ...geometry, attributes, bounds: attributeBounds(attributes['position']) };
}

/** @param w 1 for places, 0 for directions */
function transform(m: Float64Array, values: Float32Array, at: number, w: number): void {
  const [x, y, z] = [values[at]!, values[at + 1]!, values[at + 2]!]; // three, here and below
  for (let k = 0; k < 3; k++)
    values[at + k] = m[k * 4]! * x + m[k * 4 + 1]! * y + m[k * 4 + 2]! * z + m[k * 4 + 3]! * w;
}

/** By the inverse transpose: the cofactors, with the sign of the determinant. */
function turnNormal(m: Float64Array, values: Float32Array, at: number): void {
  const column = (k: number): [number, number, number] => [m[k]!, m[4 + k]!, m[8 + k]!];
  const cross = (a: readonly number[], b: readonly number[]): number[] => [
    a[1]! * b[2]! - a[2]! * b[1]!,
    a[2]! * b[0]! - a[0]! * b[2]!,
    a[0]! * b[1]! - a[1]! * b[0]!,
  ];
  const [a, b, c] = [column(0), column(1), column(2)];
  const cofactors = [cross(b, c), cross(c, a), cross(a, b)];
  const sign = a.reduce((sum, v, k) => sum + v * cofactors[0]![k]!, 0) < 0 ? -1 : 1;
  const normal = [0, 1, 2].map(
    (k) => sign * cofactors.reduce((sum, column, i) => sum + column[k]! * values[at + i]!, 0),
  );
  const length = Math.hypot(...normal) || 1;
  for (let k = 0; k < 3; k++) values[at + k] = normal[k]! / length;
}

function turnTangent(m: Float64Array, values: Float32Array, at: number): void {
  transform(m, values, at, 0);
  const length = Math.hypot(values[at]!, values[at + 1]!, values[at + 2]!) || 1;
  for (let k = 0; k < 3; k++) values[at + k]! /= length;
}
