import {
  LensError,
  type Material,
  type ModelAsset,
  nearHint,
  placeAsset,
  type PlaceOptions,
  type Scene,
  type SceneNode,
} from '@umber-lens/core';
import { decodeImage } from './decode-image.js';
import { download } from './download.js';
import { readAny } from './read-any.js';

/** How far a load has come. */
export interface Progress {
  /** Bytes that have arrived, all files together. */
  loaded: number;
  /** Bytes expected so far; 0 while unknown. Grows as the model names more files. */
  total: number;
  /** 0..1; 1 only once everything is decoded. */
  fraction: number;
}

export interface LoadModelOptions {
  onProgress?: (progress: Progress) => void;
  /** Stops the load. */
  signal?: AbortSignal;
  /** Seconds without a single byte after which the load is given up. Default 30; Infinity waits for ever. */
  timeout?: number;
  /** Lets the model name files outside its folder or on other hosts. Default false. */
  allowOutside?: boolean;
}

/** A loaded model: place it as often as you like; geometry and textures are shared. */
export interface Model {
  readonly asset: ModelAsset;
  /** Names of its clips; a `Motion` of a placing plays them. */
  readonly animationNames: string[];
  /**
   * The material of this name, the first of several; what is written to it is seen in every placing.
   *
   * @throws LensError `model/no-material` with the names that there are
   */
  material(name: string): Material;
  /** Hangs the model into a scene and returns the node it hangs from. */
  placeIn(scene: Scene, options?: PlaceOptions): SceneNode;
}

/**
 * Loads a model with all its pictures decoded: glTF (`.gltf` with its files, or `.glb`), OBJ with its MTL, PLY or STL, told
 * by its contents and not by its name.
 *
 * When one of its files fails, the others are given up as well.
 *
 * @throws LensError `load/http` for what the server refuses, `load/network` when it cannot be reached or goes
 *   away half-way, `load/length` when less arrives than was announced, `load/timeout`, and those of `readModel`;
 *   what `signal` was aborted with
 */
export async function loadModel(url: string | URL, options: LoadModelOptions = {}): Promise<Model> {
  const base = new URL(url, document.baseURI);
  const { onProgress, signal, timeout = 30, allowOutside = false } = options;
  const others = new AbortController();
  const stop = signal ? AbortSignal.any([signal, others.signal]) : others.signal;
  const progress: Progress = { loaded: 0, total: 0, fraction: 0 };
  const tell = (fraction: number): void => {
    progress.fraction = Math.max(progress.fraction, Math.min(1, fraction));
    onProgress?.({ ...progress });
  };
  const fetchBytes = (address: URL): Promise<Uint8Array> =>
    download(address, stop, timeout, (arrived, expected) => {
      progress.loaded += arrived;
      progress.total += expected;
      // Decoding is the last tenth.
      tell(progress.total > 0 ? (0.9 * progress.loaded) / Math.max(progress.loaded, progress.total) : 0);
    });
  const resolve = (path: string): Promise<Uint8Array> => {
    const isAddress = /^[a-z][a-z0-9+.-]*:/i.test(path);
    return fetchBytes(new URL(isAddress ? path : path.split('/').map(encodeURIComponent).join('/'), base));
  };
  let asset: ModelAsset;
  try {
    asset = await readAny(await fetchBytes(base), { file: base.href, allowOutside, resolve });
  } catch (error) {
    others.abort(error);
    signal?.throwIfAborted();
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
  return modelOf(asset);
}

/** A model of an asset that was read elsewhere, its pictures decoded or not. */
export function modelOf(asset: ModelAsset): Model {
  return {
    asset,
    animationNames: asset.animations.map(({ name }, i) => name ?? `animation ${i}`),
    material(name) {
      const found = asset.materials.find((material) => material.name === name);
      if (found) return found;
      throw new LensError('model/no-material', `the model has no material "${name}"`, {
        hint: nearHint(
          name,
          asset.materials.flatMap((material) => material.name ?? []),
        ),
      });
    },
    placeIn: (scene, placeOptions) => placeAsset(asset, scene, placeOptions).node,
  };
}
