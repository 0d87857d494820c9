import { packTextures } from './pack-textures.js';
import {
  LensError,
  type ModelAsset,
  type Warning,
  writeGlb,
  writeGltf,
  writeObj,
  writePly,
  writeStl,
} from '@umber-lens/core/engine';

export const WRITTEN_FORMATS = ['glb', 'gltf', 'obj', 'ply', 'stl'] as const;
export type WrittenFormat = (typeof WRITTEN_FORMATS)[number];

export interface WriteModelOptions {
  /** Buffers and pictures of `gltf` within its text. */
  embed?: boolean;
  /** Text where a format has it: PLY and STL. */
  ascii?: boolean;
  /** Packed by EXT_meshopt_compression. */
  meshopt?: boolean;
  /** Meshes packed by KHR_draco_mesh_compression. */
  draco?: boolean;
  /** Pictures as universal textures (KHR_texture_basisu): UASTC, packed by Zstandard. */
  ktx2?: boolean;
  /** Pictures as files beside the model: `gltf` has them so unless `embed` is said. */
  separate?: boolean;
}

/** The format that a file's ending names. @throws LensError `recast/format` */
export function formatByEnding(file: string): WrittenFormat {
  const ending = /\.(\w+)$/.exec(file)?.[1]?.toLowerCase() ?? '';
  const found = WRITTEN_FORMATS.find((format) => format === ending);
  if (found) return found;
  throw new LensError('recast/format', `what ${file} should be is not known`, {
    hint: `End it with ${WRITTEN_FORMATS.map((format) => `.${format}`).join(', ')}, or say --to.`,
  });
}

/**
 * An asset as files of a format; the first is the model itself.
 *
 * @param name of the files, without an ending
 */
export async function writtenModel(
  asset: ModelAsset,
  format: WrittenFormat,
  name: string,
  options: WriteModelOptions,
): Promise<{ files: Map<string, Uint8Array>; warnings: Warning[] }> {
  const { ascii = false, embed = false, ktx2 = false, separate = false } = options;
  refuse(format, options);
  const kind = ascii ? 'ascii' : 'binary';
  const one = (
    ending: string,
    bytes: Uint8Array,
  ): { files: Map<string, Uint8Array>; warnings: Warning[] } => ({
    files: new Map([[`${name}.${ending}`, bytes]]),
    warnings: format === 'ply' || format === 'stl' ? lostIn(asset, format.toUpperCase()) : [],
  });
  switch (format) {
    case 'glb': {
      if (ktx2) await packTextures(asset);
      const pictures = new Map<string, Uint8Array>();
      const beside = separate
        ? { separate: (file: string, bytes: Uint8Array) => void pictures.set(file, bytes) }
        : {};
      const glb = writeGlb(asset, { ...(await packing(asset, options)), ...beside });
      return { files: new Map([[`${name}.glb`, glb], ...pictures]), warnings: [] };
    }
    case 'gltf': {
      if (ktx2) await packTextures(asset);
      const files = writeGltf(asset, name, await packing(asset, options));
      return embed ? one('gltf', embedded(files, `${name}.gltf`)) : { files, warnings: [] };
    }
    case 'obj':
      return writeObj(asset, name);
    case 'ply':
      return one('ply', writePly(asset, { kind }));
    case 'stl':
      return one('stl', writeStl(asset, { kind }));
  }
}

/** Options that a format has no place for, or that exclude one another. */
function refuse(format: WrittenFormat, options: WriteModelOptions): void {
  const isGltf = format === 'glb' || format === 'gltf';
  const odd = (['draco', 'meshopt', 'ktx2', 'separate', 'embed'] as const).find(
    (key) => options[key] && !isGltf,
  );
  if (odd)
    throw new LensError(
      'recast/options',
      `--${odd} is for glTF, and ${format.toUpperCase()} is to be written`,
      {
        hint: 'Write .glb or .gltf, or leave it out.',
      },
    );
  const [a, b] =
    options.draco && options.meshopt
      ? ['draco', 'meshopt']
      : options.embed && options.separate
        ? ['embed', 'separate']
        : [];
  if (a)
    throw new LensError('recast/options', `--${a} and --${b} exclude one another`, {
      hint: 'Leave one out.',
    });
}

async function packing(
  asset: ModelAsset,
  { draco = false, meshopt = false }: WriteModelOptions,
): Promise<Parameters<typeof writeGlb>[1]> {
  if (draco) {
    const { packGeometries } = await import('./pack-draco.js');
    return { packed: await packGeometries(asset) };
  }
  if (!meshopt) return {};
  const { MeshoptEncoder } = await import('meshoptimizer/encoder');
  await MeshoptEncoder.ready;
  return { compress: MeshoptEncoder };
}

/** The document with its files as data URIs in it. */
function embedded(files: ReadonlyMap<string, Uint8Array>, main: string): Uint8Array {
  const json = JSON.parse(new TextDecoder().decode(files.get(main)!)) as Partial<
    Record<'buffers' | 'images', { uri?: string }[]>
  >; // written just before
  for (const [key, type] of [
    ['buffers', 'application/octet-stream'],
    ['images', ''],
  ] as const) {
    for (const entry of json[key] ?? []) {
      const bytes = entry.uri === undefined ? undefined : files.get(decodeURIComponent(entry.uri));
      if (!bytes || entry.uri === undefined) continue;
      const ending = /\.(\w+)$/.exec(entry.uri)?.[1] ?? 'png';
      const mime = type || `image/${ending === 'jpg' ? 'jpeg' : ending}`;
      entry.uri = `data:${mime};base64,${Buffer.from(bytes).toString('base64')}`;
    }
  }
  return new TextEncoder().encode(`${JSON.stringify(json, null, 2)}\n`);
}

/** What formats of triangles alone have no place for. */
function lostIn(asset: ModelAsset, format: string): Warning[] {
  const kinds = [
    ['animations', 'clips'],
    ['skins', 'joints'],
    ['cameras', 'cameras'],
    ['lights', 'lights'],
    ['textures', 'textures'],
    ['variants', 'variants'],
  ] as const;
  const lost = kinds.filter(([key]) => asset[key].length > 0).map(([, what]) => what);
  if (lost.length === 0) return [];
  return [{ code: 'recast/dropped', message: `${format} has no ${lost.join(', ')}: left out`, where: {} }];
}
