import {
  type Builtin,
  type BuiltinTable,
  type Class,
  define,
  elementwise,
  resultStruct,
  same,
} from './builtin-table.js';
import { commonScalar } from './operators.js';
import {
  AFLOAT,
  AINT,
  BOOL,
  concrete,
  elementScalar,
  F32,
  I32,
  isAbstract,
  isFloat,
  type Mat,
  mat,
  type Type,
  U32,
  type Vec,
  vec,
  withScalar,
} from './types.js';

const table: BuiltinTable = new Map();

/** Functions of numbers: mathematics, bits, packing, and derivatives. */
export const NUMBER_BUILTINS: ReadonlyMap<string, Builtin> = table;

elementwise(
  table,
  'acos acosh asin asinh atan atanh ceil cos cosh degrees exp exp2 floor fract inverseSqrt log log2 radians round saturate sin sinh sqrt tan tanh trunc',
  1,
  'float',
);
elementwise(table, 'abs', 1, 'number');
elementwise(table, 'sign', 1, 'signed');
elementwise(table, 'min max', 2, 'number');
elementwise(table, 'clamp', 3, 'number');
elementwise(table, 'atan2 pow step', 2, 'float');
elementwise(table, 'fma smoothstep', 3, 'float');
elementwise(
  table,
  'countLeadingZeros countOneBits countTrailingZeros firstLeadingBit firstTrailingBit reverseBits',
  1,
  'integer',
);
elementwise(table, 'quantizeToF16', 1, 'f32');
for (const name of ['dpdx', 'dpdy', 'fwidth']) {
  for (const suffix of ['', 'Coarse', 'Fine']) {
    elementwise(table, name + suffix, 1, 'f32');
    Object.assign(table.get(name + suffix)!, { isConstant: false, stages: ['fragment'] });
  }
}

const vectors = (args: Type[], cls: Class, sizes: number[] = [2, 3, 4]): Vec | undefined => {
  const t = same(args, cls);
  return t?.kind === 'vec' && sizes.includes(t.size) ? t : undefined;
};
define(table, 'all any', '(bool or vector of bool)', (args) => {
  const t = args.length === 1 ? same(args, 'bool') : undefined;
  return t && { params: [t], result: BOOL };
});
define(table, 'select', '(T, T, bool or vector of bool)', ([a, b, c, ...rest]) => {
  if (!a || !b || !c || rest.length > 0 || elementScalar(c) !== BOOL) return undefined;
  const t = same([a, b], 'any');
  if (!t) return undefined;
  const fits = c === BOOL || (c.kind === 'vec' && t.kind === 'vec' && c.size === t.size);
  return fits ? { params: [t, t, c], result: t } : undefined;
});
define(table, 'cross', '(vec3, vec3) of float type', (args) => {
  const t = args.length === 2 ? vectors(args, 'float', [3]) : undefined;
  return t && { params: [t, t], result: t };
});
define(table, 'dot', '(T, T) with T a vector of numbers', (args) => {
  const t = args.length === 2 ? vectors(args, 'number') : undefined;
  return t && { params: [t, t], result: t.of };
});
define(table, 'distance', '(T, T) with T a scalar or vector of float type', (args) => {
  const t = args.length === 2 ? same(args, 'float') : undefined;
  return t && { params: [t, t], result: elementScalar(t)! };
});
define(table, 'length', '(T) with T a scalar or vector of float type', (args) => {
  const t = args.length === 1 ? same(args, 'float') : undefined;
  return t && { params: [t], result: elementScalar(t)! };
});
define(table, 'normalize', '(vector of float type)', (args) => {
  const t = args.length === 1 ? vectors(args, 'float') : undefined;
  return t && { params: [t], result: t };
});
define(table, 'faceForward', '(T, T, T) with T a vector of float type', (args) => {
  const t = args.length === 3 ? vectors(args, 'float') : undefined;
  return t && { params: [t, t, t], result: t };
});
define(table, 'reflect', '(T, T) with T a vector of float type', (args) => {
  const t = args.length === 2 ? vectors(args, 'float') : undefined;
  return t && { params: [t, t], result: t };
});
define(table, 'refract', '(T, T, float) with T a vector of float type', ([a, b, ratio, ...rest]) => {
  if (!a || !b || ratio?.kind !== 'scalar' || rest.length > 0) return undefined;
  const t = vectors([a, b], 'float');
  const of = t && commonScalar(t.of, ratio);
  if (!t || !of || !isFloat(of)) return undefined;
  return { params: [withScalar(t, of), withScalar(t, of), of], result: withScalar(t, of) };
});
define(table, 'mix', '(T, T, T or float) with T a scalar or vector of float type', (args) => {
  if (args.length !== 3) return undefined;
  const [a, b, c] = args as [Type, Type, Type];
  const whole = same(args, 'float');
  if (whole) return { params: [whole, whole, whole], result: whole };
  const t = vectors([a, b], 'float');
  const of = t && c.kind === 'scalar' ? commonScalar(t.of, c) : undefined;
  if (!t || !of || !isFloat(of)) return undefined;
  return { params: [withScalar(t, of), withScalar(t, of), of], result: withScalar(t, of) };
});
define(
  table,
  'ldexp',
  '(T, integer of the same shape) with T a scalar or vector of float type',
  ([a, b, ...rest]) => {
    const t = a && same([a], 'float');
    if (!t || !b || rest.length > 0) return undefined;
    const exponent = withScalar(t, I32);
    if (b !== exponent && b !== withScalar(t, AINT)) return undefined;
    // Constants stay abstract only together.
    if (isAbstract(t) && !isAbstract(b)) return { params: [concrete(t), exponent], result: concrete(t) };
    return { params: [t, isAbstract(t) ? b : exponent], result: t };
  },
);
define(table, 'extractBits', '(T, u32, u32) with T a scalar or vector of integers', ([a, b, c, ...rest]) => {
  const t = a && same([a], 'integer');
  if (!t || rest.length > 0 || !isCount(b) || !isCount(c)) return undefined;
  return { params: [t, U32, U32], result: t };
});
define(
  table,
  'insertBits',
  '(T, T, u32, u32) with T a scalar or vector of integers',
  ([a, b, c, d, ...rest]) => {
    const t = a && b && same([a, b], 'integer');
    if (!t || rest.length > 0 || !isCount(c) || !isCount(d)) return undefined;
    return { params: [t, t, U32, U32], result: t };
  },
);
const isCount = (t: Type | undefined): boolean => t === U32 || t === AINT;
define(table, 'determinant', '(square matrix)', ([m, ...rest]) =>
  m?.kind === 'mat' && m.columns === m.rows && rest.length === 0 ? { params: [m], result: m.of } : undefined,
);
define(table, 'transpose', '(matrix)', ([m, ...rest]) =>
  m?.kind === 'mat' && rest.length === 0
    ? { params: [m], result: mat(m.rows, m.columns, (m as Mat).of) }
    : undefined,
);

