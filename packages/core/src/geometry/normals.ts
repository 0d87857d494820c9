import {
  type Attribute,
  attributeFloats,
  attributeFrom,
  COMPONENT_BYTES,
  drawCount,
  type Geometry,
  packIndices,
  vertexCount,
} from './geometry.js';
import { eachTriangle } from './triangles.js';

/**
 * Adds smooth normals: at each vertex the sum of its faces' normals, weighted by area and by the
 * angle of the face at that vertex, so that neither slivers nor the way a quad was split tilt it.
 * Vertices at one position share their normal up to `creaseAngle` between the faces.
 *
 * @param creaseAngle radians; default pi: everything is smooth
 */
export function withSmoothNormals(geometry: Geometry, creaseAngle = Math.PI): Geometry {
  const positions = attributeFloats(geometry.attributes['position']!); // every geometry has one
  const corners: number[] = [];
  eachTriangle(geometry, (a, b, c) => corners.push(a, b, c));
  // Faces around each place, with their weight at it.
  const placeOf = weld(positions);
  const around = new Map<number, number[]>();
  const faceNormal = new Float64Array(corners.length);
  const weight = new Float64Array(corners.length);
  for (let f = 0; f < corners.length; f += 3) {
    const [n, area] = triangleNormal(positions, corners[f]!, corners[f + 1]!, corners[f + 2]!);
    faceNormal.set(n, f);
    for (let k = 0; k < 3; k++) {
      const vertex = corners[f + k]!;
      weight[f + k] =
        area * cornerAngle(positions, vertex, corners[f + ((k + 1) % 3)]!, corners[f + ((k + 2) % 3)]!);
      const place = placeOf[vertex]!;
      const list = around.get(place);
      if (list) list.push(f + k);
      else around.set(place, [f + k]);
    }
  }
  const least = Math.cos(creaseAngle) - 1e-9;
  const normals = new Float32Array(positions.length);
  const done = new Uint8Array(positions.length / 3);
  for (let corner = 0; corner < corners.length; corner++) {
    const vertex = corners[corner]!;
    if (done[vertex]) continue;
    done[vertex] = 1;
    const own = corner - (corner % 3);
    let x = 0;
    let y = 0;
    let z = 0;
    for (const other of around.get(placeOf[vertex]!)!) {
      const face = other - (other % 3);
      const alike =
        faceNormal[own]! * faceNormal[face]! +
        faceNormal[own + 1]! * faceNormal[face + 1]! +
        faceNormal[own + 2]! * faceNormal[face + 2]!;
      if (alike < least) continue;
      x += faceNormal[face]! * weight[other]!;
      y += faceNormal[face + 1]! * weight[other]!;
      z += faceNormal[face + 2]! * weight[other]!;
    }
    const n = Math.hypot(x, y, z);
    if (n > 0) normals.set([x / n, y / n, z / n], vertex * 3);
    else normals.set([0, 1, 0], vertex * 3);
  }
  return { ...geometry, attributes: { ...geometry.attributes, normal: attributeFrom(normals, 3) } };
}

/**
 * Gives every triangle its own three vertices and its face's normal. Every attribute is copied
 * corner by corner; strips and fans become plain triangles.
 */
export function withFlatNormals(geometry: Geometry): Geometry {
  const corners: number[] = [];
  eachTriangle(geometry, (a, b, c) => corners.push(a, b, c));
  const gather = (attribute: Attribute): Attribute => {
    const size = COMPONENT_BYTES[attribute.componentType] * attribute.components;
    const stride = Math.ceil(size / 4) * 4;
    const bytes = new Uint8Array(corners.length * stride);
    corners.forEach((vertex, i) => {
      const from = attribute.byteOffset + vertex * attribute.byteStride;
      bytes.set(attribute.bytes.subarray(from, from + size), i * stride);
    });
    return { ...attribute, bytes, byteOffset: 0, byteStride: stride, count: corners.length };
  };
  const gatherAll = (from: Record<string, Attribute>): Record<string, Attribute> =>
    Object.fromEntries(Object.entries(from).map(([name, attribute]) => [name, gather(attribute)]));
  const attributes = gatherAll(geometry.attributes);
  const positions = attributeFloats(attributes['position']!);
  const normals = new Float32Array(corners.length * 3);
  for (let f = 0; f < corners.length; f += 3) {
    const [n] = triangleNormal(positions, f, f + 1, f + 2);
    for (let k = 0; k < 3; k++) normals.set(n, (f + k) * 3);
  }
  attributes['normal'] = attributeFrom(normals, 3);
  const { indices: _, mode: __, targets, ...rest } = geometry;
  const flat: Geometry = { ...rest, attributes };
  if (targets)
    flat.targets = targets.map((target) => ({ ...target, attributes: gatherAll(target.attributes) }));
  return flat;
}

/** Unit normal (counter-clockwise) and area; a triangle without area has normal 0 and area 0. */
function triangleNormal(
  p: Float32Array,
  a: number,
  b: number,
  c: number,
): [[number, number, number], number] {
  const [ax, ay, az] = [p[a * 3]!, p[a * 3 + 1]!, p[a * 3 + 2]!];
  const [ux, uy, uz] = [p[b * 3]! - ax, p[b * 3 + 1]! - ay, p[b * 3 + 2]! - az];
  const [vx, vy, vz] = [p[c * 3]! - ax, p[c * 3 + 1]! - ay, p[c * 3 + 2]! - az];
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const n = Math.hypot(x, y, z);
  return n > 0 ? [[x / n, y / n, z / n], n / 2] : [[0, 0, 0], 0];
}

/** Angle at `a` between the ways to `b` and to `c`. */
function cornerAngle(p: Float32Array, a: number, b: number, c: number): number {
  let dot = 0;
  let uu = 0;
  let vv = 0;
  for (let k = 0; k < 3; k++) {
    const u = p[b * 3 + k]! - p[a * 3 + k]!;
    const v = p[c * 3 + k]! - p[a * 3 + k]!;
    dot += u * v;
    uu += u * u;
    vv += v * v;
  }
  const n = Math.sqrt(uu * vv);
  return n > 0 ? Math.acos(Math.max(-1, Math.min(1, dot / n))) : 0;
}

/** For each vertex the first vertex at the very same position. */
function weld(positions: Float32Array): Uint32Array {
  const first = new Map<string, number>();
  const out = new Uint32Array(positions.length / 3);
  for (let i = 0; i < out.length; i++) {
    // + 0 makes one of the two zeros of floating point.
    const key = `${positions[i * 3]! + 0},${positions[i * 3 + 1]! + 0},${positions[i * 3 + 2]! + 0}`;
    const found = first.get(key);
    if (found === undefined) first.set(key, i);
    out[i] = found ?? i;
  }
  return out;
}

/** Plain triangles with indices, whatever the mode was. */
export function asTriangles(geometry: Geometry): Geometry {
  if ((geometry.mode ?? 'triangles') === 'triangles') return geometry;
  const indices: number[] = [];
  if (drawCount(geometry) > 0) eachTriangle(geometry, (a, b, c) => indices.push(a, b, c));
  const { mode: _, ...rest } = geometry;
  return { ...rest, indices: packIndices(indices, vertexCount(geometry)) };
}
