import { AINT, elementScalar, F16, F32, I32, type Mat, type Scalar, type Type, U32 } from './types.js';
import {
  f16FromBits,
  f16ToBits,
  fromBits,
  mapComponents,
  MOST_F16,
  roundF16,
  rounder,
  toBits,
  type Value,
  ValueFault,
  wholeValue,
} from './values.js';

/** Computes a built-in function. `types` are those its arguments were brought to. */
export type BuiltinValue = (...args: Value[]) => Value;

const FLOAT: Record<string, (x: number) => number> = {
  acos: Math.acos,
  acosh: Math.acosh,
  asin: Math.asin,
  asinh: Math.asinh,
  atan: Math.atan,
  atanh: Math.atanh,
  ceil: Math.ceil,
  cos: Math.cos,
  cosh: Math.cosh,
  degrees: (x) => (x * 180) / Math.PI,
  exp: Math.exp,
  exp2: (x) => 2 ** x,
  floor: Math.floor,
  fract: (x) => x - Math.floor(x),
  inverseSqrt: (x) => 1 / Math.sqrt(x),
  log: Math.log,
  log2: Math.log2,
  radians: (x) => (x * Math.PI) / 180,
  round: (x) => {
    const whole = Math.round(x);
    // Halves go to the even neighbour.
    return Math.abs(x % 1) === 0.5 && whole % 2 !== 0 ? whole - 1 : whole;
  },
  saturate: (x) => Math.min(1, Math.max(0, x)),
  sin: Math.sin,
  sinh: Math.sinh,
  sqrt: Math.sqrt,
  tan: Math.tan,
  tanh: Math.tanh,
  trunc: Math.trunc,
};

const BITS: Record<string, (x: number, type: Scalar) => number> = {
  countLeadingZeros: (x) => Math.clz32(x),
  countOneBits: (x) => ones(x),
  countTrailingZeros: (x) => (x === 0 ? 32 : 31 - Math.clz32(x & -x)),
  firstLeadingBit: (x, type) => {
    const word = type === I32 && x < 0 ? ~x : x;
    return word === 0 ? -1 : 31 - Math.clz32(word);
  },
  firstTrailingBit: (x) => (x === 0 ? -1 : 31 - Math.clz32(x & -x)),
  reverseBits: (x) => {
    let out = 0;
    for (let i = 0; i < 32; i++) out |= ((x >>> i) & 1) << (31 - i);
    return out;
  },
};

function ones(x: number): number {
  let n = 0;
  for (let word = x >>> 0; word !== 0; word &= word - 1) n++;
  return n;
}

const list = (v: Value): number[] => (Array.isArray(v) ? (v as number[]) : [v as number]);

