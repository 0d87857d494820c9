import {
  gatherSheet,
  type LoadedSheet,
  type MaterialShader,
  noteAddress,
  readCube,
  type Sheet,
  type SheetLoader,
  type SheetNames,
} from '@umber-lens/core/engine';
import { Messages } from '#messages';
import { baseAddress } from './base-address.js';
import { loadEnvironment } from './load-environment.js';
import { loadModel, type Progress } from './load-model.js';
import { loadTexture } from './load-texture.js';
import type { Model } from './model.js';
import { type FetchOptions, fetchFile } from './queue.js';

/** A sheet with all that it names, in the hands of whoever loaded it. */
export interface LoadedSheetFile<N extends SheetNames = SheetNames> extends LoadedSheet<N> {
  /** Gives up its models and textures: what nobody else has is freed, and placings of its models leave their scenes. */
  dispose(): void;
}

export interface LoadSheetOptions extends FetchOptions {
  /** Hears how far its models have come, all together. */
  onProgress?: (progress: Progress) => void;
  /** Lets its models name files outside their folders or on other hosts. Default false. */
  allowOutside?: boolean;
}

/** What the import of a sheet is, by the plugin `sheets` of `@umber-lens/vite`. */
export interface SheetImport<N extends SheetNames = SheetNames> {
  /** For types alone. */
  readonly names?: N;
  /** From the project's folder. */
  readonly file: string;
  readonly sheet: Sheet;
  /** Where the files are that it names, by what stands in it. */
  readonly addresses: Readonly<Record<string, string>>;
  readonly shaders: Readonly<Record<string, MaterialShader>>;
  readonly sheets: Readonly<Record<string, SheetImport>>;
  /** Calls back when the file was changed while serving. @returns stops that */
  onChange(listener: () => void): () => void;
}

/**
 * Loads a sheet (`*.sheet.json`) with everything that it names: models, textures, panoramas, shaders, tables, other sheets. WGSL is
 * compiled in the page.
 *
 *     const stage = applySheet(scene, await loadSheet('stage.sheet.json'), { lens });
 *
 * @param source its address, or its import
 * @throws LensError what is wrong in it, all at once, each with line and column: those of `readSheet`, and those of the loaders
 */
export async function loadSheet<N extends SheetNames = SheetNames>(
  source: string | URL | SheetImport<N>,
  options: LoadSheetOptions = {},
): Promise<LoadedSheetFile<N>> {
  const imported = typeof source === 'string' || source instanceof URL ? undefined : source;
  const { allowOutside = false, onProgress, ...fetching } = options;
  const all: Progress[] = [];
  if (!imported) Messages.source('loadSheet', source as string | URL);
  const base = imported?.file ?? new URL(source as string | URL, baseAddress()).href;
  const read = async (address: string): Promise<string> =>
    new TextDecoder().decode(await fetchFile(new URL(address, baseAddress()), fetching, () => undefined));
  const held: { dispose(): void }[] = [];
  const hold = <T extends { dispose(): void }>(thing: T): T => {
    held.push(thing);
    return thing;
  };
  const loader: SheetLoader = {
    join: (file, address) => new URL(address, file).href,
    text: read,
    async model(address) {
      const own = all.push({ loaded: 0, total: 0, fraction: 0 }) - 1;
      const hear = (progress: Progress): void => {
        all[own] = progress;
        const sum = (key: keyof Progress): number => all.reduce((total, one) => total + one[key], 0);
        onProgress?.({
          loaded: sum('loaded'),
          total: sum('total'),
          fraction: sum('fraction') / all.length,
        });
      };
      const model: Model = hold(await loadModel(address, { ...fetching, allowOutside, onProgress: hear }));
      return model.asset;
    },
    async image(address) {
      return hold(await loadTexture(address, fetching)).texture.image;
    },
    panorama: ([first, ...others]) =>
      loadEnvironment(others.length > 0 ? [first!, ...others] : first!, fetching), // there is one
    shader: async (address) => (await import('./load-shader.js')).loadShader(address, 'material', read),
    effect: async (address) => (await import('./load-shader.js')).loadShader(address, 'effect', read),
    async table(address) {
      const table = readCube(await read(address), address);
      noteAddress(table, address);
      return table;
    },
  };
  const dispose = (): void => held.splice(0).forEach((thing) => thing.dispose());
  try {
    const loaded = imported
      ? await gatherSheet(JSON.stringify(imported.sheet), base, withImports(imported, loader))
      : await gatherSheet(await read(base), base, loader);
    return { ...(loaded as LoadedSheet<N>), dispose };
  } catch (error) {
    dispose();
    throw error;
  }
}

/** Has what a sheet names come from where its import says. */
function withImports(imported: SheetImport, loader: SheetLoader): SheetLoader {
  const byFile = new Map<string, SheetImport>();
  const note = (one: SheetImport): void => {
    if (byFile.has(one.file)) return;
    byFile.set(one.file, one);
    Object.values(one.sheets).forEach(note);
  };
  note(imported);
  const shaders = new Map<string, MaterialShader>();
  return {
    ...loader,
    join(file, address) {
      const { addresses, sheets, shaders: own } = byFile.get(file)!; // of those that were noted
      const shader = own[address];
      if (shader) shaders.set(`${file} ${address}`, shader);
      return (
        sheets[address]?.file ??
        (shader ? `${file} ${address}` : new URL(addresses[address] ?? address, baseAddress()).href)
      );
    },
    text: (file) => Promise.resolve(JSON.stringify(byFile.get(file)!.sheet)), // as above
    // Those that were not compiled ahead are where addresses say.
    shader: (key) => Promise.resolve(shaders.get(key) ?? loader.shader(key)),
    effect: (key) => Promise.resolve(shaders.get(key) ?? loader.effect(key)),
  };
}
