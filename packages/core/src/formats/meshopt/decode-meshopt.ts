/** Message of the error where the decoder cannot run. */
export const NO_WEBASSEMBLY = 'no WebAssembly';

/**
 * Unpacks what meshopt packed, by the package meshoptimizer, which is loaded when a file first asks for it.
 *
 * @param count elements, of `stride` bytes each
 * @throws Error saying what is wrong
 */
export async function decodeMeshopt(
  bytes: Uint8Array,
  count: number,
  stride: number,
  mode: 'ATTRIBUTES' | 'TRIANGLES' | 'INDICES',
  filter: string,
): Promise<Uint8Array> {
  const { MeshoptDecoder } = await import('meshoptimizer/decoder');
  if (!MeshoptDecoder.supported) throw new Error(NO_WEBASSEMBLY);
  await MeshoptDecoder.ready;
  const out = new Uint8Array(count * stride);
  MeshoptDecoder.decodeGltfBuffer(out, count, stride, bytes, mode, filter);
  return out;
}