/** The function for arguments of the given types. Undefined for those that need textures, memory or a quad of pixels. */
export function builtinValue(name: string, types: Type[], result: Type): BuiltinValue | undefined {
  const of = (types[0] && elementScalar(types[0])) ?? F32;
  const round = rounder(of);
  const each = (f: (...xs: number[]) => Value): BuiltinValue => {
    if (types.every((t) => t.kind === 'scalar')) return f as BuiltinValue;
    return (...args) => mapComponents(f, args);
  };
  const float = FLOAT[name];
  if (float) return each((x) => round(float(x)));
  const bit = BITS[name];
  if (bit) return each((x) => round(bit(x, of)));
  // Sums as a GPU may compute them: each product and each sum rounded.
  const dot = (a: Value, b: Value): number =>
    list(a).reduce((sum, x, i) => round(sum + product(x, list(b)[i]!)), 0);
  const wholeDot = (a: Value, b: Value): Value =>
    wholeValue(list(a).reduce((sum, x, i) => sum + BigInt(x) * BigInt(list(b)[i]!), 0n));
  const product = (x: number, y: number): number =>
    of === I32 || of === U32 ? round(Math.imul(x, y)) : round(x * y);
  const length = (a: Value): number => round(Math.sqrt(list(a).reduce((sum, x) => sum + x * x, 0)));
  const scaled = (a: Value, f: number): Value => list(a).map((x) => round(x * f));
  const plus = (a: Value, b: Value): Value => list(a).map((x, i) => round(x + list(b)[i]!));
  switch (name) {
    case 'abs':
      // Compared, not handed to Math.abs: an abstract whole number may be a bigint.
      return each((x) =>
        x < 0 ? (of === AINT ? wholeValue(BigInt.asIntN(64, -BigInt(x))) : round(-x)) : x === 0 ? 0 : x,
      );
    case 'sign':
      return each((x) => (x > 0 ? 1 : x < 0 ? -1 : 0));
    case 'min':
      return each((x, y) => (y < x ? y : x));
    case 'max':
      return each((x, y) => (x < y ? y : x));
    case 'clamp':
      return each((x, low, high) => {
        const up = x < low ? low : x;
        return high < up ? high : up;
      });
    case 'atan2':
      return each((y, x) => round(Math.atan2(y, x)));
    case 'pow':
      return each((x, y) => round(x < 0 ? Number.NaN : Math.pow(x, y)));
    case 'step':
      return each((edge, x) => (edge <= x ? 1 : 0));
    case 'fma':
      return each((a, b, c) => round(a * b + c));
    case 'smoothstep':
      return each((low, high, x) => {
        const t = Math.min(1, Math.max(0, round(round(x - low) / round(high - low))));
        return round(t * t * (3 - 2 * t));
      });
    case 'quantizeToF16':
      return each((x) => {
        const rounded = roundF16(x);
        return Math.abs(rounded) < 2 ** -14 ? (Math.abs(x) < 2 ** -24 ? 0 : rounded) : rounded;
      });
    case 'mix':
      return each((a, b, t) => round(round(a * round(1 - t)) + round(b * t)));
    case 'ldexp':
      return each((x, e) => {
        const half = Math.trunc(e / 2);
        return round(x * 2 ** half * 2 ** (e - half));
      });
    case 'all':
      return (a) => list(a).every(Boolean);
    case 'any':
      return (a) => list(a).some(Boolean);
    case 'select':
      return (a, b, c) =>
        Array.isArray(c) ? (a as Value[]).map((x, i) => (c[i] ? (b as Value[])[i]! : x)) : c ? b : a;
    case 'cross':
      return (a, b) => {
        const [x, y] = [list(a), list(b)] as [number[], number[]];
        return [0, 1, 2].map((k) => {
          const [i, j] = [(k + 1) % 3, (k + 2) % 3];
          return round(round(x[i]! * y[j]!) - round(x[j]! * y[i]!));
        });
      };
    case 'dot':
      return of === AINT ? wholeDot : dot;
    case 'distance':
      return (a, b) => length(list(a).map((x, i) => round(x - list(b)[i]!)));
    case 'length':
      return length;
    case 'normalize':
      return (a) => {
        const n = length(a);
        return list(a).map((x) => round(x / n));
      };
    case 'faceForward':
      return (n, i, reference) => (dot(i, reference) < 0 ? n : list(n).map((x) => -x));
    case 'reflect':
      return (i, n) => plus(i, scaled(n, round(-2 * dot(n, i))));
    case 'refract':
      return (i, n, ratio) => {
        const eta = ratio as number;
        const d = dot(n, i);
        const k = round(1 - eta * eta * (1 - d * d));
        if (k < 0) return list(i).map(() => 0);
        return plus(scaled(i, eta), scaled(n, round(-(eta * d + Math.sqrt(k)))));
      };
    case 'determinant':
      return (m) => round(determinant(m as number[][]));
    case 'transpose':
      return (m) =>
        Array.from({ length: (types[0] as Mat).rows }, (_, r) =>
          (m as number[][]).map((column) => column[r]!),
        );
    case 'frexp':
      return (a) => {
        const parts = list(a).map((x) => frexp(x));
        return Array.isArray(a)
          ? [parts.map((p) => p[0]), parts.map((p) => p[1])]
          : [parts[0]![0], parts[0]![1]];
      };
    case 'modf':
      return (a) => {
        const whole = mapComponents((x) => Math.trunc(x), [a]);
        return [mapComponents((x, w) => round(x - w), [a, whole]), whole];
      };
    case 'extractBits':
      return (v, offset, count) => {
        const o = Math.min(offset as number, 32);
        const c = Math.min(count as number, 32 - o);
        return mapComponents(
          (x) =>
            c === 0
              ? 0
              : of === I32
                ? (x << (32 - c - o)) >> (32 - c)
                : (x >>> o) & (c === 32 ? -1 : (1 << c) - 1),
          [v],
        );
      };
    case 'insertBits':
      return (v, fresh, offset, count) => {
        const o = Math.min(offset as number, 32);
        const c = Math.min(count as number, 32 - o);
        const mask = c === 0 ? 0 : (c === 32 ? -1 : (1 << c) - 1) << o;
        return mapComponents((x, y) => round((x & ~mask) | ((o === 32 ? 0 : y << o) & mask)), [v, fresh]);
      };
    case 'dot4U8Packed':
      return (a, b) => bytes(a).reduce((sum, x, i) => sum + x * bytes(b)[i]!, 0) >>> 0;
    case 'dot4I8Packed':
      return (a, b) => bytes(a).reduce((sum, x, i) => sum + signed(x) * signed(bytes(b)[i]!), 0);
    case 'pack4x8snorm':
      return (a) => word(list(a).map((x) => Math.floor(0.5 + 127 * clamp(x, -1, 1)) & 255));
    case 'pack4x8unorm':
      return (a) => word(list(a).map((x) => Math.floor(0.5 + 255 * clamp(x, 0, 1))));
    case 'pack4xI8':
    case 'pack4xU8':
      return (a) => word(list(a).map((x) => x & 255));
    case 'pack4xI8Clamp':
      return (a) => word(list(a).map((x) => clamp(x, -128, 127) & 255));
    case 'pack4xU8Clamp':
      return (a) => word(list(a).map((x) => Math.min(x, 255)));
    case 'pack2x16snorm':
      return (a) => halves(list(a).map((x) => Math.floor(0.5 + 32767 * clamp(x, -1, 1)) & 65535));
    case 'pack2x16unorm':
      return (a) => halves(list(a).map((x) => Math.floor(0.5 + 65535 * clamp(x, 0, 1))));
    case 'pack2x16float':
      return (a) => halves(list(a).map(f16ToBits));
    case 'unpack4x8snorm':
      return (a) => bytes(a).map((x) => Math.fround(Math.max(-1, signed(x) / 127)));
    case 'unpack4x8unorm':
      return (a) => bytes(a).map((x) => Math.fround(x / 255));
    case 'unpack4xI8':
      return (a) => bytes(a).map(signed);
    case 'unpack4xU8':
      return bytes;
    case 'unpack2x16snorm':
      return (a) => words16(a).map((x) => Math.fround(Math.max(-1, ((x << 16) >> 16) / 32767)));
    case 'unpack2x16unorm':
      return (a) => words16(a).map((x) => Math.fround(x / 65535));
    case 'unpack2x16float':
      return (a) => words16(a).map(f16FromBits);
    case 'bitcast':
      return bitcast(types[0]!, result);
    default:
      return undefined;
  }
}

