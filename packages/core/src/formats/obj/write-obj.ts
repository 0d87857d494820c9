import type { Warning } from '../../errors/lens-error.js';
import { encodedOf, type Material, type TextureUse } from '../../material/material.js';
import type { ModelAsset } from '../asset/asset.js';
import { flatGeometry } from '../asset/flat-geometry.js';
import { type FlatPart, flatParts } from '../asset/flatten.js';
import { encodeText, shortNumber, TextParts } from '../bytes/text-parts.js';
import { srgbFromLinear } from '../../math/srgb.js';

/** Files by name, and what they could not hold. */
export interface WrittenModel {
  files: Map<string, Uint8Array>;
  warnings: Warning[];
}

/**
 * Writes an asset as OBJ with an MTL file and its pictures: all that its scene shows, in the scene's own space, an object for
 * each node. Materials are written by the physically based words (`Pr`, `Pm` ...) and by those of old (`Ns`, `illum`);
 * whatever has no place there is told: joints, clips, cameras, lights.
 *
 * @param name of the files, without an ending
 */
export function writeObj(asset: ModelAsset, name: string): WrittenModel {
  const warnings: Warning[] = [];
  const text = new TextParts();
  const materials = new Map<Material, string>();
  const files = new Map<string, Uint8Array>();
  text.line('# written by Umber Lens');
  text.line(`mtllib ${name}.mtl`);
  let [places, coordinates, normals] = [1, 1, 1];
  let last: string | undefined;
  flatParts(asset).forEach((part, i) => {
    const object = part.name ?? `object ${i + 1}`;
    if (object !== last) text.line(`o ${object}`);
    last = object;
    const flat = flatGeometry(part);
    if (part.material) text.line(`usemtl ${nameOf(part.material, materials)}`);
    const { positions, colors } = flat;
    for (let v = 0; v < positions.length / 3; v++) {
      const color = colors
        ? ` ${[0, 1, 2].map((k) => shortNumber(srgbFromLinear(colors[v * 4 + k]!))).join(' ')}` // four a vertex
        : '';
      text.line(`v ${numbers(positions, v * 3)}${color}`);
    }
    const { coordinates: uv, normals: n } = flat;
    if (uv)
      for (let v = 0; v < uv.length; v += 2)
        text.line(`vt ${shortNumber(uv[v]!)} ${shortNumber(1 - uv[v + 1]!)}`); // two each
    if (n) for (let v = 0; v < n.length; v += 3) text.line(`vn ${numbers(n, v)}`);
    const corner = (v: number): string =>
      `${places + v}${uv || n ? `/${uv ? coordinates + v : ''}` : ''}${n ? `/${normals + v}` : ''}`;
    writeElements(part, flat.triangles, corner, text);
    places += positions.length / 3;
    coordinates += (uv?.length ?? 0) / 2;
    normals += (n?.length ?? 0) / 3;
  });
  files.set(`${name}.obj`, text.bytes());
  files.set(`${name}.mtl`, mtlOf(materials, files, warnings));
  const lost = (
    [
      ['animations', 'clips'],
      ['skins', 'joints'],
      ['cameras', 'cameras'],
      ['lights', 'lights'],
      ['variants', 'variants'],
    ] as const
  ).filter(([key]) => asset[key].length > 0);
  for (const [, what] of lost)
    warnings.push({ code: 'obj/dropped', message: `OBJ has no ${what}: they are left out`, where: {} });
  return { files, warnings };
}

function writeElements(
  { geometry }: FlatPart,
  triangles: Uint32Array,
  corner: (v: number) => string,
  text: TextParts,
): void {
  const { indices, mode = 'triangles' } = geometry;
  if (mode.startsWith('triangle')) {
    for (let i = 0; i < triangles.length; i += 3)
      text.line(`f ${corner(triangles[i]!)} ${corner(triangles[i + 1]!)} ${corner(triangles[i + 2]!)}`); // three each
    return;
  }
  const count = indices?.length ?? geometry.attributes['position']!.count; // every geometry has some
  const place = (i: number): string => corner(indices?.[i] ?? i).replace(/\/.*/, '');
  if (mode === 'points') for (let i = 0; i < count; i++) text.line(`p ${place(i)}`);
  else if (mode === 'lines')
    for (let i = 0; i + 1 < count; i += 2) text.line(`l ${place(i)} ${place(i + 1)}`);
  else
    text.line(
      `l ${Array.from({ length: mode === 'line-loop' ? count + 1 : count }, (_, i) => place(i % count)).join(' ')}`,
    );
}

