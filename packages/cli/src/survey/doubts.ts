import { attributeFloats, eachTriangle, type Geometry, type Warning } from '@umber-lens/core/engine';
import { doubtMotion } from './motion-doubts.js';
import { doubtPictures } from './picture-doubts.js';
import { doubtSurfaces } from './surface-doubts.js';
import type { OpenedModel } from '../open/open-model.js';

/** Side of a texture, in pixels, beyond which some devices refuse it. */
const LARGEST_TEXTURE = 4096;

/** What is right by the format but seldom meant: told by `umber check` beyond the reader's own warnings. */
export async function doubtsOf(model: OpenedModel): Promise<Warning[]> {
  const { asset, images } = model;
  const doubts: Warning[] = [];
  const tell = (code: string, message: string, pointer: string): void =>
    void doubts.push({ code: `check/${code}`, message, where: { pointer } });
  asset.nodes.forEach((node, i) => {
    if (node.scale?.includes(0))
      tell('flat-scale', `node "${node.name ?? i}" has a scale of zero`, `/nodes/${i}/scale`);
    const scale = node.scale ?? [1, 1, 1];
    if (node.mesh && scale[0]! * scale[1]! * scale[2]! < 0)
      tell(
        'mirrored',
        `node "${node.name ?? i}" is mirrored: its triangles wind the other way, and it is a draw of its own`,
        `/nodes/${i}/scale`,
      );
  });
  asset.meshes.forEach((mesh, m) => {
    mesh.primitives.forEach(({ geometry, material }, p) => {
      const pointer = `/meshes/${m}/primitives/${p}`;
      const { attributes, mode = 'triangles' } = geometry;
      const isLit = mode.startsWith('triangle') && !material?.unlit;
      if (isLit && !attributes['normal'])
        tell('no-normals', 'a lit primitive has no normals and is drawn with flat faces', pointer);
      if (material?.normalTexture && !attributes['tangent'])
        tell('no-tangents', 'a normal map without tangents costs time in the shader', pointer);
      for (const [code, text] of doubtNormals(geometry)) tell(code, text, pointer);
      const empty = emptyTriangles(geometry);
      if (empty > 0)
        tell('empty-triangles', `${empty} triangle${empty === 1 ? ' has' : 's have'} no area`, pointer);
    });
  });
  doubtSurfaces(asset, tell);
  doubtMotion(asset, tell);
  await doubtPictures(model, tell);
  asset.images.forEach((image, i) => {
    const { width, height } = images.get(image)!; // every image was looked at on opening
    if (Math.max(width, height) > LARGEST_TEXTURE)
      tell(
        'large-image',
        `an image of ${width} x ${height} is larger than some devices take`,
        `/images/${i}`,
      );
  });
  for (const [key, list] of [
    ['nodes', asset.nodes],
    ['materials', asset.materials],
    ['cameras', asset.cameras],
    ['animations', asset.animations],
  ] as const) {
    const seen = new Set<string>();
    list.forEach(({ name }, i) => {
      if (name === undefined || name === '') return;
      if (seen.has(name))
        tell(
          'same-name',
          `"${name}" is the name of an earlier one too, so it cannot be found by it`,
          `/${key}/${i}/name`,
        );
      seen.add(name);
    });
  }
  return doubts;
}

/** Normals that are not of length 1, and triangles that wind against them. */
function doubtNormals(geometry: Geometry): [code: string, text: string][] {
  const { normal, position } = geometry.attributes;
  if (
    !normal ||
    !position ||
    normal.components !== 3 ||
    !(geometry.mode ?? 'triangles').startsWith('triangle')
  )
    return [];
  const normals = attributeFloats(normal);
  const places = attributeFloats(position);
  const found: [string, string][] = [];
  let wrong = 0;
  for (let v = 0; v < normal.count; v++) {
    const length = Math.hypot(normals[v * 3]!, normals[v * 3 + 1]!, normals[v * 3 + 2]!); // three a vertex
    // Packed ones are rounded.
    if (Math.abs(length - 1) > 0.02) wrong++;
  }
  if (wrong > 0) found.push(['normal-length', `${wrong} of ${normal.count} normals are not of length 1`]);
  let [all, against] = [0, 0];
  eachTriangle(geometry, (a, b, c) => {
    const side = (to: number, k: number): number => places[to * 3 + k]! - places[a * 3 + k]!; // vertices in range
    let along = 0;
    for (let k = 0; k < 3; k++) {
      const [i, j] = [(k + 1) % 3, (k + 2) % 3];
      const n = side(b, i) * side(c, j) - side(b, j) * side(c, i);
      along += n * (normals[a * 3 + k]! + normals[b * 3 + k]! + normals[c * 3 + k]!);
    }
    if (along === 0) return;
    all++;
    if (along < 0) against++;
  });
  if (all >= 4 && against > 0.5 * all)
    found.push([
      'winding',
      `${against} of ${all} triangles wind against their normals: they are seen from inside`,
    ]);
  return found;
}

function emptyTriangles(geometry: Geometry): number {
  if (!geometry.attributes['position']?.count) return 0;
  const p = attributeFloats(geometry.attributes['position']);
  let empty = 0;
  eachTriangle(geometry, (a, b, c) => {
    const same = (i: number, j: number): boolean =>
      i === j || [0, 1, 2].every((k) => p[i * 3 + k] === p[j * 3 + k]);
    if (same(a, b) || same(b, c) || same(c, a)) empty++;
  });
  return empty;
}
