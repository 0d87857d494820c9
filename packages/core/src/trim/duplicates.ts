import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { COMPONENT_BYTES, type Geometry, vertexCount } from '../geometry/geometry.js';
import type { Image, Material, Sampler, Texture } from '../material/material.js';
import type { Mesh, Primitive } from '../scene/components.js';
import { animatedThings, collect, fewer, materialsOf } from './uses.js';
import { hashOf, rowsOf, sameBytes } from './vertex-table.js';

/** Makes one of what is the same: pictures, samplers, textures, materials, geometries and meshes, names included. */
export function shareDuplicates(asset: ModelAsset): string {
  const before = counts(asset);
  const images = unique(asset.images, (image) => [image.name, image.extras, image.uri], sameImage, imageHash);
  const samplers = unique(asset.samplers, (sampler: Sampler) => sampler);
  replaceTextures(asset, (texture) => {
    texture.image = images(texture.image);
    if (texture.sampler) texture.sampler = samplers(texture.sampler);
    return texture;
  });
  const imageNumber = numbersOf(asset.images);
  const samplerNumber = numbersOf(asset.samplers);
  const textures = unique(asset.textures, ({ name, image, sampler, extras }: Texture) => [
    name,
    imageNumber(image),
    samplerNumber(sampler),
    extras,
  ]);
  replaceTextures(asset, textures);
  const animated = animatedThings(asset);
  const materialNumber = numbersOf(asset.materials);
  const materials = unique(asset.materials, (material: Material) =>
    // What a clip moves is not the same as what none does.
    animated.has(material) || material.shader ? [materialNumber(material)] : keyOf(material, asset.textures),
  );
  const geometries = unique(
    [...new Set(asset.meshes.flatMap(({ primitives }) => primitives.map(({ geometry }) => geometry)))],
    geometryKey,
    sameGeometry,
    (geometry) => hashOf(rowsOf(geometry).rows),
  );
  for (const { primitives } of asset.meshes)
    for (const primitive of primitives) {
      primitive.geometry = geometries(primitive.geometry);
      if (primitive.material) primitive.material = materials(primitive.material);
      if (primitive.standard) primitive.standard = materials(primitive.standard);
      if (primitive.variants)
        primitive.variants = Object.fromEntries(
          Object.entries(primitive.variants).map(([name, material]) => [name, materials(material)]),
        );
    }
  const geometryNumber = numbersOf([
    ...new Set(asset.meshes.flatMap(({ primitives }) => primitives.map(({ geometry }) => geometry))),
  ]);
  const meshes = unique(asset.meshes, (mesh: Mesh) => [
    mesh.name,
    mesh.weights,
    mesh.extras,
    mesh.primitives.map((primitive: Primitive) => [
      geometryNumber(primitive.geometry),
      materialsOf(primitive).map(materialNumber),
      Object.keys(primitive.variants ?? {}),
      primitive.extras,
    ]),
  ]);
  asset.nodes.forEach((node: AssetNode) => {
    if (node.mesh) node.mesh = meshes(node.mesh);
  });
  collect(asset);
  return fewer(before, counts(asset), 'were double');
}

/** @returns the number of a thing in a list; -1: it is not in it */
function numbersOf<T>(list: readonly T[]): (thing: T | undefined) => number {
  const numbers = new Map<T | undefined, number>();
  for (let i = list.length - 1; i >= 0; i--) numbers.set(list[i], i); // the first counts
  return (thing) => numbers.get(thing) ?? -1;
}

/** @returns what stands for each: the first that is the same */
function unique<T extends object>(
  list: readonly T[],
  keyOf: (thing: T) => unknown,
  same: (a: T, b: T) => boolean = () => true,
  hash: (thing: T) => number = () => 0,
): (thing: T) => T {
  const known = new Map<string, T[]>();
  const chosen = new Map<T, T>();
  for (const thing of list) {
    const key = `${hash(thing)} ${JSON.stringify(keyOf(thing))}`;
    const near = known.get(key) ?? [];
    known.set(key, near);
    const found = near.find((other) => same(other, thing));
    if (!found) near.push(thing);
    chosen.set(thing, found ?? thing);
  }
  return (thing) => chosen.get(thing) ?? thing;
}

function replaceTextures(asset: ModelAsset, by: (texture: Texture) => Texture): void {
  for (const material of asset.materials)
    for (const value of Object.values(material) as unknown[])
      if (typeof value === 'object' && value !== null && 'texture' in value && value.texture)
        (value as { texture: Texture }).texture = by(value.texture as Texture);
}

/** A material with its textures by number. */
const keyOf = (material: Material, textures: readonly Texture[]): unknown =>
  JSON.parse(
    JSON.stringify(material, (name, value: unknown) =>
      name === 'texture' ? textures.indexOf(value as Texture) : value,
    ),
  );

function imageHash({ content }: Image): number {
  return content.kind === 'encoded' ? hashOf(content.bytes) : 0;
}

function sameImage({ content: a }: Image, { content: b }: Image): boolean {
  return (
    a.kind === 'encoded' && b.kind === 'encoded' && a.mimeType === b.mimeType && sameBytes(a.bytes, b.bytes)
  );
}

/** What geometries have in common that could be the same; names do not count: those of geometries come from meshes. */
function geometryKey({ attributes, mode, targets = [], indices }: Geometry): unknown {
  const kinds = (named: Geometry['attributes']): unknown =>
    Object.entries(named).map(([name, { componentType, components, normalized }]) => [
      name,
      COMPONENT_BYTES[componentType],
      componentType,
      components,
      normalized,
    ]);
  return [
    kinds(attributes),
    mode,
    targets.map(({ name, attributes: own }) => [name, kinds(own)]),
    indices?.length,
  ];
}

export function sameGeometry(a: Geometry, b: Geometry): boolean {
  if (vertexCount(a) !== vertexCount(b) || a.indices?.length !== b.indices?.length) return false;
  for (let i = 0; i < (a.indices?.length ?? 0); i++) if (a.indices![i] !== b.indices![i]) return false; // both have some
  return sameBytes(rowsOf(a).rows, rowsOf(b).rows);
}

function counts({ meshes, materials, textures, images, samplers }: ModelAsset): Record<string, number> {
  const geometries = new Set(meshes.flatMap(({ primitives }) => primitives.map(({ geometry }) => geometry)));
  return {
    meshes: meshes.length,
    geometries: geometries.size,
    materials: materials.length,
    textures: textures.length,
    images: images.length,
    samplers: samplers.length,
  };
}
