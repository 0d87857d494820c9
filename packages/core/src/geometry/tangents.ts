import { LensError } from '../errors/lens-error.js';
import { attributeFloats, attributeFrom, type Geometry } from './geometry.js';
import { eachTriangle } from './triangles.js';

/**
 * Adds tangents for normal maps: xyz along growing u, made orthogonal to the normal, and in w the
 * handedness, so that bitangent = cross(normal, tangent) * w (glTF 2.0, 3.7.2.1). Summed over the
 * triangles of each vertex, weighted by area (Lengyel, "Foundations of Game Engine Development" 2,
 * 7.5).
 *
 * @throws LensError `geometry/no-attribute` when `normal` or `texcoord0` is missing.
 */
export function withTangents(geometry: Geometry): Geometry {
  const { position, normal, texcoord0 } = geometry.attributes;
  if (!position || !normal || !texcoord0) {
    const missing = Object.entries({ position, normal, texcoord0 }).filter(([, value]) => !value)[0]?.[0];
    throw new LensError('geometry/no-attribute', `tangents need "${missing}", which this geometry lacks`, {
      hint: `It has: ${Object.keys(geometry.attributes).join(', ')}.`,
    });
  }
  const p = attributeFloats(position);
  const n = attributeFloats(normal);
  const t = attributeFloats(texcoord0);
  const along = new Float64Array(p.length);
  const across = new Float64Array(p.length);
  eachTriangle(geometry, (a, b, c) => {
    const s1 = t[b * 2]! - t[a * 2]!;
    const s2 = t[c * 2]! - t[a * 2]!;
    const t1 = t[b * 2 + 1]! - t[a * 2 + 1]!;
    const t2 = t[c * 2 + 1]! - t[a * 2 + 1]!;
    // The sign of the texture's area turns the sums; its size would weight small texture areas up.
    const turn = s1 * t2 - s2 * t1 < 0 ? -1 : 1;
    for (let k = 0; k < 3; k++) {
      const e1 = p[b * 3 + k]! - p[a * 3 + k]!;
      const e2 = p[c * 3 + k]! - p[a * 3 + k]!;
      const u = (e1 * t2 - e2 * t1) * turn;
      const v = (e2 * s1 - e1 * s2) * turn;
      for (const vertex of [a, b, c]) {
        along[vertex * 3 + k]! += u;
        across[vertex * 3 + k]! += v;
      }
    }
  });
  const tangents = new Float32Array((p.length / 3) * 4);
  for (let i = 0; i < p.length / 3; i++) {
    const [nx, ny, nz] = [n[i * 3]!, n[i * 3 + 1]!, n[i * 3 + 2]!];
    let [x, y, z] = [along[i * 3]!, along[i * 3 + 1]!, along[i * 3 + 2]!];
    const lean = x * nx + y * ny + z * nz;
    [x, y, z] = [x - lean * nx, y - lean * ny, z - lean * nz];
    let size = Math.hypot(x, y, z);
    if (!(size > 1e-20)) {
      // No direction of texture here: any tangent in the surface is as right as another.
      [x, y, z] = Math.abs(nx) < 0.9 ? [0, nz, -ny] : [-nz, 0, nx];
      size = Math.hypot(x, y, z) || 1;
    }
    [x, y, z] = [x / size, y / size, z / size];
    const [bx, by, bz] = [ny * z - nz * y, nz * x - nx * z, nx * y - ny * x];
    // Green of a normal map points up in the picture, and v grows downwards: the bitangent is -v.
    const w = bx * across[i * 3]! + by * across[i * 3 + 1]! + bz * across[i * 3 + 2]! > 0 ? -1 : 1;
    tangents.set([x, y, z, w], i * 4);
  }
  return { ...geometry, attributes: { ...geometry.attributes, tangent: attributeFrom(tangents, 4) } };
}
