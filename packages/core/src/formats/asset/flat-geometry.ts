import { attributeFloats } from '../../geometry/geometry.js';
import { eachTriangle, triangleCount } from '../../geometry/triangles.js';
import { affineDeterminant } from '../../math/affine.js';
import type { FlatPart } from './flatten.js';

/** What of a part other formats hold, in the space of the scene. */
export interface FlatGeometry {
  /** 3 a vertex, metres. */
  positions: Float64Array;
  /** 3 a vertex, unit; 2; 4, linear. Undefined where there are none. */
  normals: Float64Array | undefined;
  coordinates: Float32Array | undefined;
  colors: Float32Array | undefined;
  /** Of triangles; mirrored parts are turned over. */
  triangles: Uint32Array;
}

/** Brings a part into the space of the scene. */
export function flatGeometry({ geometry, matrix: m }: FlatPart): FlatGeometry {
  const { attributes } = geometry;
  const p = attributeFloats(attributes['position']!); // every geometry has some
  const positions = new Float64Array(p.length);
  for (let v = 0; v < p.length; v += 3)
    for (let k = 0; k < 3; k++)
      positions[v + k] =
        m[k * 4]! * p[v]! + m[k * 4 + 1]! * p[v + 1]! + m[k * 4 + 2]! * p[v + 2]! + m[k * 4 + 3]!; // three each
  const isMirrored = affineDeterminant(m) < 0;
  const triangles = new Uint32Array(triangleCount(geometry) * 3);
  let at = 0;
  eachTriangle(geometry, (a, b, c) => {
    triangles[at] = a;
    triangles[at + 1] = isMirrored ? c : b;
    triangles[at + 2] = isMirrored ? b : c;
    at += 3;
  });
  const normal =
    attributes['normal'] && turned(attributeFloats(attributes['normal']), m, isMirrored ? -1 : 1);
  const color = attributes['color0'];
  return {
    positions,
    normals: normal,
    coordinates: attributes['texcoord0'] && attributeFloats(attributes['texcoord0']),
    colors: color && withAlpha(attributeFloats(color), color.components),
    triangles: triangles.subarray(0, at),
  };
}

/** Normals go by the cofactors: the inverse, transposed, but for its length. */
function turned(n: Float32Array, m: Float64Array, sign: number): Float64Array {
  const out = new Float64Array(n.length);
  const cofactor = (r: number, c: number): number => {
    const [r1, r2, c1, c2] = [(r + 1) % 3, (r + 2) % 3, (c + 1) % 3, (c + 2) % 3];
    return m[r1 * 4 + c1]! * m[r2 * 4 + c2]! - m[r1 * 4 + c2]! * m[r2 * 4 + c1]!; // twelve numbers
  };
  const rows = Float64Array.from({ length: 9 }, (_, i) => cofactor(Math.floor(i / 3), i % 3) * sign);
  for (let v = 0; v < n.length; v += 3) {
    let squares = 0;
    for (let k = 0; k < 3; k++) {
      const value = rows[k * 3]! * n[v]! + rows[k * 3 + 1]! * n[v + 1]! + rows[k * 3 + 2]! * n[v + 2]!; // three each
      out[v + k] = value;
      squares += value * value;
    }
    const length = Math.sqrt(squares) || 1;
    for (let k = 0; k < 3; k++) out[v + k]! /= length;
  }
  return out;
}

function withAlpha(colors: Float32Array, components: number): Float32Array {
  if (components === 4) return colors;
  const out = new Float32Array((colors.length / 3) * 4).fill(1);
  for (let v = 0; v < colors.length / 3; v++) out.set(colors.subarray(v * 3, v * 3 + 3), v * 4);
  return out;
}
