import { formatOf, type ModelAsset, readGltf, type ReadModelOptions } from '@umber-lens/core';
import { takeWhole } from './download.js';

/** Bytes that tell what a file is. */
const HEAD = 4096;

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
  const coming = pieces[Symbol.asyncIterator]();
  const first: Uint8Array[] = [];
  for (let length = 0; length < HEAD;) {
    const { done, value } = await coming.next();
    if (done) break;
    first.push(value);
    length += value.length;
  }
  async function* all(): AsyncGenerator<Uint8Array> {
    try {
      yield* first.splice(0);
      for (let next = await coming.next(); !next.done; next = await coming.next()) yield next.value;
    } finally {
      await coming.return?.();
    }
  }
  const head = await takeWhole(only(first));
  if (formatOf(head.subarray(0, HEAD), options.size) === 'gltf') {
    const bytes = await takeWhole(all());
    return () => readGltf(bytes, options);
  }
  const { readModel } = await import('./other-formats.js');
  const asset = await readModel(all(), { ...options, resolve: part });
  return () => Promise.resolve(asset);
}

async function* only(pieces: readonly Uint8Array[]): AsyncGenerator<Uint8Array> {
  yield* [...pieces];
}