/** Three of them. */
const numbers = (values: Float64Array, at: number): string =>
  `${shortNumber(values[at]!)} ${shortNumber(values[at + 1]!)} ${shortNumber(values[at + 2]!)}`;

/** A name of its own for each material: two of one name would be one. */
function nameOf(material: Material, names: Map<Material, string>): string {
  let found = names.get(material);
  if (found === undefined) {
    const wanted = (material.name ?? 'material').trim().replaceAll(/\s+/g, ' ') || 'material';
    const taken = new Set(names.values());
    found = wanted;
    for (let i = 2; taken.has(found); i++) found = `${wanted} ${i}`;
    names.set(material, found);
  }
  return found;
}

function mtlOf(
  materials: ReadonlyMap<Material, string>,
  files: Map<string, Uint8Array>,
  warnings: Warning[],
): Uint8Array {
  const lines: string[] = ['# written by Umber Lens'];
  const drop = (name: string, what: string): void =>
    void warnings.push({
      code: 'obj/dropped',
      message: `the ${what} of material "${name}" has no place in MTL`,
      where: {},
    });
  for (const [material, name] of materials) {
    const {
      baseColorFactor: [r, g, b, a] = [1, 1, 1, 1],
      metallicFactor = 1,
      roughnessFactor = 1,
    } = material;
    const { emissiveFactor = [0, 0, 0], emissiveStrength = 1 } = material;
    lines.push('', `newmtl ${name}`, `Kd ${[r, g, b].map(shortNumber).join(' ')}`);
    lines.push(`Pr ${shortNumber(roughnessFactor)}`, `Pm ${shortNumber(metallicFactor)}`);
    lines.push(
      `Ns ${shortNumber(Math.min(1000, Math.max(0, 2 / Math.max(roughnessFactor, 0.05) ** 4 - 2)))}`,
    );
    lines.push(`illum ${material.unlit ? 0 : 2}`);
    if (a < 1 || material.alphaMode === 'blend') lines.push(`d ${shortNumber(a)}`);
    if (material.ior !== undefined) lines.push(`Ni ${shortNumber(material.ior)}`);
    if (emissiveFactor.some((part) => part > 0))
      lines.push(
        `Ke ${Array.from(emissiveFactor, (part) => shortNumber(part * emissiveStrength)).join(' ')}`,
      );
    if (material.clearcoatFactor) {
      lines.push(`Pc ${shortNumber(material.clearcoatFactor)}`);
      lines.push(`Pcr ${shortNumber(material.clearcoatRoughnessFactor ?? 0)}`);
    }
    if (material.sheenColorFactor)
      lines.push(`Ps ${Array.from(material.sheenColorFactor, shortNumber).join(' ')}`);
    const map = (word: string, use: TextureUse | undefined): void => {
      if (!use) return;
      const path = pictureOf(use, files, drop.bind(undefined, name));
      if (path !== undefined) lines.push(`${word} ${optionsOf(use)}${path}`);
    };
    map('map_Kd', material.baseColorTexture);
    map('map_Pr', material.metallicRoughnessTexture);
    map('map_Pm', material.metallicRoughnessTexture);
    map('norm', material.normalTexture);
    map('map_Ke', material.emissiveTexture);
    if (material.alphaMode === 'mask') drop(name, 'alpha cut-off');
    if (material.occlusionTexture) drop(name, 'occlusion');
    if (material.transmissionFactor) drop(name, 'transmission');
    if (material.iridescenceFactor) drop(name, 'iridescence');
    if (material.shader) drop(name, 'shader');
  }
  return encodeText(`${lines.join('\n')}\n`);
}

function optionsOf({ strength, transform }: TextureUse): string {
  const bump = strength === undefined ? '' : `-bm ${shortNumber(strength)} `;
  if (!transform) return bump;
  const { offset, scale } = transform;
  return `${bump}-s ${shortNumber(scale[0])} ${shortNumber(scale[1])} 1 -o ${shortNumber(offset[0])} ${shortNumber(1 - scale[1] - offset[1])} 0 `;
}

function pictureOf(
  { texture: { image } }: TextureUse,
  files: Map<string, Uint8Array>,
  drop: (what: string) => void,
): string | undefined {
  const content = encodedOf(image);
  if (!content) {
    drop('picture that is not encoded');
    return undefined;
  }
  const ending = content.mimeType === 'image/jpeg' ? 'jpg' : content.mimeType.replace('image/', '');
  const path =
    image.uri ?? `${(image.name ?? `picture ${files.size}`).replaceAll(/[\\/:*?"<>|]/g, '_')}.${ending}`;
  files.set(path, content.bytes);
  return path;
}
