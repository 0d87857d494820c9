import { LensError } from '@umber-lens/core/engine';
import type { TypedNumbers } from '../device.js';
import { STORAGE_ROW_WORDS } from './shader.js';

/** A storage buffer as a texture of four words a texel: WebGL2 has no storage buffers that shaders could read. */
export interface StorageTexture {
  handle: WebGLTexture;
  rows: number;
  /** What it holds, from the first write on that is not of whole texels; until then nobody needs it. */
  words: Uint32Array | undefined;
  /** Whether anything was written that `words` does not know. */
  isWritten: boolean;
}

const ROW_TEXELS = STORAGE_ROW_WORDS / 4;
const ROW_BYTES = STORAGE_ROW_WORDS * 4;

/** Makes the texture, bound to the active unit. @throws LensError `device/size` */
export function createStorage(
  gl: WebGL2RenderingContext,
  label: string,
  size: number,
  maxTextureSize: number,
  bind: (handle: WebGLTexture) => void,
): StorageTexture {
  const rows = Math.ceil(size / ROW_BYTES);
  if (rows > maxTextureSize) {
    throw new LensError('device/size', `storage buffer "${label}" of ${size} bytes is too large`, {
      hint: `WebGL2 takes ${maxTextureSize * ROW_BYTES} bytes here.`,
    });
  }
  const handle = gl.createTexture();
  bind(handle);
  gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32UI, ROW_TEXELS, rows);
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
  return { handle, rows, words: undefined, isWritten: false };
}

/** Writes numbers into the texture, which is bound to the active unit. Bytes; `offset` a multiple of 4. */
export function writeStorage(
  gl: WebGL2RenderingContext,
  storage: StorageTexture,
  offset: number,
  data: TypedNumbers,
  first: number,
  length: number,
): void {
  const bytes = length * data.BYTES_PER_ELEMENT;
  const start = first * data.BYTES_PER_ELEMENT;
  const isWhole = offset % 16 === 0 && bytes % 16 === 0 && (data.byteOffset + start) % 4 === 0;
  if (!isWhole) storage.words ??= readBack(gl, storage);
  if (!storage.words) {
    storage.isWritten = true;
    writeTexels(gl, offset >> 4, bytes >> 4, wordsOf(data), start >> 2);
    return;
  }
  const { words } = storage;
  new Uint8Array(words.buffer).set(new Uint8Array(data.buffer, data.byteOffset + start, bytes), offset);
  const from = offset >> 4;
  writeTexels(gl, from, ((offset + bytes + 15) >> 4) - from, words, from * 4);
}

/** Copies what one texture holds to the beginning of another, which is bound to the active unit and has as many rows or more. */
export function copyStorage(gl: WebGL2RenderingContext, from: StorageTexture, to: StorageTexture): void {
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, from.handle, 0);
  gl.copyTexSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 0, 0, ROW_TEXELS, from.rows);
  gl.deleteFramebuffer(framebuffer);
  to.isWritten = true;
  if (!from.words) return;
  to.words = new Uint32Array(to.rows * STORAGE_ROW_WORDS);
  to.words.set(from.words);
}

/** A run of texels is at most three rectangles: the rest of a row, whole rows, and the beginning of another. */
function writeTexels(
  gl: WebGL2RenderingContext,
  from: number,
  count: number,
  words: Uint32Array,
  at: number,
): void {
  let texel = from;
  let word = at;
  const end = from + count;
  while (texel < end) {
    const x = texel % ROW_TEXELS;
    const left = end - texel;
    const isRows = x === 0 && left >= ROW_TEXELS;
    const width = isRows ? ROW_TEXELS : Math.min(left, ROW_TEXELS - x);
    const height = isRows ? Math.floor(left / ROW_TEXELS) : 1;
    const y = (texel - x) / ROW_TEXELS;
    gl.texSubImage2D(gl.TEXTURE_2D, 0, x, y, width, height, gl.RGBA_INTEGER, gl.UNSIGNED_INT, words, word);
    texel += width * height;
    word += width * height * 4;
  }
}

/** The same memory as words; one view for each array, since a frame is not to make any. */
function wordsOf(data: TypedNumbers): Uint32Array {
  if (data instanceof Uint32Array) return data;
  let words = views.get(data);
  if (!words || words.buffer !== data.buffer) {
    words = new Uint32Array(data.buffer, data.byteOffset, data.byteLength >> 2);
    views.set(data, words);
  }
  return words;
}

const views = new WeakMap<TypedNumbers, Uint32Array>();

/** What the texture holds; slow, and done once at most. */
function readBack(gl: WebGL2RenderingContext, { handle, rows, isWritten }: StorageTexture): Uint32Array {
  const words = new Uint32Array(rows * STORAGE_ROW_WORDS);
  if (!isWritten) return words;
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, handle, 0);
  gl.readPixels(0, 0, ROW_TEXELS, rows, gl.RGBA_INTEGER, gl.UNSIGNED_INT, words);
  gl.deleteFramebuffer(framebuffer);
  return words;
}
