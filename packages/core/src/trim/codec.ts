import { LensError } from '../errors/lens-error.js';

/** @throws LensError `trim/no-wasm` */
export async function readyCodec<T extends { supported: boolean; ready: Promise<void> }>(
  codec: T,
): Promise<T> {
  if (!codec.supported)
    throw new LensError('trim/no-wasm', 'this machine runs no WebAssembly, which meshes are worked on with', {
      hint: 'Use Node 20 or a browser of these years.',
    });
  await codec.ready;
  return codec;
}
