import {
  LensError,
  type ModelAsset,
  placeAsset,
  type PlaceOptions,
  readGltf,
  type Scene,
  type SceneNode,
} from '@umber-lens/core';
import { decodeImage } from './decode-image.js';

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
  /** Lets the model name files outside its folder or on other hosts. Default false. */
  allowOutside?: boolean;
}

/** A loaded model: place it as often as you like; geometry and textures are shared. */
export interface Model {
  readonly asset: ModelAsset;
  /** Hangs the model into a scene and returns the node it hangs from. */
  placeIn(scene: Scene, options?: PlaceOptions): SceneNode;
}

/**
 * Loads glTF (`.gltf` with its files, or `.glb`) with all its pictures decoded.
 *
 * @throws LensError `load/http` for what the server refuses, `load/network` when it cannot be
 *   reached, and those of `readGltf`
 */
export async function loadModel(url: string | URL, options: LoadModelOptions = {}): Promise<Model> {
  const base = new URL(url, document.baseURI);
  const { onProgress, signal, allowOutside = false } = options;
  const progress: Progress = { loaded: 0, total: 0, fraction: 0 };
  const tell = (fraction: number): void => {
    progress.fraction = Math.max(progress.fraction, Math.min(1, fraction));
    onProgress?.({ ...progress });
  };
  const fetchBytes = (address: URL): Promise<Uint8Array> =>
    download(address, signal, (arrived, expected) => {
      progress.loaded += arrived;
      progress.total += expected;
      // Decoding is the last tenth.
      tell(progress.total > 0 ? (0.9 * progress.loaded) / Math.max(progress.loaded, progress.total) : 0);
    });
  const bytes = await fetchBytes(base);
  const asset = await readGltf(bytes, {
    file: base.href,
    allowOutside,
    resolve: (path) =>
      fetchBytes(
        new URL(
          /^[a-z][a-z0-9+.-]*:/i.test(path) ? path : path.split('/').map(encodeURIComponent).join('/'),
          base,
        ),
      ),
  });
  let decoded = 0;
  await Promise.all(
    asset.images.map(async (image) => {
      await decodeImage(image);
      decoded++;
      tell(0.9 + (0.1 * decoded) / asset.images.length);
    }),
  );
  tell(1);
  return { asset, placeIn: (scene, placeOptions) => placeAsset(asset, scene, placeOptions).node };
}

async function download(
  address: URL,
  signal: AbortSignal | undefined,
  onBytes: (arrived: number, expected: number) => void,
): Promise<Uint8Array> {
  let response: Response;
  try {
    response = await fetch(address, signal ? { signal } : {});
  } catch (cause) {
    signal?.throwIfAborted();
    throw new LensError('load/network', `${address.href} cannot be reached`, {
      cause,
      where: { file: address.href },
    });
  }
  if (!response.ok) {
    throw new LensError('load/http', `the server answered ${response.status} ${response.statusText}`.trim(), {
      where: { file: address.href },
      hint: response.status === 404 ? 'The file is not there: see whether the path is right.' : '',
    });
  }
  // A compressed transfer announces the compressed size: better no total than a wrong one.
  const announced = response.headers.has('content-encoding')
    ? 0
    : Number(response.headers.get('content-length') ?? 0);
  onBytes(0, announced);
  if (!response.body) return new Uint8Array(await response.arrayBuffer());
  const parts: Uint8Array[] = [];
  let size = 0;
  const reader = response.body.getReader();
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    parts.push(part.value);
    size += part.value.length;
    onBytes(part.value.length, 0);
  }
  const whole = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
