import { type Light, type Material, type ModelAsset, TEXTURE_SLOTS } from '@umber-lens/core/engine';

type Tell = (code: string, message: string, pointer: string) => void;

/** Illuminance of all lights together beyond which a white surface is cut off at default settings. */
const OVEREXPOSED = 20;

/** What of a model's surfaces and lights is right by the format and will look wrong. */
export function doubtSurfaces(asset: ModelAsset, tell: Tell): void {
  asset.materials.forEach((material, i) => doubtMaterial(material, `/materials/${i}`, tell));
  asset.meshes.forEach((mesh, m) =>
    mesh.primitives.forEach(({ geometry: { attributes }, material }, p) => {
      const pointer = `/meshes/${m}/primitives/${p}`;
      if (material?.normalTexture && !attributes['texcoord0'] && !attributes['texcoord1'])
        tell(
          'normal-map-without-coordinates',
          'a normal map needs texture coordinates, and there are none',
          pointer,
        );
      if (material?.anisotropyStrength && !attributes['tangent'])
        tell('brushing-without-tangents', 'a brushed surface without tangents shows its triangles', pointer);
    }),
  );
  doubtLights(asset, tell);
}

function doubtMaterial(material: Material, pointer: string, tell: Tell): void {
  const name = material.name ?? 'a material';
  const { metallicFactor = 1 } = material;
  const isBright = material.unlit || material.emissiveFactor?.some((part) => part > 0);
  if (material.metallicFactor === undefined && !material.metallicRoughnessTexture && !isBright)
    tell(
      'metal-by-default',
      `"${name}" is metal, since metallicFactor is left out and its default is 1: it mirrors what is around it, and is nearly black without an environment`,
      pointer,
    );
  if (material.thicknessFactor && !material.transmissionFactor && !material.diffuseTransmissionFactor)
    tell(
      'volume-without-transmission',
      `"${name}" has a thickness, which only shows with transmission`,
      pointer,
    );
  if (
    material.transmissionFactor &&
    !material.thicknessFactor &&
    (material.attenuationDistance || material.dispersion)
  )
    tell(
      'transmission-without-thickness',
      `"${name}" lets light through a wall without thickness, so nothing is absorbed or bent`,
      pointer,
    );
  if (material.transmissionFactor && metallicFactor === 1 && !material.metallicRoughnessTexture)
    tell('metal-transmission', `"${name}" is metal, and metal lets no light through`, pointer);
  const colors = new Set(
    TEXTURE_SLOTS.filter((slot) => /Color|emissive/.test(slot)).map((slot) => material[slot]?.texture.image),
  );
  for (const slot of ['metallicRoughnessTexture', 'normalTexture', 'occlusionTexture'] as const) {
    const image = material[slot]?.texture.image;
    if (image && colors.has(image))
      tell(
        'color-as-data',
        `the picture of "${name}" for ${slot.replace('Texture', '')} is used as colour too: one of the two is wrong`,
        pointer,
      );
  }
}

function doubtLights({ nodes, lights }: ModelAsset, tell: Tell): void {
  lights.forEach((light, i) => {
    if ((light.intensity ?? 1) === 0 || light.color?.every((part) => part === 0))
      tell(
        'dark-light',
        `light "${light.name ?? i}" gives no light: its ${light.intensity === 0 ? 'intensity' : 'colour'} is 0`,
        `/extensions/KHR_lights_punctual/lights/${i}`,
      );
  });
  const suns = nodes.flatMap(({ light }) => (light?.type === 'directional' ? [light] : []));
  const sum = suns.reduce((total, light) => total + brightness(light), 0);
  if (sum > OVEREXPOSED)
    tell(
      'overexposed',
      `the directional lights come to ${Math.round(sum)} lux: everything is white at an exposure of 1 (try --exposure ${-Math.round(Math.log2(sum / 3))})`,
      '/extensions/KHR_lights_punctual/lights',
    );
}

const brightness = ({ intensity = 1, color = [1, 1, 1] }: Light): number => intensity * Math.max(...color);
