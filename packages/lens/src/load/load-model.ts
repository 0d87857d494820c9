import { type LensError, type ModelAsset, noteAddress } from '@umber-lens/core/engine';
import { Messages } from '#messages';
import { decodeImage, releaseImage } from '../resources/decode-image.js';
import { type Model, modelOf } from './model.js';
import { baseAddress } from './base-address.js';
import { fetchAs, type FetchOptions, fetchFile } from './queue.js';
import { readAny } from './read-any.js';
import { SharedLoads } from './shared-loads.js';

/** How far a load has come. */
export interface Progress {
  /** Bytes that have arrived, all files together. */
  loaded: number;
  /** Bytes expected so far; 0 while unknown. Grows as the model names more files. */
  total: number;
  /** 0..1; 1 only once everything is decoded. */
  fraction: number;
}

export interface LoadModelOptions extends FetchOptions {
  onProgress?: (progress: Progress) => void;
  /** Lets the model name files outside its folder or on other hosts. Default false. */
  allowOutside?: boolean;
  /**
   * Whether an address that is loaded already, or being loaded, is loaded no second time: what is written to its materials is
   * seen in every model of it. Default true.
   */
  shared?: boolean;
  /** Hears what is doubtful in the model: names that are there twice. Default the console. */
  onMessage?: (message: LensError) => void;
}

const loads = new SharedLoads<ModelAsset, Progress>((asset) => asset.images.forEach(releaseImage));

/**
 * Loads a model with all its pictures decoded: glTF (`.gltf` with its files, or `.glb`), OBJ with its MTL, PLY or STL, told
 * by its contents and not by its name. One that is loaded already is shared: see `Model.dispose`.
 *
 * When one of its files fails, the others are given up as well.
 *
 * @throws LensError `load/http` for what the server refuses, `load/network` when it cannot be reached or goes
 *   away half-way, `load/length` when less arrives than was announced, `load/timeout`, and those of `readModel`;
 *   what `signal` was aborted with
 */
export async function loadModel(url: string | URL, options: LoadModelOptions = {}): Promise<Model> {
  Messages.source('loadModel', url);
  const base = new URL(url, baseAddress());
  const { allowOutside = false, onMessage, onProgress, shared = true, signal } = options;
  if (!shared) {
    const asset = await loadAsset(base, options, signal ?? new AbortController().signal, onProgress);
    return modelOf(asset, () => asset.images.forEach(releaseImage), onMessage);
  }
  const key = `${base.href} ${allowOutside}`;
  const asset = await loads.join(key, signal, onProgress, (stop, tell) =>
    loadAsset(base, options, stop, tell),
  );
  return modelOf(asset, () => loads.release(key, asset), onMessage);
}

/**
 * Loads several models, with one progress for all. When one fails, the others are given up.
 *
 *     const { quay, tug } = await loadModels({ quay: 'quay.glb', tug: 'tug.glb' }, { onProgress });
 *
 * @throws as `loadModel`
 */
export async function loadModels<Name extends string>(
  addresses: Record<Name, string | URL>,
  options: LoadModelOptions = {},
): Promise<Record<Name, Model>> {
  const { onProgress, signal } = options;
  const others = new AbortController();
  const stop = signal ? AbortSignal.any([signal, others.signal]) : others.signal;
  const names = Object.keys(addresses) as Name[];
  const all = names.map((): Progress => ({ loaded: 0, total: 0, fraction: 0 }));
  const sum = (key: keyof Progress): number => all.reduce((total, one) => total + one[key], 0);
  const loading = names.map((name, i) =>
    loadModel(addresses[name], {
      ...options,
      signal: stop,
      onProgress: (progress) => {
        all[i] = progress;
        onProgress?.({ loaded: sum('loaded'), total: sum('total'), fraction: sum('fraction') / all.length });
      },
    }),
  );
  try {
    const models = await Promise.all(loading);
    return Object.fromEntries(names.map((name, i) => [name, models[i]])) as Record<Name, Model>;
  } catch (error) {
    others.abort(error);
    // Those that came give back what they share.
    for (const one of await Promise.allSettled(loading)) if (one.status === 'fulfilled') one.value.dispose();
    throw error;
  }
}

async function loadAsset(
  base: URL,
  options: LoadModelOptions,
  signal: AbortSignal,
  onProgress: ((progress: Progress) => void) | undefined,
): Promise<ModelAsset> {
  const { allowOutside = false } = options;
  const others = new AbortController();
  const stop = AbortSignal.any([signal, others.signal]);
  const progress: Progress = { loaded: 0, total: 0, fraction: 0 };
  const tell = (fraction: number): void => {
    progress.fraction = Math.max(progress.fraction, Math.min(1, fraction));
    onProgress?.({ ...progress });
  };
  const fetching = { ...options, signal: stop };
  const hear = (arrived: number, expected: number): void => {
    progress.loaded += arrived;
    progress.total += expected;
    // Decoding is the last tenth.
    tell(progress.total > 0 ? (0.9 * progress.loaded) / Math.max(progress.loaded, progress.total) : 0);
  };
  const named = (path: string, isPart: boolean): Promise<Uint8Array> => {
    const isAddress = /^[a-z][a-z0-9+.-]*:/i.test(path);
    const address = new URL(isAddress ? path : path.split('/').map(encodeURIComponent).join('/'), base);
    return fetchFile(address, fetching, hear, isPart);
  };
  let asset: ModelAsset;
  try {
    const read = await fetchAs(base, fetching, hear, (pieces, size) =>
      readAny(
        pieces,
        {
          file: base.href,
          allowOutside,
          resolve: (path) => named(path, false),
          ...(size === undefined ? {} : { size }),
        },
        (path) => named(path, true),
      ),
    );
    asset = await read();
    noteAddress(asset.nodes, base.href);
  } catch (error) {
    others.abort(error);
    signal.throwIfAborted();
    throw error;
  }
  let decoded = 0;
  await Promise.all(
    asset.images.map(async (image) => {
      await decodeImage(image);
      decoded++;
      tell(0.9 + (0.1 * decoded) / asset.images.length);
    }),
  );
  tell(1);
  return asset;
}
