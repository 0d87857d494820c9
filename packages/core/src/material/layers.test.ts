import {
  LAYER_USE_FLOATS,
  LAYERS_FLOATS,
  LAYERS_USES,
  MATERIAL_FLOATS,
  MATERIAL_USES,
  TEXTURE_USE_FLOATS,
} from '../compiled/layouts.js';
import { TEXTURE_SLOTS } from './features.js';
import { LAYER_TEXTURES, packLayers } from './layers.js';
import { packMaterial, packTransform } from './pack.js';

test('shaders have room for as many textures as materials may have', () => {
  expect(LAYERS_USES + LAYER_TEXTURES.length * LAYER_USE_FLOATS).toBe(LAYERS_FLOATS);
  expect(MATERIAL_USES + TEXTURE_SLOTS.length * TEXTURE_USE_FLOATS).toBe(MATERIAL_FLOATS);
});

test('a material lies as material.wgsl says, and only what is other counts as changed', () => {
  const transform = { offset: [0.25, 0.5], rotation: Math.PI / 2, scale: [2, 3] } as const;
  const material = {
    baseColorFactor: [0.1, 0.2, 0.3, 0.4],
    emissiveFactor: [1, 2, 3],
    emissiveStrength: 2,
    alphaCutoff: 0.25,
    metallicFactor: 0.5,
    roughnessFactor: 0.75,
    normalTexture: { texture: {}, strength: 0.5, texCoord: 1, transform },
  } as never;
  const out = new Float32Array(MATERIAL_FLOATS + 4);
  expect(packMaterial(material, out, 4)).toBe(true);
  const near = (...values: number[]): number[] => values.map((one) => expect.closeTo(one, 5) as number);
  const at = MATERIAL_USES + 2 * TEXTURE_USE_FLOATS;
  expect([...out.subarray(4, 16)]).toEqual(near(0.1, 0.2, 0.3, 0.4, 2, 4, 6, 0.25, 0.5, 0.75, 0.5, 1));
  expect([...out.subarray(4 + at, 4 + at + 8)]).toEqual(near(0, 3, -2, 0, 0.25, 0.5, 1, 0));
  expect(packMaterial(material, out, 4)).toBe(false);
});

test('layers lie as layers.wgsl says', () => {
  const out = new Float32Array(LAYERS_FLOATS);
  const material = { clearcoatFactor: 0.5, ior: 1.25, attenuationDistance: 4, anisotropyStrength: 0.75 };
  packLayers(material, out, packTransform, (texture) => texture - 1);
  expect([...out.subarray(0, 4)]).toEqual([0.5, 0, 1, 1.25]);
  expect([...out.subarray(12, 20)]).toEqual([0, 0, 0.25, 0, 1, 1, 1, 0.75]);
  expect(LAYER_TEXTURES.map((_, i) => out[LAYERS_USES + i * LAYER_USE_FLOATS + 7])).toEqual(
    LAYER_TEXTURES.map((_, i) => i - 1),
  );
});
