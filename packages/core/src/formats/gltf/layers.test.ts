import validator from 'gltf-validator';
import {
  box,
  withTangents,
  type MaterialLayer,
  LAYER_TEXTURES,
  LAYERS,
  type LayerTexture,
  type Material,
  type ModelAsset,
  placeAsset,
  readGltf,
  Scene,
  setVariant,
  type TextureUse,
  variantsOf,
  writeGlb,
} from '../../engine.js';

// A picture of one pixel.
const PNG = Uint8Array.from(
  atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='),
  (letter) => letter.charCodeAt(0),
);

const use = (rotation: number, { strength }: LayerTexture): TextureUse => ({
  texture: { image: { content: { kind: 'encoded', mimeType: 'image/png', bytes: PNG } } },
  transform: { offset: [0.25, 0.5], rotation, scale: [2, 3] },
  ...(strength ? { strength: 0.75 } : {}),
});

/** A material with every number of a layer somewhere within its limits, and every texture. */
function materialWith({ name, numbers, textures }: MaterialLayer): Material {
  const material: Record<string, unknown> = { name };
  numbers.forEach(({ key, default: usual, least }, i) => {
    const value = (key === 'ior' ? 1 : Math.max(0, least)) + 0.25 + i * 0.125;
    material[key] = typeof usual === 'number' ? value : [value, value / 2, value / 4];
  });
  textures.forEach((texture, i) => (material[texture.key] = use(0.125 * (i + 1), texture)));
  return material;
}

async function roundTrip(materials: Material[]): Promise<{ asset: ModelAsset; faults: unknown[] }> {
  const glb = writeGlb({
    nodes: materials.map((material) => ({
      children: [],
      mesh: { primitives: [{ geometry: withTangents(box()), material }] },
    })),
  });
  const report = await validator.validateBytes(glb);
  return {
    asset: await readGltf(glb),
    faults: report.issues.messages.filter(({ severity }) => severity === 0),
  };
}

test.each(LAYERS.map((layer) => [layer.extension, layer] as const))(
  '%s is written validly and read back as it was',
  async (extension, layer) => {
    const given = materialWith(layer);
    const { asset, faults } = await roundTrip([given]);
    expect(faults).toEqual([]);
    expect(asset.extensionsUsed).toContain(extension);
    expect(asset.warnings).toEqual([]);
    const [read] = asset.materials as unknown as Record<string, unknown>[];
    for (const { key } of layer.numbers) expect(read![key]).toEqual((given as Record<string, unknown>)[key]);
    for (const { key } of layer.textures) {
      const { texture: _, ...rest } = read![key] as TextureUse;
      const { texture: __, ...expected } = (given as Record<string, unknown>)[key] as TextureUse;
      expect(rest).toEqual(expected);
    }
  },
);

test('every texture of a layer has a number of its own', () => {
  expect(LAYER_TEXTURES).toHaveLength(14);
  expect(new Set(LAYER_TEXTURES.map(({ key }) => key)).size).toBe(14);
});

test('an endless attenuation distance is left out of the file, which has no infinity', async () => {
  const { asset, faults } = await roundTrip([{ thicknessFactor: 1, attenuationDistance: Infinity }]);
  expect(faults).toEqual([]);
  expect(asset.materials[0]).toEqual({ thicknessFactor: 1 });
});

const document = (materials: unknown[], more: Record<string, unknown> = {}): Uint8Array =>
  new TextEncoder().encode(JSON.stringify({ asset: { version: '2.0' }, materials, ...more }));

test.each([
  ['KHR_materials_clearcoat', { clearcoatFactor: 1.5 }, '/clearcoatFactor', /1.5 is out of range/],
  ['KHR_materials_sheen', { sheenColorFactor: [1, 2] }, '/sheenColorFactor', /3 numbers are expected, not 2/],
  ['KHR_materials_ior', { ior: -1 }, '/ior', /-1 is out of range/],
  ['KHR_materials_iridescence', { iridescenceIor: 0.5 }, '/iridescenceIor', /0.5 is out of range/],
  [
    'KHR_materials_volume',
    { thicknessTexture: { index: 3 } },
    '/thicknessTexture/index',
    /texture 3 does not exist/,
  ],
  ['KHR_materials_dispersion', { dispersion: 'much' }, '/dispersion', /a number is expected/],
])('wrong numbers of %s are refused with their place', async (extension, value, place, message) => {
  const bytes = document([{ extensions: { [extension]: value } }], { extensionsUsed: [extension] });
  await expect(readGltf(bytes)).rejects.toMatchObject({
    message: expect.stringMatching(message),
    where: { pointer: `/materials/0/extensions/${extension}${place}` },
  });
});