const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x));
const bytes = (v: Value): number[] => [0, 8, 16, 24].map((shift) => ((v as number) >>> shift) & 255);
const signed = (byte: number): number => (byte << 24) >> 24;
const word = (b: number[]): number => (b[0]! | (b[1]! << 8) | (b[2]! << 16) | (b[3]! << 24)) >>> 0;
const halves = (h: number[]): number => (h[0]! | (h[1]! << 16)) >>> 0;
const words16 = (v: Value): number[] => [(v as number) & 65535, (v as number) >>> 16];

function frexp(x: number): [number, number] {
  if (x === 0 || !Number.isFinite(x)) return [x, 0];
  const exponent = Math.max(-1074, Math.floor(Math.log2(Math.abs(x)))) + 1;
  let fraction = x * 2 ** -exponent;
  let e = exponent;
  if (Math.abs(fraction) >= 1) [fraction, e] = [fraction / 2, e + 1];
  if (Math.abs(fraction) < 0.5) [fraction, e] = [fraction * 2, e - 1];
  return [fraction, e];
}

function determinant(m: number[][]): number {
  if (m.length === 2) return m[0]![0]! * m[1]![1]! - m[1]![0]! * m[0]![1]!;
  return m.reduce((sum, column, c) => {
    const minor = m.filter((_, i) => i !== c).map((rest) => rest.slice(1));
    return sum + (c % 2 ? -1 : 1) * column[0]! * determinant(minor);
  }, 0);
}

/** Reinterprets bits; vec2<f16> pairs up with 32 bits. */
function bitcast(from: Type, to: Type): BuiltinValue {
  const [a, b] = [elementScalar(from)!, elementScalar(to)!];
  if ((a === F16) === (b === F16)) {
    return (v) => mapComponents((x) => fromBits(toBits(x, a), b), [v]);
  }
  return (v) => {
    const parts = list(v).map((x) => toBits(x, a));
    if (a === F16) {
      const out = Array.from({ length: parts.length / 2 }, (_, i) =>
        fromBits(halves([parts[i * 2]!, parts[i * 2 + 1]!]), b),
      );
      return to.kind === 'scalar' ? out[0]! : out;
    }
    return parts.flatMap((p) => [f16FromBits(p & 65535), f16FromBits(p >>> 16)]);
  };
}

/**
 * What constants must fulfil beyond having a finite result.
 *
 * @throws ValueFault
 */
export function checkConstantCall(name: string, types: Type[], args: Value[]): void {
  const components = (i: number): number[] => list(args[i]!);
  const of = types[0] && elementScalar(types[0]);
  switch (name) {
    case 'clamp':
      components(1).forEach((low, i) => {
        if (low > components(2)[i]!)
          throw new ValueFault(`clamp's lower limit ${low} is above its upper ${components(2)[i]}`);
      });
      break;
    case 'smoothstep':
      components(0).forEach((low, i) => {
        if (low === components(1)[i]!) throw new ValueFault(`smoothstep's two edges are both ${low}`);
      });
      break;
    case 'extractBits':
    case 'insertBits': {
      const [offset, count] = args.slice(-2) as [number, number];
      if (offset + count > 32) throw new ValueFault(`bits ${offset} to ${offset + count} are more than 32`);
      break;
    }
    case 'ldexp': {
      const bias = of === F16 ? 15 : of === F32 ? 127 : 1023;
      for (const e of components(1))
        if (e > bias + 1) throw new ValueFault(`an exponent of ${e} is above ${bias + 1}`);
      break;
    }
    case 'quantizeToF16':
      for (const x of components(0))
        if (Math.abs(x) > MOST_F16) throw new ValueFault(`${x} does not fit f16`);
      break;
    case 'pack2x16float':
      for (const x of components(0))
        if (!(Math.abs(roundF16(x)) <= MOST_F16)) throw new ValueFault(`${x} does not fit f16`);
      break;
    default:
  }
}
