import { LensError } from '../errors/lens-error.js';
import type { ModelAsset } from './asset/asset.js';
import { type ByteSource, HEAD, peek, wholeOf } from './bytes/byte-source.js';
import { imageTypeOf } from './bytes/image-type.js';
import { textOf } from './bytes/words.js';
import type { Resolve } from './gltf/read/accessors.js';
import { startOf } from './gltf/read/container.js';
import { readGltf } from './gltf/read/read.js';
import { readObj } from './obj/read-obj.js';
import { readPly } from './ply/read-ply.js';
import { isText, readStl } from './stl/read-stl.js';

export interface ReadModelOptions {
  /** Name for messages. */
  file?: string;
  /** Gives the bytes of files that the model names, by paths with `/`. */
  resolve?: Resolve;
  /** Lets glTF name files outside its folder and on the network. Default false. */
  allowOutside?: boolean;
  /** Bytes of the whole file, where it comes in pieces and they are known. */
  size?: number;
}

export type ModelFormat = 'gltf' | 'obj' | 'ply' | 'stl';

/**
 * Reads a model of any format that is known, told by its contents and not by its name: glTF and GLB, OBJ, PLY, STL.
 *
 * @throws LensError `model/format` for what is none of them; those of the readers
 */
export async function readModel(source: ByteSource, options: ReadModelOptions = {}): Promise<ModelAsset> {
  const { file = '', resolve, allowOutside, size } = options;
  const { head, all } = await peek(source);
  const format = formatOf(head, source instanceof Uint8Array ? source.length : size);
  const shared = { file, ...(resolve ? { resolve } : {}) };
  switch (format) {
    case 'gltf':
      return readGltf(await wholeOf(all), {
        ...shared,
        ...(allowOutside === undefined ? {} : { allowOutside }),
      });
    case 'obj':
      return readObj(all, shared);
    case 'ply':
      return readPly(all, shared);
    case 'stl':
      return readStl(all, { file, ...(size === undefined ? {} : { size }) });
    default: {
      const picture = imageTypeOf(head);
      throw new LensError(
        'model/format',
        head.length === 0
          ? 'the file is empty'
          : picture
            ? `this is a picture (${picture}), and no model`
            : `this is no model of a format that is read: it starts with ${startOf(head)}`,
        { where: { file }, hint: 'glTF, GLB, OBJ, PLY and STL are read, whatever the file is called.' },
      );
    }
  }
}

/**
 * What a file is, by its first bytes; undefined for what is none of them.
 *
 * @param size of the whole file, where it is known
 */
export function formatOf(head: Uint8Array, size?: number): ModelFormat | undefined {
  const text = textOf(head, 0, Math.min(head.length, HEAD)).replace(/^\uFEFF/, '');
  if (text.startsWith('glTF') || /^\s*\{/.test(text)) return 'gltf';
  if (/^ply[ \t]*[\r\n]/.test(text)) return 'ply';
  if (isText(head, size)) return 'stl';
  if (size !== undefined && head.length >= 84) {
    const count = new DataView(head.buffer, head.byteOffset).getUint32(80, true);
    // Some programs leave a little behind the last triangle.
    if (count > 0 && size >= 84 + count * 50 && size - (84 + count * 50) < 84) return 'stl';
  }
  if (
    /^(v|vn|vt|f|o|g|s|usemtl|mtllib|l|p)[ \t]+\S/m.test(text.replaceAll('\r', '\n')) &&
    !text.includes('\0')
  )
    return 'obj';
  // A binary STL that was cut off, or is longer than its header says: nothing else has as little text.
  if (/^solid\b/i.test(text) && text.includes('\0')) return 'stl';
  return undefined;
}
