import { imageTypeOf } from '../../bytes/image-type.js';
import type {
  AlphaMode,
  Image,
  Material,
  Sampler,
  Texture,
  TextureUse,
  Wrap,
} from '../../../material/material.js';
import { LAYERS } from '../../../material/layers.js';
import type { Accessors, Resolve } from './accessors.js';
import type { Cursor } from './cursor.js';
import { readUri } from './uri.js';

const FILTER = {
  9728: { filter: 'nearest', mipmap: 'none' },
  9729: { filter: 'linear', mipmap: 'none' },
  9984: { filter: 'nearest', mipmap: 'nearest' },
  9985: { filter: 'linear', mipmap: 'nearest' },
  9986: { filter: 'nearest', mipmap: 'linear' },
  9987: { filter: 'linear', mipmap: 'linear' },
} as const;

const WRAP: Record<number, Wrap> = { 33071: 'clamp-to-edge', 33648: 'mirror-repeat', 10497: 'repeat' };

export function readSamplers(root: Cursor): Sampler[] {
  return root.list('samplers').map((at) => {
    const { name } = at.object().common();
    const magnify = at.choice('magFilter', [9728, 9729] as const);
    const minify = at.choice('minFilter', [9728, 9729, 9984, 9985, 9986, 9987] as const);
    const wraps = Object.keys(WRAP).map(Number);
    const wrapS = at.choice('wrapS', wraps);
    const wrapT = at.choice('wrapT', wraps);
    return {
      ...(name === undefined ? {} : { name }),
      ...(magnify === undefined ? {} : { magFilter: FILTER[magnify].filter }),
      ...(minify === undefined
        ? {}
        : { minFilter: FILTER[minify].filter, mipmapFilter: FILTER[minify].mipmap }),
      ...(wrapS === undefined ? {} : { wrapS: WRAP[wrapS]! }), // one of the table's by the choice
      ...(wrapT === undefined ? {} : { wrapT: WRAP[wrapT]! }),
    };
  });
}

/** Reads images as bytes; their own headers decide the media type where the file is silent or wrong. */
export async function readImages(
  root: Cursor,
  accessors: Accessors,
  resolve: Resolve,
  allowOutside: boolean,
): Promise<Image[]> {
  const images: Image[] = [];
  for (const at of root.list('images')) {
    at.object();
    const uri = at.text('uri');
    const viewAt = at.get('bufferView');
    const declared = at.text('mimeType');
    let bytes: Uint8Array;
    let path: string | undefined;
    if (viewAt) {
      if (uri !== undefined) at.fail('image', 'an image has both a URI and a buffer view');
      bytes = accessors.view(viewAt);
    } else if (uri !== undefined) {
      const target = readUri(uri, at.need('uri').where, allowOutside);
      if (target.kind === 'file') path = target.path;
      bytes = target.kind === 'data' ? target.bytes : await resolve(target.path);
    } else {
      return at.fail('missing', 'an image needs "uri" or "bufferView"');
    }
    const mimeType = imageTypeOf(bytes);
    if (!mimeType) {
      return at.fail(
        'image',
        `the image${path ? ` "${path}"` : ''} is damaged: its ${bytes.length} bytes are no PNG, JPEG, WebP or KTX2`,
        'Open it in an image program and export it again.',
      );
    }
    if (declared !== undefined && declared !== mimeType) {
      at.warn('media-type', `the image says it is ${declared} but is ${mimeType}`);
    }
    images.push({
      ...at.common(),
      ...(path === undefined ? {} : { uri: path }),
      content: { kind: 'encoded', mimeType, bytes },
    });
  }
  return images;
}

/** Extensions that name another picture of a texture. */
export const NEWER_PICTURES = ['KHR_texture_basisu', 'EXT_texture_webp', 'EXT_texture_avif'] as const;

/** Textures; undefined stands for one whose picture only an unsupported extension has. */
export function readTextures(root: Cursor, images: Image[], samplers: Sampler[]): (Texture | undefined)[] {
  return root.list('textures').map((at) => {
    // Newer kinds of pictures stand beside an older one: whoever reads them takes them.
    const extensions = at.object().get('extensions');
    const source =
      NEWER_PICTURES.map((name) => extensions?.get(name)?.get('source')).find((one) => one !== undefined) ??
      at.get('source');
    const sampler = at.get('sampler')?.pick(samplers, 'sampler');
    if (!source) {
      at.warn('texture-without-image', 'the texture has no image that can be read; it is left out');
      return undefined;
    }
    return { ...at.common(), image: source.pick(images, 'image'), ...(sampler ? { sampler } : {}) };
  });
}

