import { AFLOAT, AINT, BOOL, F16, F32, I32, type Scalar, type Type, U32 } from './types.js';

/**
 * A value as plain JavaScript: numbers and booleans; vectors and arrays as arrays of their elements,
 * matrices as arrays of columns, structures as arrays of their members in order. A bigint stands for
 * an abstract whole number beyond 2^53, which only constants reach.
 */
export type Value = number | boolean | bigint | Value[];

/** An abstract whole number: as a number where that holds it exactly. @throws ValueFault beyond 64 bits */
export function wholeValue(exact: bigint, told = `${exact}`): number | bigint {
  if (BigInt.asIntN(64, exact) !== exact) throw new ValueFault(`${told} does not fit 64 bits`);
  const near = Number(exact);
  return Number.isSafeInteger(near) ? near : exact;
}

/** A fault that a constant expression may not have, or a run-time one that has a defined outcome. */
export class ValueFault extends Error {}

const f16Bits = new DataView(new ArrayBuffer(8));

/** Rounds to the nearest f16 (ties to even). */
export function roundF16(x: number): number {
  if (!Number.isFinite(x) || x === 0) return x;
  const magnitude = Math.abs(x);
  if (magnitude >= 65520) return x > 0 ? Infinity : -Infinity;
  const exponent = Math.max(-14, Math.floor(Math.log2(magnitude)));
  const step = 2 ** (exponent - 10);
  const scaled = magnitude / step;
  let whole = Math.floor(scaled);
  const rest = scaled - whole;
  if (rest > 0.5 || (rest === 0.5 && whole % 2 === 1)) whole++;
  return Math.sign(x) * whole * step;
}

/** Brings a number into a scalar type as the GPU would store it. */
export function rounder(type: Scalar): (x: number) => number {
  switch (type) {
    case F32:
      return Math.fround;
    case F16:
      return roundF16;
    case I32:
      return (x) => x | 0;
    case U32:
      return (x) => x >>> 0;
    default:
      return (x) => x;
  }
}

export const MOST_F32 = 3.4028234663852886e38;
export const MOST_F16 = 65504;

/** A constant of one scalar type as another, as in a conversion that the language does by itself. */
export function convertAbstract(value: Value, to: Scalar): Value {
  if (Array.isArray(value)) return value.map((v) => convertAbstract(v, to));
  if (typeof value === 'boolean') return value;
  switch (to) {
    case I32:
      if (value < -2147483648 || value > 2147483647) throw new ValueFault(`${value} does not fit i32`);
      return value;
    case U32:
      if (value < 0 || value > 4294967295) throw new ValueFault(`${value} does not fit u32`);
      return value;
    case F32: {
      const rounded = Math.fround(Number(value));
      if (!Number.isFinite(rounded)) throw new ValueFault(`${value} does not fit f32`);
      return rounded;
    }
    case F16: {
      const rounded = roundF16(Number(value));
      if (!Number.isFinite(rounded)) throw new ValueFault(`${value} does not fit f16`);
      return rounded;
    }
    default:
      return to === AFLOAT ? Number(value) : value;
  }
}

/** The greatest numbers that f32 and i32, and f32 and u32, both hold. */
const MOST_I32_AS_F32 = 2147483520;
const MOST_U32_AS_F32 = 4294967040;

/**
 * A value of one scalar as another, as `f32(x)` does it. A floating-point number out of range becomes the nearest
 * that both types hold, before it is cut (WGSL 15.7.6): of f32 that is 2147483520 for i32, not 2147483647, which f32
 * does not have. No number at all becomes the lowest, as a clamp on the GPU has it.
 */
export function convertScalar(value: number | boolean | bigint, from: Scalar, to: Scalar): number | boolean {
  if (to === BOOL) return typeof value === 'boolean' ? value : value !== 0;
  const x = Number(value);
  if (to !== I32 && to !== U32) return rounder(to)(x);
  if (from !== F32 && from !== F16 && from !== AFLOAT) return to === I32 ? x | 0 : x >>> 0;
  const [least, most] = to === I32 ? [-2147483648, 2147483647] : [0, 4294967295];
  const lowest = from === F16 ? Math.max(least, -65504) : least;
  const highest =
    from === F16 ? 65504 : from === F32 ? (to === I32 ? MOST_I32_AS_F32 : MOST_U32_AS_F32) : most;
  return Number.isNaN(x) ? lowest : Math.trunc(Math.min(highest, Math.max(lowest, x)));
}

/** The value that memory starts with. */
export function zeroValue(type: Type): Value {
  switch (type.kind) {
    case 'scalar':
      return type === BOOL ? false : 0;
    case 'vec':
      return Array.from({ length: type.size }, () => zeroValue(type.of));
    case 'mat':
      return Array.from({ length: type.columns }, () => zeroValue(type.column));
    case 'array':
      return Array.from({ length: type.count ?? 0 }, () => zeroValue(type.of));
    case 'struct':
      return type.members.map((m) => zeroValue(m.type));
    case 'buffer':
      return Array.from({ length: (type.size ?? 0) / 4 }, () => 0);
    default:
      return 0;
  }
}

