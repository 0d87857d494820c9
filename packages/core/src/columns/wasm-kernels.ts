import type { NodeColumns } from './columns.js';
import type { Kernels, KernelView } from './kernels.js';
import { KERNELS } from './kernels-wasm.js';
import type { ColumnArray, COLUMNS } from './layout.js';

/** Columns whose places the kernels find in the header, in their order there. */
const HEADER_COLUMNS = 16;
/** Words of the header that the kernels write or read. */
const MOVED_FROM = 16;
const MOVED_TO = 17;
const BAD_ROW = 18;
const PLANES = 32;
const DEPTH = 56;
/** Bytes of the header. */
const HEADER = 256;
const PAGE = 65536;

/** A memory that columns lie in, with the kernels that work on it. */
export interface WasmHeap {
  readonly kernels: Kernels;
  /** Gives each column its new length, in the order of `COLUMNS`; what they held stays. */
  layOut(old: readonly ColumnArray[], lengths: readonly number[]): ColumnArray[];
}

interface Exports {
  updateRange(from: number, to: number, stamp: number): number;
  updateRows(count: number): void;
  viewKeys(from: number, to: number, cull: number, mask: number): number;
}

/** The parts of the host's interface that are used: core is compiled without its types. */
interface Host {
  Memory: new (options: { initial: number }) => { readonly buffer: ArrayBuffer; grow(pages: number): void };
  Instance: new (module: object, imports: object) => { readonly exports: unknown };
  compile(bytes: Uint8Array): Promise<object>;
}

/**
 * Compiles the kernels.
 *
 * @param columns what lies in a memory, in this order: handed in, so that this part of a page loads by itself
 * @returns what makes fresh memories with their kernels
 * @throws whatever the host throws that has no WebAssembly, no SIMD, or forbids it
 */
export async function compileKernels(columns: typeof COLUMNS): Promise<() => WasmHeap> {
  const host = (globalThis as unknown as { WebAssembly: Host }).WebAssembly;
  const compiled = await host.compile(bytesOf(KERNELS));
  return () => {
    const memory = new host.Memory({ initial: 1 });
    const { exports } = new host.Instance(compiled, { env: { memory } });
    return heapOn(columns, memory, exports as Exports);
  };
}

function heapOn(columns: typeof COLUMNS, memory: InstanceType<Host['Memory']>, exports: Exports): WasmHeap {
  let words = new Int32Array(memory.buffer);
  let floats = new Float32Array(memory.buffer);
  const layOut: WasmHeap['layOut'] = (old, lengths) => {
    const wasHere = old[0]?.buffer === memory.buffer;
    const before = old.map(({ byteOffset, byteLength }) => [byteOffset, byteLength] as const);
    const offsets: number[] = [];
    let end = HEADER;
    columns.forEach(([, Kind], i) => {
      offsets.push(end);
      end = (end + lengths[i]! * Kind.BYTES_PER_ELEMENT + 63) & ~63; // parallel to the columns
    });
    const missing = Math.ceil(end / PAGE) - memory.buffer.byteLength / PAGE;
    // Growing takes the old views' memory away: their content is still there, at its old place.
    if (missing > 0) memory.grow(missing);
    const bytes = new Uint8Array(memory.buffer);
    // No column moves down, so from the last to the first none is overwritten before it is moved.
    for (let i = columns.length - 1; i >= 0; i--) {
      const [from, length] = before[i]!; // as many as columns, here and below
      const to = offsets[i]!;
      if (wasHere) bytes.copyWithin(to, from, from + length);
      else bytes.set(new Uint8Array(old[i]!.buffer, from, length), to);
      bytes.fill(0, to + length, to + lengths[i]! * columns[i]![1].BYTES_PER_ELEMENT);
    }
    words = new Int32Array(memory.buffer);
    floats = new Float32Array(memory.buffer);
    for (let i = 0; i < HEADER_COLUMNS; i++) words[i] = offsets[i]!;
    return columns.map(([, Kind], i) => new Kind(memory.buffer, offsets[i], lengths[i]));
  };
  const kernels: Kernels = {
    updateRange(scene, from, to, stamp) {
      words[BAD_ROW] = -1;
      const moved = exports.updateRange(from, to, stamp);
      scene.movedFrom = words[MOVED_FROM]!; // in the header, here and below
      scene.movedTo = words[MOVED_TO]!;
      scene.badRow = words[BAD_ROW]!;
      return moved;
    },
    updateRows(scene: NodeColumns, count: number) {
      words[BAD_ROW] = -1;
      exports.updateRows(count);
      scene.badRow = words[BAD_ROW]!;
    },
    viewKeys(_, { planes, forward, position }: KernelView, from, to, cull, mask) {
      for (let i = 0; i < 24; i++) floats[PLANES + i] = planes[i]!; // six of four
      let camera = 0;
      for (let k = 0; k < 3; k++) {
        floats[DEPTH + k] = forward[k]!;
        camera += forward[k]! * position[k]!;
      }
      floats[DEPTH + 3] = -camera;
      return exports.viewKeys(from, (to + 3) & ~3, cull ? 1 : 0, mask);
    },
  };
  return { kernels, layOut };
}

const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Bytes written in base64 (RFC 4648, 4), without padding: core knows no host function for it. */
function bytesOf(text: string): Uint8Array {
  const bytes = new Uint8Array(Math.floor((text.length * 3) / 4));
  let bits = 0;
  let held = 0;
  let at = 0;
  for (let i = 0; i < text.length; i++) {
    held = (held << 6) | ALPHABET.indexOf(text[i]!); // i < length
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    bytes[at++] = (held >> bits) & 255;
  }
  return bytes;
}