export function readMaterials(root: Cursor, textures: (Texture | undefined)[]): Material[] {
  return root.list('materials').map((at) => {
    const material: Material = at.object().common();
    const use = (from: Cursor | undefined, key: string, strength?: string): TextureUse | undefined =>
      readTextureUse(from?.get(key)?.object(), textures, strength);
    const set = <K extends keyof Material>(key: K, value: Material[K] | undefined): void => {
      if (value !== undefined) material[key] = value;
    };
    const pbr = at.get('pbrMetallicRoughness')?.object();
    set('baseColorFactor', pbr?.numbers('baseColorFactor', 4, 0, 1) as Material['baseColorFactor']);
    set('baseColorTexture', use(pbr, 'baseColorTexture'));
    set('metallicFactor', pbr?.number('metallicFactor', 0, 1));
    set('roughnessFactor', pbr?.number('roughnessFactor', 0, 1));
    set('metallicRoughnessTexture', use(pbr, 'metallicRoughnessTexture'));
    set('normalTexture', use(at, 'normalTexture', 'scale'));
    set('occlusionTexture', use(at, 'occlusionTexture', 'strength'));
    set('emissiveTexture', use(at, 'emissiveTexture'));
    set('emissiveFactor', at.numbers('emissiveFactor', 3, 0, 1) as Material['emissiveFactor']);
    set(
      'alphaMode',
      at.choice('alphaMode', ['OPAQUE', 'MASK', 'BLEND'])?.toLowerCase() as AlphaMode | undefined,
    );
    set('alphaCutoff', at.number('alphaCutoff', 0));
    set('doubleSided', at.flag('doubleSided'));
    if (at.extension('KHR_materials_unlit')) material.unlit = true;
    set('emissiveStrength', at.extension('KHR_materials_emissive_strength')?.number('emissiveStrength', 0));
    for (const layer of LAYERS) {
      const from = at.extension(layer.extension);
      if (!from) continue;
      for (const { key, default: usual, least, most } of layer.numbers)
        set(
          key,
          typeof usual === 'number'
            ? from.number(key, least, most)
            : (from.numbers(key, 3, least, most) as [number, number, number] | undefined),
        );
      for (const { key, strength } of layer.textures) set(key, use(from, key, strength));
    }
    if (material.ior !== undefined && material.ior > 0 && material.ior < 1) {
      const place = at.extension('KHR_materials_ior')!.need('ior'); // it was read from there
      place.fail('range', `${material.ior} is out of range`, 'Allowed is 1 or more, or 0.');
    }
    readSpecularGlossiness(at, material, use);
    return material;
  });
}

/** Names of a file's variants (KHR_materials_variants); one without a name goes by its number. */
export function readVariantNames(root: Cursor): string[] {
  const list = root.extension('KHR_materials_variants')?.list('variants') ?? [];
  return list.map((at, i) => at.object().text('name') ?? String(i));
}

/**
 * KHR_materials_pbrSpecularGlossiness, archived: a diffuse colour and a mirrored colour of its own become a surface that
 * is no metal and whose mirroring straight on is that colour (index of refraction 0).
 */
function readSpecularGlossiness(
  at: Cursor,
  material: Material,
  use: (from: Cursor | undefined, key: string) => TextureUse | undefined,
): void {
  const from = at.extension('KHR_materials_pbrSpecularGlossiness');
  if (!from) return;
  const glossiness = from.number('glossinessFactor', 0, 1) ?? 1;
  const diffuse = use(from, 'diffuseTexture');
  const specular = use(from, 'specularGlossinessTexture');
  material.baseColorFactor = (from.numbers('diffuseFactor', 4, 0, 1) as Material['baseColorFactor']) ?? [
    1, 1, 1, 1,
  ];
  if (diffuse) material.baseColorTexture = diffuse;
  else delete material.baseColorTexture;
  delete material.metallicRoughnessTexture;
  material.metallicFactor = 0;
  material.roughnessFactor = 1 - glossiness;
  material.ior = 0;
  material.specularColorFactor = (from.numbers('specularFactor', 3, 0, 1) as [number, number, number]) ?? [
    1, 1, 1,
  ];
  if (!specular) return;
  material.specularColorTexture = specular;
  // Its alpha.
  material.glossinessFactor = glossiness;
}

function readTextureUse(
  at: Cursor | undefined,
  textures: (Texture | undefined)[],
  strengthKey: string | undefined,
): TextureUse | undefined {
  if (!at) return undefined;
  const texture = at.need('index').pick(textures, 'texture');
  const transformAt = at.extension('KHR_texture_transform');
  const set = transformAt?.whole('texCoord') ?? at.whole('texCoord') ?? 0;
  if (set > 1) at.warn('texcoord-set', `texture coordinate set ${set} is not read; set 0 is used`);
  const strength = strengthKey === undefined ? undefined : at.number(strengthKey);
  if (!texture) return undefined;
  return {
    texture,
    ...(set === 1 ? { texCoord: 1 as const } : {}),
    ...(strength === undefined ? {} : { strength }),
    ...(transformAt
      ? {
          transform: {
            offset: (transformAt.numbers('offset', 2) ?? [0, 0]) as [number, number],
            rotation: transformAt.number('rotation') ?? 0,
            scale: (transformAt.numbers('scale', 2) ?? [1, 1]) as [number, number],
          },
        }
      : {}),
  };
}
