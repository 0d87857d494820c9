import { gatherSheet, type LoadedSheet, noteAddress, type SheetLoader } from '@umber-lens/core/engine';
import { readCube } from '@umber-lens/core/engine';
import { Messages } from '#messages';
import { baseAddress } from './base-address.js';
import { loadEnvironment } from './load-environment.js';
import { loadModel } from './load-model.js';
import { loadTexture } from './load-texture.js';
import type { Model } from './model.js';
import { type FetchOptions, fetchFile } from './queue.js';

/** A sheet with all that it names, in the hands of whoever loaded it. */
export interface LoadedSheetFile extends LoadedSheet {
  /** Gives up its models and textures: what nobody else has is freed, and placings of its models leave their scenes. */
  dispose(): void;
}

export interface LoadSheetOptions extends FetchOptions {
  /** Lets its models name files outside their folders or on other hosts. Default false. */
  allowOutside?: boolean;
}

/**
 * Loads a sheet (`*.sheet.json`) with everything that it names: models, textures, panoramas, shaders, tables, other sheets. WGSL is
 * compiled in the page.
 *
 *     const stage = applySheet(scene, await loadSheet('stage.sheet.json'), { lens });
 *
 * @throws LensError what is wrong in it, all at once, each with line and column: those of `readSheet`, and those of the loaders
 */
export async function loadSheet(url: string | URL, options: LoadSheetOptions = {}): Promise<LoadedSheetFile> {
  Messages.source('loadSheet', url);
  const base = new URL(url, baseAddress());
  const { allowOutside = false, ...fetching } = options;
  const read = async (address: string): Promise<string> =>
    new TextDecoder().decode(await fetchFile(new URL(address), fetching, () => undefined));
  const held: { dispose(): void }[] = [];
  const hold = <T extends { dispose(): void }>(thing: T): T => {
    held.push(thing);
    return thing;
  };
  const loader: SheetLoader = {
    join: (file, address) => new URL(address, file).href,
    text: read,
    async model(address) {
      const model: Model = hold(await loadModel(address, { ...fetching, allowOutside }));
      return model.asset;
    },
    async image(address) {
      return hold(await loadTexture(address, fetching)).texture.image;
    },
    panorama: ([first, ...others]) =>
      loadEnvironment(others.length > 0 ? [first!, ...others] : first!, fetching), // there is one
    shader: async (address) =>
      (await import('../shaders/index.js')).compileMaterialShader(await read(address), { file: address }),
    effect: async (address) =>
      (await import('../shaders/index.js')).compileEffect(await read(address), { file: address }),
    async table(address) {
      const table = readCube(await read(address), address);
      noteAddress(table, address);
      return table;
    },
  };
  const dispose = (): void => held.splice(0).forEach((thing) => thing.dispose());
  try {
    const loaded = await gatherSheet(await read(base.href), base.href, loader);
    return { ...loaded, dispose };
  } catch (error) {
    dispose();
    throw error;
  }
}
