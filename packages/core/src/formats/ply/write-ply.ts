import type { ModelAsset } from '../asset/asset.js';
import { flatGeometry } from '../asset/flat-geometry.js';
import { flatParts } from '../asset/flatten.js';
import { shortNumber, TextParts, encodeText } from '../bytes/text-parts.js';
import { srgbFromLinear } from '../../math/srgb.js';

export interface WritePlyOptions {
  /** Default `binary`: little endian. */
  kind?: 'binary' | 'ascii';
}

const NO_SHADES: readonly number[] = [];

/**
 * Writes all triangles that an asset's scene shows, in the scene's own space, as one PLY: places, and normals, coordinates and
 * colours (8 bits, sRGB) where any part has some. Materials become no colours; points and lines are left out, unless there is
 * nothing else: then their vertices are a cloud.
 */
export function writePly(asset: ModelAsset, { kind = 'binary' }: WritePlyOptions = {}): Uint8Array {
  const parts = flatParts(asset).map(flatGeometry);
  const faces = parts.reduce((sum, { triangles }) => sum + triangles.length / 3, 0);
  const used = faces === 0 ? parts : parts.filter(({ triangles }) => triangles.length > 0);
  const vertices = used.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const has = (key: 'normals' | 'coordinates' | 'colors'): boolean =>
    used.some((part) => part[key] !== undefined);
  const [hasNormals, hasCoordinates, hasColors] = [has('normals'), has('coordinates'), has('colors')];
  const header = [
    'ply',
    `format ${kind === 'ascii' ? 'ascii' : 'binary_little_endian'} 1.0`,
    'comment written by Umber Lens',
    `element vertex ${vertices}`,
    ...['x', 'y', 'z', ...(hasNormals ? ['nx', 'ny', 'nz'] : []), ...(hasCoordinates ? ['u', 'v'] : [])].map(
      (name) => `property float ${name}`,
    ),
    ...(hasColors ? ['red', 'green', 'blue', 'alpha'] : []).map((name) => `property uchar ${name}`),
    ...(faces > 0 ? [`element face ${faces}`, 'property list uchar uint vertex_indices'] : []),
    'end_header',
  ];
  const floats = 3 + (hasNormals ? 3 : 0) + (hasCoordinates ? 2 : 0);
  const stride = floats * 4 + (hasColors ? 4 : 0);
  const values = new Float64Array(floats);
  const text = new TextParts();
  header.forEach((line) => text.line(line));
  const body = new Uint8Array(kind === 'ascii' ? 0 : vertices * stride + faces * 13);
  const view = new DataView(body.buffer);
  let at = 0;
  for (const { positions, normals, coordinates, colors } of used) {
    for (let v = 0; v < positions.length / 3; v++) {
      for (let k = 0; k < 3; k++) {
        values[k] = positions[v * 3 + k]!; // three each
        if (hasNormals) values[3 + k] = normals?.[v * 3 + k] ?? 0;
      }
      if (hasCoordinates) {
        values[floats - 2] = coordinates?.[v * 2] ?? 0;
        values[floats - 1] = 1 - (coordinates?.[v * 2 + 1] ?? 1);
      }
      const shades = hasColors
        ? [0, 1, 2, 3].map((k) => {
            const value = colors?.[v * 4 + k] ?? 1;
            return Math.round(255 * Math.min(1, Math.max(0, k === 3 ? value : srgbFromLinear(value))));
          })
        : NO_SHADES;
      if (kind === 'ascii') {
        text.line([...Array.from(values, shortNumber), ...shades].join(' '));
        continue;
      }
      for (let k = 0; k < floats; k++) view.setFloat32(at + k * 4, values[k]!, true); // as many
      if (hasColors) body.set(shades, at + floats * 4);
      at += stride;
    }
  }
  let first = 0;
  for (const { positions, triangles } of used) {
    for (let i = 0; i < triangles.length; i += 3) {
      const [a, b, c] = [first + triangles[i]!, first + triangles[i + 1]!, first + triangles[i + 2]!]; // three each
      if (kind === 'ascii') {
        text.line(`3 ${a} ${b} ${c}`);
        continue;
      }
      body[at] = 3;
      view.setUint32(at + 1, a, true);
      view.setUint32(at + 5, b, true);
      view.setUint32(at + 9, c, true);
      at += 13;
    }
    first += positions.length / 3;
  }
  if (kind === 'ascii') return text.bytes();
  const head = encodeText(`${header.join('\n')}\n`);
  const whole = new Uint8Array(head.length + body.length);
  whole.set(head);
  whole.set(body, head.length);
  return whole;
}
