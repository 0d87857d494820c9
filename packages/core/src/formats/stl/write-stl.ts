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
  /** Normal and corners. */
  const facet = new Float64Array(12);
  let at = 84;
  for (const { name, flat } of parts) {
    const { positions, triangles } = flat;
    if (triangles.length === 0) continue;
    if (kind === 'ascii') text.line(`solid ${name}`);
    for (let i = 0; i < triangles.length; i += 3) {
      for (let k = 0; k < 3; k++) {
        const from = triangles[i + k]! * 3; // three each, here and below
        for (let axis = 0; axis < 3; axis++) facet[3 + k * 3 + axis] = positions[from + axis]!;
      }
      setNormal(facet);
      if (kind === 'ascii') {
        const three = (first: number): string =>
          Array.from(facet.subarray(first, first + 3), shortNumber).join(' ');
        text.line(` facet normal ${three(0)}`);
        text.line('  outer loop');
        for (let k = 3; k < 12; k += 3) text.line(`   vertex ${three(k)}`);
        text.line('  endloop');
        text.line(' endfacet');
        continue;
      }
      for (let k = 0; k < 12; k++) view.setFloat32(at + k * 4, facet[k]!, true);
      at += 50;
    }
    if (kind === 'ascii') text.line(`endsolid ${name}`);
  }
  return kind === 'ascii' ? text.bytes() : body;
}

/** The normal of three corners, in front of them. */
function setNormal(facet: Float64Array): void {
  const side = (corner: number, axis: number): number => facet[corner * 3 + axis]! - facet[3 + axis]!; // twelve
  const [ux, uy, uz] = [side(2, 0), side(2, 1), side(2, 2)];
  const [vx, vy, vz] = [side(3, 0), side(3, 1), side(3, 2)];
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const length = Math.sqrt(x * x + y * y + z * z) || 1;
  facet[0] = x / length;
  facet[1] = y / length;
  facet[2] = z / length;
}