test('the archived specular-glossiness becomes a surface whose mirroring is its colour', async () => {
  const extension = 'KHR_materials_pbrSpecularGlossiness';
  const value = {
    diffuseFactor: [0.5, 0.25, 0.125, 1],
    specularFactor: [0.75, 0.5, 0.25],
    glossinessFactor: 0.75,
  };
  const asset = await readGltf(
    document([{ extensions: { [extension]: value }, pbrMetallicRoughness: { metallicFactor: 1 } }], {
      extensionsUsed: [extension],
      extensionsRequired: [extension],
    }),
  );
  expect(asset.materials[0]).toEqual({
    baseColorFactor: [0.5, 0.25, 0.125, 1],
    metallicFactor: 0,
    roughnessFactor: 0.25,
    ior: 0,
    specularColorFactor: [0.75, 0.5, 0.25],
  });
});

test('glossiness of a texture is kept, written validly and read back as it was', async () => {
  const given: Material = {
    baseColorFactor: [0.5, 0.25, 0.125, 1],
    metallicFactor: 0,
    roughnessFactor: 0.25,
    ior: 0,
    specularColorFactor: [0.75, 0.5, 0.25],
    specularColorTexture: use(0, { key: 'specularColorTexture', kind: 'color' } as unknown as LayerTexture),
    glossinessFactor: 0.75,
  };
  const { asset, faults } = await roundTrip([given]);
  expect(faults).toEqual([]);
  expect(asset.warnings).toEqual([]);
  expect(asset.extensionsUsed).toEqual(
    expect.arrayContaining(['KHR_materials_pbrSpecularGlossiness', 'KHR_texture_transform']),
  );
  expect(asset.extensionsUsed).not.toContain('KHR_materials_specular');
  const { specularColorTexture, ...numbers } = asset.materials[0]!; // one was written
  const { specularColorTexture: texture, ...expected } = given;
  const { texture: _, ...rest } = specularColorTexture!;
  const { texture: __, ...wanted } = texture!;
  expect(rest).toEqual(wanted);
  expect(numbers).toEqual(expected);
});

test('variants are read, chosen by name for one placing alone, given back, and written', async () => {
  const [red, blue, green] = ['red', 'blue', 'green'].map((name): Material => ({ name })) as [
    Material,
    Material,
    Material,
  ];
  const mesh = {
    primitives: [{ geometry: box(), material: red, variants: { dusk: blue, night: green, dawn: blue } }],
  };
  const glb = writeGlb({
    nodes: [{ name: 'lamp', children: [], mesh }],
    variants: ['dawn', 'dusk', 'night'],
  });
  const report = await validator.validateBytes(glb);
  expect(report.issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
  const asset = await readGltf(glb);
  expect(asset.variants).toEqual(['dawn', 'dusk', 'night']);
  const scene = new Scene();
  const [one, other] = [placeAsset(asset, scene).node, placeAsset(asset, scene).node];
  const material = (node: typeof one): string | undefined =>
    node.find('lamp')?.mesh?.primitives[0]?.material?.name;
  expect(variantsOf(one).sort()).toEqual(['dawn', 'dusk', 'night']);
  setVariant(one, 'night');
  expect([material(one), material(other)]).toEqual(['green', 'red']);
  setVariant(one, 'dusk');
  expect(material(one)).toBe('blue');
  setVariant(one);
  expect(material(one)).toBe('red');
  expect(() => setVariant(one, 'noon')).toThrow(/has no variant "noon"/);
  expect(() => setVariant(scene.createNode({ name: 'rock' }), 'night')).toThrow(
    /"rock" has no variant "night"/,
  );
});
