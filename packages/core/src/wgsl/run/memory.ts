import { alignOf, elementScalar, F16, roundUp, sizeOf, strideOf, type Type } from '../types/types.js';
import { f16FromBits, f16ToBits, fromBits, toBits, type Value } from '../types/values.js';

/**
 * Reads a value out of untyped memory by WGSL's layout (WGSL 14.4).
 *
 * @param words unsigned 32-bit words; what lies beyond them is 0
 * @param at offset in bytes
 * @param end where an array sized at run time ends, in bytes
 */
export function readMemory(words: number[], at: number, type: Type, end: number): Value {
  switch (type.kind) {
    case 'scalar': {
      const word = words[at >> 2] ?? 0;
      return type === F16 ? f16FromBits((word >>> ((at & 2) * 8)) & 65535) : fromBits(word, type);
    }
    case 'vec':
    case 'mat':
    case 'array':
      return Array.from({ length: countOf(type, at, end) }, (_, i) =>
        readMemory(words, at + i * stepOf(type), partOf(type), end),
      );
    case 'struct':
      return type.members.map((m) => readMemory(words, at + m.offset, m.type, end));
    case 'atomic':
      return readMemory(words, at, type.of, end);
    default:
      return 0;
  }
}

/** Writes a value into untyped memory; what lies beyond it is left out. */
export function writeMemory(words: number[], at: number, type: Type, value: Value): void {
  switch (type.kind) {
    case 'scalar': {
      const index = at >> 2;
      if (index >= words.length) return;
      if (type !== F16) words[index] = toBits(value as number, type);
      else {
        const shift = (at & 2) * 8;
        words[index] = ((words[index]! & ~(65535 << shift)) | (f16ToBits(value as number) << shift)) >>> 0;
      }
      return;
    }
    case 'vec':
    case 'mat':
    case 'array':
      return (value as Value[]).forEach((v, i) => writeMemory(words, at + i * stepOf(type), partOf(type), v));
    case 'struct':
      return type.members.forEach((m, i) =>
        writeMemory(words, at + m.offset, m.type, (value as Value[])[i]!),
      );
    case 'atomic':
      return writeMemory(words, at, type.of, value);
    default:
  }
}

type Listed = Type & { kind: 'vec' | 'mat' | 'array' };

const partOf = (type: Listed): Type => (type.kind === 'mat' ? type.column : type.of);

const stepOf = (type: Listed): number =>
  type.kind === 'array'
    ? strideOf(type)
    : type.kind === 'mat'
      ? roundUp(alignOf(type.column), sizeOf(type.column))
      : sizeOf(elementScalar(type)!); // vectors are made of scalars

function countOf(type: Listed, at: number, end: number): number {
  if (type.kind === 'vec') return type.size;
  if (type.kind === 'mat') return type.columns;
  return type.count ?? Math.max(0, Math.floor((end - at) / strideOf(type)));
}
