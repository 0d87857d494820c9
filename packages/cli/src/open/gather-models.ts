import { assetFrom, type AssetNode, type ModelAsset, shownRoots } from '@umber-lens/core/engine';

/** What a file means by its numbers, where it says nothing itself. */
export interface Meaning {
  /** The axis that points upwards in it. */
  up: 'y' | 'z';
  /** Metres that a unit of it is long. */
  metres: number;
}

const HALF = Math.SQRT1_2;

/**
 * Puts models into one, with Y upwards and in metres: what a model shows hangs from a node of its file's name where there
 * are several, or where it is turned or scaled.
 */
export function gatherModels(
  models: readonly { name: string; asset: ModelAsset }[],
  { up, metres }: Meaning,
): ModelAsset {
  const [first] = models;
  if (models.length === 1 && first && up === 'y' && metres === 1) return first.asset;
  const roots = models.map(({ name, asset }): AssetNode => {
    return {
      name,
      children: [...shownRoots(asset)],
      ...(up === 'z' ? { rotation: [-HALF, 0, 0, HALF] as [number, number, number, number] } : {}),
      ...(metres === 1 ? {} : { scale: [metres, metres, metres] as [number, number, number] }),
    };
  });
  const all = <K extends keyof ModelAsset>(key: K): ModelAsset[K] =>
    models.flatMap(({ asset }) => asset[key] as unknown[]) as ModelAsset[K];
  return assetFrom(first?.asset.format ?? 'glTF', [...roots, ...all('nodes')], {
    roots,
    meshes: all('meshes'),
    materials: all('materials'),
    variants: [...new Set(all('variants'))],
    textures: all('textures'),
    images: all('images'),
    samplers: all('samplers'),
    cameras: all('cameras'),
    lights: all('lights'),
    skins: all('skins'),
    animations: all('animations'),
    extensionsUsed: [...new Set(all('extensionsUsed'))],
    extensionsRequired: [...new Set(all('extensionsRequired'))],
    warnings: all('warnings'),
  });
}
