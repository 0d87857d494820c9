import { LensError } from '../../../errors/lens-error.js';
import { apart } from '../../apart/apart.js';
import { decodeMeshopt, NO_WEBASSEMBLY } from '../../meshopt/decode-meshopt.js';
import type { Cursor } from './cursor.js';

const MODES = ['ATTRIBUTES', 'TRIANGLES', 'INDICES'] as const;
/** The last is one of KHR_meshopt_compression. */
const FILTERS = ['NONE', 'OCTAHEDRAL', 'QUATERNION', 'EXPONENTIAL', 'COLOR'] as const;
/** Bytes that are worth a thread. */
const LARGE = 1 << 18;
/** Bytes that one compressed view may unpack to: 1 GiB. */
const MOST_BYTES = 2 ** 30;

/**
 * Unpacks a buffer view that is compressed (EXT_meshopt_compression, KHR_meshopt_compression).
 *
 * @returns undefined for views that are not
 * @throws LensError `gltf/meshopt` for bytes that cannot be unpacked, and what the checks of numbers say
 */
export async function unpackView(
  place: Cursor,
  buffers: readonly (Uint8Array | undefined)[],
): Promise<Uint8Array | undefined> {
  const at = place.extension('EXT_meshopt_compression') ?? place.extension('KHR_meshopt_compression');
  if (!at) return undefined;
  const buffer = at.need('buffer').pick(buffers, 'buffer');
  const byteOffset = at.whole('byteOffset') ?? 0;
  const byteLength = at.need('byteLength').asWhole(1);
  const stride = at.need('byteStride').asWhole(1, 256);
  const count = at.need('count').asWhole(1);
  at.need('mode');
  const mode = at.choice('mode', MODES)!; // needed just above
  const filter = at.choice('filter', FILTERS) ?? 'NONE';
  if (!buffer) return at.need('buffer').fail('no-bytes', 'the buffer with the compressed bytes has none');
  if (byteOffset + byteLength > buffer.length)
    at.fail(
      'view-out-of-bounds',
      `compressed bytes end at ${byteOffset + byteLength} of a buffer of ${buffer.length}`,
    );
  if (mode === 'ATTRIBUTES' ? stride % 4 !== 0 : stride !== 2 && stride !== 4)
    at.need('byteStride').fail(
      'stride',
      `${mode} cannot have a stride of ${stride}`,
      'Attributes have multiples of 4, indices 2 or 4.',
    );
  if (mode === 'TRIANGLES' && count % 3 !== 0)
    at.need('count').fail('count', `${count} indices make no whole triangles`);
  const wanted = place.need('byteLength').asWhole(1);
  if (count * stride !== wanted)
    at.fail('length', `${count} elements of ${stride} bytes do not make the view's ${wanted} bytes`);
  if (wanted > MOST_BYTES)
    at.fail('too-large', `the view would unpack to ${wanted} bytes`, `At most ${MOST_BYTES} are read.`);
  const packed = buffer.subarray(byteOffset, byteOffset + byteLength);
  try {
    // What is small is unpacked before a thread would have begun.
    return wanted < LARGE
      ? await decodeMeshopt(packed, count, stride, mode, filter)
      : await apart('meshopt', packed.slice(), count, stride, mode, filter);
  } catch (cause) {
    if (cause instanceof Error && cause.message === NO_WEBASSEMBLY)
      throw new LensError('gltf/meshopt', 'this machine runs no WebAssembly, which compressed models need', {
        where: at.where,
        hint: 'Use the model without meshopt compression.',
      });
    return at.fail(
      'meshopt',
      'the compressed bytes are damaged',
      'Get the file again, or export it without compression.',
    );
  }
}