export function copyValue<T extends Value>(value: T): T {
  return (Array.isArray(value) ? value.map(copyValue) : value) as T;
}

export function sameValue(a: Value, b: Value): boolean {
  if (Array.isArray(a))
    return Array.isArray(b) && a.length === b.length && a.every((v, i) => sameValue(v, b[i]!));
  return a === b;
}

/** Applies a function to matching components of values of one shape. */
export function mapComponents(f: (...xs: number[]) => Value, args: Value[]): Value {
  const shape = args.find(Array.isArray) as Value[] | undefined;
  if (!shape) return f(...(args as number[]));
  return shape.map((_, i) =>
    mapComponents(
      f,
      args.map((arg) => (Array.isArray(arg) ? arg[i]! : arg)),
    ),
  );
}

const bits = new DataView(new ArrayBuffer(8));

/** Bits of a scalar, as an unsigned number. */
export function toBits(value: number | boolean, type: Scalar): number {
  if (typeof value === 'boolean') return value ? 1 : 0;
  if (type === F32) {
    bits.setFloat32(0, value);
    return bits.getUint32(0);
  }
  if (type === F16) return f16ToBits(value);
  return value >>> 0;
}

export function fromBits(word: number, type: Scalar): number {
  if (type === F32) {
    bits.setUint32(0, word);
    return bits.getFloat32(0);
  }
  if (type === F16) return f16FromBits(word);
  return type === I32 || type === AINT ? word | 0 : word >>> 0;
}

export function f16ToBits(x: number): number {
  f16Bits.setFloat32(0, x);
  const sign = (f16Bits.getUint32(0) >>> 16) & 0x8000;
  if (Number.isNaN(x)) return sign | 0x7e00;
  const value = Math.abs(roundF16(x));
  if (value === Infinity) return sign | 0x7c00;
  if (value === 0) return sign;
  const exponent = Math.max(-15, Math.floor(Math.log2(value)));
  if (exponent < -14) return sign | Math.round(value / 2 ** -24);
  return sign | ((exponent + 15) << 10) | Math.round((value / 2 ** exponent - 1) * 1024);
}

export function f16FromBits(word: number): number {
  const sign = word & 0x8000 ? -1 : 1;
  const exponent = (word >>> 10) & 31;
  const fraction = word & 1023;
  if (exponent === 31) return fraction ? Number.NaN : sign * Infinity;
  return sign * (exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15));
}

/** An integer or float literal: its value and type. @throws ValueFault when it does not fit */
export function readLiteral(text: string, kind: 'int' | 'float'): { value: number | bigint; type: Scalar } {
  const isHex = /^0x/i.test(text);
  if (kind === 'int') {
    const suffix = /[iu]$/.exec(text)?.[0];
    const digits = suffix ? text.slice(0, -1) : text;
    const exact = BigInt(digits);
    const type = suffix === 'i' ? I32 : suffix === 'u' ? U32 : AINT;
    const most = type === I32 ? 2147483647n : type === U32 ? 4294967295n : 9223372036854775807n;
    if (exact > most) throw new ValueFault(`${text} does not fit ${suffix ? type.key : '64 bits'}`);
    return { value: wholeValue(exact), type };
  }
  const suffix = isHex ? /[pP].*([fh])$/.exec(text)?.[1] : /[fh]$/.exec(text)?.[0];
  const digits = suffix ? text.slice(0, -1) : text;
  const value = isHex ? readHexFloat(digits) : Number(digits);
  const type = suffix === 'f' ? F32 : suffix === 'h' ? F16 : AFLOAT;
  const most = type === F32 ? MOST_F32 : type === F16 ? MOST_F16 : Number.MAX_VALUE;
  const rounded = rounder(type)(value);
  if (!(Math.abs(rounded) <= most))
    throw new ValueFault(`${text} does not fit ${type === AFLOAT ? '64 bits' : type.key}`);
  if (isHex && type !== AFLOAT && rounded !== value)
    throw new ValueFault(`${text} cannot be held exactly by ${type.key}`);
  return { value: rounded, type };
}

function readHexFloat(text: string): number {
  const match = /^0x([0-9a-f]*)\.?([0-9a-f]*)(?:p([+-]?\d+))?$/i.exec(text);
  const [, whole = '', fraction = '', exponent = '0'] = match ?? [];
  const digits = BigInt(`0x${whole}${fraction || ''}` === '0x' ? '0x0' : `0x${whole}${fraction}`);
  const power = Math.max(-3000, Math.min(3000, Number(exponent))) - 4 * fraction.length;
  // Two steps, since 2^power alone may leave the range that the product is in.
  const half = Math.trunc(power / 2);
  return Number(digits) * 2 ** half * 2 ** (power - half);
}
