import { joined } from './byte-source.js';

/** Streams as browsers and Node have them. */
interface Packer {
  readonly writable: {
    getWriter(): { write(bytes: Uint8Array): Promise<void>; close(): Promise<void> };
  };
  readonly readable: {
    getReader(): {
      read(): Promise<{ done: false; value: Uint8Array } | { done: true }>;
      cancel(): Promise<void>;
    };
  };
}
declare const CompressionStream: new (format: 'deflate') => Packer;
declare const DecompressionStream: new (format: 'deflate') => Packer;

/** Packs bytes as zlib does. */
export function deflate(bytes: Uint8Array): Promise<Uint8Array<ArrayBuffer>> {
  return piped(bytes, new CompressionStream('deflate'), Infinity);
}

/**
 * Unpacks bytes of zlib.
 *
 * @param most bytes that may come out
 * @throws Error for what is damaged, or gives more
 */
export function inflate(bytes: Uint8Array, most = Infinity): Promise<Uint8Array<ArrayBuffer>> {
  return piped(bytes, new DecompressionStream('deflate'), most);
}

async function piped(bytes: Uint8Array, stream: Packer, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const writer = stream.writable.getWriter();
  const written = writer.write(bytes).then(() => writer.close());
  // What went wrong is told by reading.
  written.catch(() => undefined);
  const parts: Uint8Array[] = [];
  let size = 0;
  const reader = stream.readable.getReader();
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    size += part.value.length;
    if (size > most) {
      await reader.cancel();
      throw new Error(`more than ${most} bytes come out`);
    }
    parts.push(part.value);
  }
  return joined(parts, size);
}