define(table, 'frexp', '(T) with T a scalar or vector of float type', (args) => {
  const t = args.length === 1 ? same(args, 'float') : undefined;
  const exponent = t && withScalar(t, elementScalar(t) === AFLOAT ? AINT : I32);
  return (
    t && {
      params: [t],
      result: resultStruct(`__frexp_result_${t.key}`, [
        ['fract', t],
        ['exp', exponent!],
      ]),
    }
  );
});
define(table, 'modf', '(T) with T a scalar or vector of float type', (args) => {
  const t = args.length === 1 ? same(args, 'float') : undefined;
  return (
    t && {
      params: [t],
      result: resultStruct(`__modf_result_${t.key}`, [
        ['fract', t],
        ['whole', t],
      ]),
    }
  );
});

const fixed = (names: string, params: Type[], result: Type): void =>
  define(table, names, `(${params.map((p) => p.key).join(', ')})`, (args) => {
    const fits =
      args.length === params.length &&
      args.every((arg, i) => {
        const [from, to] = [elementScalar(arg), elementScalar(params[i]!)];
        return (
          arg === params[i] ||
          (from &&
            to &&
            isAbstract(arg) &&
            commonScalar(from, to) === to &&
            withScalar(arg, to) === params[i])
        );
      });
    return fits ? { params, result } : undefined;
  });
fixed('dot4U8Packed', [U32, U32], U32);
fixed('dot4I8Packed', [U32, U32], I32);
fixed('pack4x8snorm pack4x8unorm', [vec(4, F32)], U32);
fixed('pack4xI8 pack4xI8Clamp', [vec(4, I32)], U32);
fixed('pack4xU8 pack4xU8Clamp', [vec(4, U32)], U32);
fixed('pack2x16snorm pack2x16unorm pack2x16float', [vec(2, F32)], U32);
fixed('unpack4x8snorm unpack4x8unorm', [U32], vec(4, F32));
fixed('unpack4xI8', [U32], vec(4, I32));
fixed('unpack4xU8', [U32], vec(4, U32));
fixed('unpack2x16snorm unpack2x16unorm unpack2x16float', [U32], vec(2, F32));
