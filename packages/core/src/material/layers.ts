import {
  LAYER_USE_FLOATS,
  LAYER_USE_LAYER,
  LAYERS_ANISOTROPY,
  LAYERS_ATTENUATION,
  LAYERS_CLEARCOAT,
  LAYERS_DIFFUSE_TRANSMISSION,
  LAYERS_IRIDESCENCE,
  LAYERS_SHEEN,
  LAYERS_SPECULAR,
  LAYERS_TRANSMISSION,
  LAYERS_USES,
} from '../compiled/layouts.js';
import type { Material, TextureUse } from './material.js';

/** Names of the layers that a material may have besides base, metal and roughness. */
export type LayerName =
  | 'clearcoat'
  | 'sheen'
  | 'specular'
  | 'ior'
  | 'transmission'
  | 'volume'
  | 'iridescence'
  | 'anisotropy'
  | 'dispersion'
  | 'diffuseTransmission';

/** A number or a colour of a layer, as glTF has it. */
export interface LayerNumber {
  key: keyof Material;
  /** One number or a linear colour. */
  default: number | [number, number, number];
  least: number;
  most: number;
}

/** A texture of a layer. */
export interface LayerTexture {
  key: keyof Material;
  /** Colour is stored sRGB-encoded, data as it is. */
  isColor: boolean;
  /** What its strength is called in the file. */
  strength?: 'scale';
}

/** A glTF extension of materials: its members in the file have the names that they have here. */
export interface MaterialLayer {
  name: LayerName;
  extension: string;
  numbers: readonly LayerNumber[];
  textures: readonly LayerTexture[];
}

const number = (key: keyof Material, usual: LayerNumber['default'], least = 0, most = 1): LayerNumber => ({
  key,
  default: usual,
  least,
  most,
});
const data = (key: keyof Material): LayerTexture => ({ key, isColor: false });
const color = (key: keyof Material): LayerTexture => ({ key, isColor: true });

const WHITE: [number, number, number] = [1, 1, 1];

/** All layers, in the order in which shaders number their textures. */
export const LAYERS: readonly MaterialLayer[] = [
  {
    name: 'clearcoat',
    extension: 'KHR_materials_clearcoat',
    numbers: [number('clearcoatFactor', 0), number('clearcoatRoughnessFactor', 0)],
    textures: [
      data('clearcoatTexture'),
      data('clearcoatRoughnessTexture'),
      { key: 'clearcoatNormalTexture', isColor: false, strength: 'scale' },
    ],
  },
  {
    name: 'sheen',
    extension: 'KHR_materials_sheen',
    numbers: [number('sheenColorFactor', [0, 0, 0]), number('sheenRoughnessFactor', 0)],
    textures: [color('sheenColorTexture'), data('sheenRoughnessTexture')],
  },
  {
    name: 'specular',
    extension: 'KHR_materials_specular',
    numbers: [number('specularFactor', 1), number('specularColorFactor', WHITE, 0, Infinity)],
    textures: [data('specularTexture'), color('specularColorTexture')],
  },
  { name: 'ior', extension: 'KHR_materials_ior', numbers: [number('ior', 1.5, 0, Infinity)], textures: [] },
  {
    name: 'transmission',
    extension: 'KHR_materials_transmission',
    numbers: [number('transmissionFactor', 0)],
    textures: [data('transmissionTexture')],
  },
  {
    name: 'volume',
    extension: 'KHR_materials_volume',
    numbers: [
      number('thicknessFactor', 0, 0, Infinity),
      number('attenuationDistance', Infinity, 0, Infinity),
      number('attenuationColor', WHITE),
    ],
    textures: [data('thicknessTexture')],
  },
  {
    name: 'iridescence',
    extension: 'KHR_materials_iridescence',
    numbers: [
      number('iridescenceFactor', 0),
      number('iridescenceIor', 1.3, 1, Infinity),
      number('iridescenceThicknessMinimum', 100, 0, Infinity),
      number('iridescenceThicknessMaximum', 400, 0, Infinity),
    ],
    textures: [data('iridescenceTexture'), data('iridescenceThicknessTexture')],
  },
  {
    name: 'anisotropy',
    extension: 'KHR_materials_anisotropy',
    numbers: [number('anisotropyStrength', 0), number('anisotropyRotation', 0, -Infinity, Infinity)],
    textures: [data('anisotropyTexture')],
  },
  {
    name: 'dispersion',
    extension: 'KHR_materials_dispersion',
    numbers: [number('dispersion', 0, 0, Infinity)],
    textures: [],
  },
  {
    name: 'diffuseTransmission',
    extension: 'KHR_materials_diffuse_transmission',
    numbers: [number('diffuseTransmissionFactor', 0), number('diffuseTransmissionColorFactor', WHITE)],
    textures: [data('diffuseTransmissionTexture'), color('diffuseTransmissionColorTexture')],
  },
];

/** The textures of all layers, as shaders number them. */
export const LAYER_TEXTURES: readonly LayerTexture[] = LAYERS.flatMap(({ textures }) => textures);

/**
 * Writes a material's layers as their uniform block holds them; see `Layers` in layers.wgsl. The coordinates of textures
 * are written by `packTransform`.
 *
 * @param layerOf the layer of the array that holds a texture; below 0 where there is none
 */
export function packLayers(
  material: Material,
  out: Float32Array,
  packTransform: (use: TextureUse | undefined, out: Float32Array, at: number) => void,
  layerOf: (texture: number) => number,
): void {
  const m = material;
  const distance = m.attenuationDistance ?? Infinity;
  const rows: readonly (readonly [at: number, ...values: number[]])[] = [
    [
      LAYERS_CLEARCOAT,
      m.clearcoatFactor ?? 0,
      m.clearcoatRoughnessFactor ?? 0,
      m.clearcoatNormalTexture?.strength ?? 1,
      m.ior ?? 1.5,
    ],
    [LAYERS_SHEEN, ...(m.sheenColorFactor ?? [0, 0, 0]), m.sheenRoughnessFactor ?? 0],
    [LAYERS_SPECULAR, ...(m.specularColorFactor ?? WHITE), m.specularFactor ?? 1],
    [
      LAYERS_TRANSMISSION,
      m.transmissionFactor ?? 0,
      m.thicknessFactor ?? 0,
      distance > 0 ? 1 / distance : 0,
      m.dispersion ?? 0,
    ],
    [LAYERS_ATTENUATION, ...(m.attenuationColor ?? WHITE), m.anisotropyStrength ?? 0],
    [
      LAYERS_IRIDESCENCE,
      m.iridescenceFactor ?? 0,
      m.iridescenceIor ?? 1.3,
      m.iridescenceThicknessMinimum ?? 100,
      m.iridescenceThicknessMaximum ?? 400,
    ],
    [
      LAYERS_ANISOTROPY,
      Math.cos(m.anisotropyRotation ?? 0),
      Math.sin(m.anisotropyRotation ?? 0),
      m.glossinessFactor ?? -1,
      0,
    ],
    [
      LAYERS_DIFFUSE_TRANSMISSION,
      ...(m.diffuseTransmissionColorFactor ?? WHITE),
      m.diffuseTransmissionFactor ?? 0,
    ],
  ];
  rows.forEach(([at, ...values]) => out.set(values, at));
  LAYER_TEXTURES.forEach(({ key }, i) => {
    const at = LAYERS_USES + i * LAYER_USE_FLOATS;
    packTransform(m[key] as TextureUse | undefined, out, at);
    out[at + LAYER_USE_LAYER] = layerOf(i);
  });
}
