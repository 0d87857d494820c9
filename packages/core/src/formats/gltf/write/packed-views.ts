import type { Json } from './json.js';

export type PackMode = 'ATTRIBUTES' | 'TRIANGLES' | 'INDICES';

/** What packs the bytes of a view: `MeshoptEncoder` of the package meshoptimizer is one. */
export interface ViewPacker {
  encodeGltfBuffer(
    source: Uint8Array,
    count: number,
    size: number,
    mode: string,
    version?: number,
  ): Uint8Array;
}

/** Version of the format of vertices that the extension asks for. */
const VERSION = 0;

/** Views that are written packed (EXT_meshopt_compression): each stands for bytes of a buffer that nobody has. */
export class PackedViews {
  /** Bytes that they stand for, all together. */
  private length = 0;

  constructor(private readonly packer: ViewPacker) {}

  get used(): boolean {
    return this.length > 0;
  }

  /**
   * @param add puts packed bytes into the file and tells where
   * @returns the view; undefined where it would not be smaller, or cannot be packed
   */
  pack(
    bytes: Uint8Array,
    count: number,
    byteStride: number,
    mode: PackMode,
    add: (packed: Uint8Array) => number,
  ): Json | undefined {
    const isFit =
      mode === 'ATTRIBUTES'
        ? byteStride % 4 === 0 && byteStride <= 256
        : byteStride === 2 || byteStride === 4;
    if (!isFit || count === 0) return undefined;
    const packed = this.packer.encodeGltfBuffer(bytes, count, byteStride, mode, VERSION);
    if (packed.length >= bytes.length) return undefined;
    const byteOffset = this.length;
    this.length += (bytes.length + 3) & ~3;
    return {
      buffer: 1,
      byteOffset,
      byteLength: bytes.length,
      extensions: {
        EXT_meshopt_compression: {
          buffer: 0,
          byteOffset: add(packed),
          byteLength: packed.length,
          byteStride,
          count,
          mode,
        },
      },
    };
  }

  /** The buffer that all of them lie in. */
  fallback(): Json {
    return { byteLength: this.length, extensions: { EXT_meshopt_compression: { fallback: true } } };
  }
}
