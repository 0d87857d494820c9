import {
  type ByteSource,
  formatOf,
  type ModelAsset,
  readGltf,
  type ReadModelOptions,
} from '@umber-lens/core';

/** `readModel`, but that readers besides that of glTF are fetched when a file is of their kind. */
export async function readAny(bytes: Uint8Array, options: ReadModelOptions): Promise<ModelAsset> {
  if (formatOf(bytes.subarray(0, 4096), bytes.length) === 'gltf') return readGltf(bytes, options);
  const { readModel } = await import('./other-formats.js');
  return readModel(bytes as ByteSource, options);
}
