import { dirname, isAbsolute, join, relative, sep } from 'node:path';
import {
  applySheet,
  assetOf,
  gatherSheet,
  type Image,
  imageTypeOf,
  type LoadedSheet,
  type ModelAsset,
  noteAddress,
  readCube,
  readModel,
  Scene,
  type SheetLoader,
  strictJson,
  withLists,
} from '@umber-lens/core/engine';
import { compileEffect, compileMaterialShader } from 'umber-lens/shaders';
import { openEnvironment } from './open-environment.js';
import { readInput } from './read-input.js';
import { readShader } from './open-shader.js';

/** A sheet read from disk with all that it names. */
export interface OpenedSheet {
  loaded: LoadedSheet;
  /** Its nodes with those of its models, as a model. */
  asset: ModelAsset;
  /** Every file it is made of, by its path below the folder that holds them all; the sheet itself comes first. */
  files: Map<string, Uint8Array>;
}

/** Whether bytes are a sheet: JSON, with a member `sheet` at its top. */
export function isSheet(bytes: Uint8Array): boolean {
  if (bytes[0] === 0x67) return false; // "g" of "glTF"
  const text = new TextDecoder().decode(bytes.subarray(0, 1 << 16));
  if (!/^\s*[{/]/.test(text.replace(/^\uFEFF/, '')) || !/"(sheet|nodes|materials)"\s*:/.test(text))
    return false;
  try {
    const json: unknown = JSON.parse(strictJson(new TextDecoder().decode(bytes)));
    return typeof json === 'object' && json !== null && 'sheet' in json;
  } catch {
    // What is damaged is what it says it is.
    return /"sheet"\s*:/.test(text) && !/"asset"\s*:/.test(text);
  }
}

/**
 * Reads a sheet with all files it names.
 *
 * @throws LensError those of `gatherSheet`
 */
export async function openSheet(
  file: string,
  bytes: Uint8Array,
  allowOutside: boolean,
): Promise<OpenedSheet> {
  const read = new Map<string, Uint8Array>([[file, bytes]]);
  const take = async (path: string): Promise<Uint8Array> => {
    const found = read.get(path) ?? (await readInput(path));
    read.set(path, found);
    return found;
  };
  const text = async (path: string): Promise<string> => new TextDecoder().decode(await take(path));
  const shader = async (path: string): Promise<{ text: string; sources: Record<string, string> }> => {
    const opened = await readShader(path);
    read.set(path, new TextEncoder().encode(opened.graph?.text ?? opened.text));
    for (const [name, source] of Object.entries(opened.sources))
      read.set(name, new TextEncoder().encode(source));
    return opened;
  };
  const loader: SheetLoader = {
    join: (from, address) => (isAbsolute(address) ? address : join(dirname(from), ...address.split('/'))),
    text,
    model: async (path) => {
      const asset = await readModel(await take(path), {
        file: path,
        allowOutside,
        resolve: (name) => take(join(dirname(path), name)),
      });
      noteAddress(asset.nodes, path);
      return asset;
    },
    image: async (path) => {
      const content = await take(path);
      const mimeType = imageTypeOf(content) ?? 'image/png';
      const image: Image = {
        name: path.split(sep).at(-1)!,
        content: { kind: 'encoded', bytes: content, mimeType },
      }; // there is a part
      noteAddress(image, path);
      return image;
    },
    panorama: async (paths) => {
      for (const path of paths) await take(path);
      return openEnvironment(paths);
    },
    shader: async (path) => {
      const { sources, text: wgsl } = await shader(path);
      return compileMaterialShader(wgsl, { file: path, sources });
    },
    effect: async (path) => {
      const { sources, text: wgsl } = await shader(path);
      return compileEffect(wgsl, { file: path, sources });
    },
    table: async (path) => readCube(await text(path), path),
  };
  const loaded = await gatherSheet(new TextDecoder().decode(bytes), file, loader);
  const scene = new Scene();
  applySheet(scene, loaded);
  return { loaded, asset: { ...withLists(assetOf(scene)), format: 'sheet' }, files: belowOne(read) };
}

/** Files by their paths below the folder that holds them all. */
function belowOne(files: ReadonlyMap<string, Uint8Array>): Map<string, Uint8Array> {
  const folders = [...files.keys()].map((path) =>
    join(process.cwd(), relative(process.cwd(), path)).split(sep).slice(0, -1),
  );
  let shared = folders[0]?.length ?? 0;
  for (const folder of folders)
    while (folder.slice(0, shared).join(sep) !== folders[0]!.slice(0, shared).join(sep)) shared--; // there is one
  const root = folders[0]!.slice(0, shared).join(sep) || sep; // there is one
  return new Map(
    [...files].map(([path, bytes]) => [
      relative(root, join(process.cwd(), relative(process.cwd(), path)))
        .split(sep)
        .join('/'),
      bytes,
    ]),
  );
}
