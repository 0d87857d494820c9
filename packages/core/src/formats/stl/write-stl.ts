import type { ModelAsset } from '../asset/asset.js';
import { flatGeometry } from '../asset/flat-geometry.js';
import { flatParts } from '../asset/flatten.js';
import { shortNumber, TextParts } from '../bytes/text-parts.js';

export interface WriteStlOptions {
  /** Default `binary`. */
  kind?: 'binary' | 'ascii';
}

/** Writes all triangles that an asset's scene shows, in the scene's own space, as STL; ASCII has a solid for each node. */
export function writeStl(asset: ModelAsset, { kind = 'binary' }: WriteStlOptions = {}): Uint8Array {
  const parts = flatParts(asset).map((part, i) => ({
    name: part.name ?? `solid ${i + 1}`,
    flat: flatGeometry(part),
  }));
  const faces = parts.reduce((sum, { flat }) => sum + flat.triangles.length / 3, 0);
  const text = new TextParts();
  const body = new Uint8Array(kind === 'ascii' ? 0 : 84 + faces * 50);
  const view = new DataView(body.buffer);
  if (kind === 'binary') {
    // Not "solid", which would be taken for ASCII by some.
    body.set([...'written by Umber Lens'].map((letter) => letter.charCodeAt(0)));
    view.setUint32(80, faces, true);
  }
  let at = 84;
  for (const { name, flat } of parts) {
    const { positions, triangles } = flat;
    if (triangles.length === 0) continue;
    if (kind === 'ascii') text.line(`solid ${name}`);
    for (let i = 0; i < triangles.length; i += 3) {
      const corners = [0, 1, 2].map((k) =>
        positions.subarray(triangles[i + k]! * 3, triangles[i + k]! * 3 + 3),
      ); // three each
      const normal = normalOf(corners as [Float64Array, Float64Array, Float64Array]);
      if (kind === 'ascii') {
        text.line(` facet normal ${normal.map(shortNumber).join(' ')}`);
        text.line('  outer loop');
        for (const corner of corners) text.line(`   vertex ${[...corner].map(shortNumber).join(' ')}`);
        text.line('  endloop');
        text.line(' endfacet');
        continue;
      }
      [...normal, ...corners.flatMap((corner) => [...corner])].forEach((value, k) =>
        view.setFloat32(at + k * 4, value, true),
      );
      at += 50;
    }
    if (kind === 'ascii') text.line(`endsolid ${name}`);
  }
  return kind === 'ascii' ? text.bytes() : body;
}

function normalOf([a, b, c]: [Float64Array, Float64Array, Float64Array]): number[] {
  const [u, v] = [b, c].map((to) => [0, 1, 2].map((k) => to[k]! - a[k]!)) as [number[], number[]]; // three each
  const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
  const length = Math.hypot(...n) || 1;
  return n.map((part) => part / length);
}
