import { LAYERS } from '../../../material/layers.js';
import {
  type Material,
  MATERIAL_DEFAULTS,
  type Sampler,
  type Texture,
  type TextureUse,
} from '../../../material/material.js';
import { clean, filledObject, finite, type Json, type Numbering } from './json.js';

/** What a material needs of the writer: numbers for textures, and a note of the extensions that it uses. */
export interface MaterialPlaces {
  textures: Numbering<Texture>;
  uses(extension: string): string;
}

export function writeMaterial(material: Material, places: MaterialPlaces): Json {
  const use = (given: TextureUse | undefined, strengthKey?: string): Json | undefined =>
    writeUse(given, places, strengthKey);
  const extensions: Json = {};
  if (material.unlit) extensions[places.uses('KHR_materials_unlit')] = {};
  if ((material.emissiveStrength ?? 1) !== 1) {
    extensions[places.uses('KHR_materials_emissive_strength')] = {
      emissiveStrength: material.emissiveStrength,
    };
  }
  const isGlossy = material.glossinessFactor !== undefined;
  if (isGlossy) {
    extensions[places.uses('KHR_materials_pbrSpecularGlossiness')] = clean({
      diffuseFactor: material.baseColorFactor,
      diffuseTexture: use(material.baseColorTexture),
      specularFactor: material.specularColorFactor,
      glossinessFactor: material.glossinessFactor,
      specularGlossinessTexture: use(material.specularColorTexture),
    });
  }
  for (const layer of LAYERS) {
    const { name, numbers, textures } = layer;
    // The archived extension says these itself.
    if (isGlossy && (name === 'specular' || name === 'ior')) continue;
    const given = clean({
      ...Object.fromEntries(numbers.map(({ key }) => [key, finite(material[key])])),
      ...Object.fromEntries(
        textures.map(({ key, strength }) => [key, use(material[key] as TextureUse | undefined, strength)]),
      ),
    });
    if (Object.keys(given).length > 0) extensions[places.uses(layer.extension)] = given;
  }
  const mode = material.alphaMode ?? MATERIAL_DEFAULTS.alphaMode;
  const pbr = clean({
    baseColorFactor: material.baseColorFactor,
    baseColorTexture: use(material.baseColorTexture),
    metallicFactor: material.metallicFactor,
    roughnessFactor: material.roughnessFactor,
    metallicRoughnessTexture: use(material.metallicRoughnessTexture),
  });
  return clean({
    name: material.name,
    pbrMetallicRoughness: filledObject(pbr),
    normalTexture: use(material.normalTexture, 'scale'),
    occlusionTexture: use(material.occlusionTexture, 'strength'),
    emissiveTexture: use(material.emissiveTexture),
    emissiveFactor: material.emissiveFactor,
    alphaMode: mode === 'opaque' ? undefined : mode.toUpperCase(),
    alphaCutoff: mode === 'mask' ? material.alphaCutoff : undefined,
    doubleSided: material.doubleSided || undefined,
    extensions: filledObject(extensions),
    extras: material.extras,
  });
}

function writeUse(
  use: TextureUse | undefined,
  { textures, uses }: MaterialPlaces,
  strengthKey?: string,
): Json | undefined {
  if (!use) return undefined;
  const { transform } = use;
  return clean({
    index: textures.of(use.texture),
    texCoord: use.texCoord || undefined,
    ...(strengthKey ? { [strengthKey]: use.strength } : {}),
    extensions: transform && {
      [uses('KHR_texture_transform')]: { ...transform },
    },
  });
}

export function writeSampler(sampler: Sampler): Json {
  const { name, magFilter, minFilter, mipmapFilter, wrapS, wrapT } = sampler;
  const wrap = { repeat: 10497, 'clamp-to-edge': 33071, 'mirror-repeat': 33648 } as const;
  const linear = (minFilter ?? 'linear') === 'linear' ? 1 : 0;
  const minify =
    mipmapFilter === 'none'
      ? 9728 + linear
      : 9984 + linear + ((mipmapFilter ?? 'linear') === 'linear' ? 2 : 0);
  return clean({
    name,
    magFilter: magFilter && (magFilter === 'linear' ? 9729 : 9728),
    minFilter: minFilter || mipmapFilter ? minify : undefined,
    wrapS: wrapS && wrap[wrapS],
    wrapT: wrapT && wrap[wrapT],
  });
}
