import type { DracoMesh, DracoWanted } from '../draco/decode-draco.js';
import type { DecodeKtx2Options, TexelLevels } from '../ktx2/decode-ktx2.js';
import { apart } from './apart.js';

/**
 * A picture of a KTX 2.0 file, for a GPU: packed as it is where the GPU takes that, transcoded (ETC1S to ETC2 or BC, UASTC to
 * ASTC), or as pixels. The work is done on a thread of its own, where there are threads.
 *
 * @throws LensError `ktx2/broken`, `ktx2/format` for what is not read, `ktx2/too-large`, `ktx2/no-picture` for a layer or face
 *   that is not there; `ktx2/unsupported` where the GPU does not take a format that is not decoded here
 */
export const decodeKtx2 = (bytes: Uint8Array, options: DecodeKtx2Options = {}): Promise<TexelLevels> =>
  apart('ktx2', bytes, options);

/**
 * Unpacks a mesh that Draco packed, on a thread of its own where there are threads.
 *
 * @param wanted attributes by their numbers in the packed mesh, and as what their values are wanted
 * @param most vertices that are expected; more are refused
 * @throws Error saying what is wrong
 */
export const unpackDraco = (
  bytes: Uint8Array,
  wanted: readonly DracoWanted[],
  most = Infinity,
): Promise<DracoMesh> => apart('draco', bytes, wanted, most);
