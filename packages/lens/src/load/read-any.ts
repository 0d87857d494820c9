import {
  formatOf,
  type ModelAsset,
  peek,
  readGltf,
  type ReadModelOptions,
  wholeOf,
} from '@umber-lens/core/engine';

/**
 * `readModel` of what is still coming, but that readers besides that of glTF are fetched when a file is of their kind: those
 * keep what becomes of the bytes alone.
 *
 * @param part gives files that a model names while it is still coming: whoever waits for its turn there would wait for ever
 * @returns what gives the asset, to be called when the file has come
 */
export async function readAny(
  pieces: AsyncIterable<Uint8Array>,
  options: ReadModelOptions,
  part: (path: string) => Promise<Uint8Array>,
): Promise<() => Promise<ModelAsset>> {
  const { all, head } = await peek(pieces);
  if (formatOf(head, options.size) === 'gltf') {
    const bytes = await wholeOf(all);
    return () => readGltf(bytes, options);
  }
  const { readModel } = await import('./other-formats.js');
  const asset = await readModel(all, { ...options, resolve: part });
  return () => Promise.resolve(asset);
}
