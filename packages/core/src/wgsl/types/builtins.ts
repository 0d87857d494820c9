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
  isInteger,
  makeStruct,
  type Mat,
  mat,
  type Scalar,
  type Struct,
  type TextureType,
  type Type,
  U32,
  type Vec,
  vec,
  VOID,
  withScalar,
} from './types.js';

/** How a built-in function takes its arguments and what it gives. */
export interface BuiltinTypes {
  params: Type[];
  result: Type;
}

export interface Builtin {
  /** Types for the given arguments, or undefined where no overload fits. */
  types(args: Type[]): BuiltinTypes | undefined;
  /** May be part of a constant expression. */
  isConstant: boolean;
  /** Its value may be dropped; for those whose value must be used, false. */
  mayDrop: boolean;
  stages?: ('vertex' | 'fragment' | 'compute')[];
  /** For messages: what it takes. */
  signature: string;
}

type Class = 'float' | 'number' | 'signed' | 'integer' | 'any' | 'bool' | 'f32';

function fitsClass(of: Scalar, cls: Class): Scalar | undefined {
  switch (cls) {
    case 'float':
      return of === AINT ? AFLOAT : isFloat(of) ? of : undefined;
    case 'f32':
      return of === AINT || of === AFLOAT || of === F32 ? F32 : undefined;
    case 'number':
      return of === BOOL ? undefined : of;
    case 'signed':
      return of === BOOL || of === U32 ? undefined : of;
    case 'integer':
      return of === AINT ? I32 : isInteger(of) ? of : undefined;
    case 'bool':
      return of === BOOL ? of : undefined;
    default:
      return of;
  }
}

/** All arguments brought to one scalar or vector type of a class. */
function same(args: Type[], cls: Class): Type | undefined {
  const first = args[0];
  if (!first || (first.kind !== 'scalar' && first.kind !== 'vec')) return undefined;
  let of: Scalar | undefined = elementScalar(first);
  for (const arg of args) {
    if (arg.kind !== first.kind || (arg.kind === 'vec' && arg.size !== (first as Vec).size)) return undefined;
    of = of && commonScalar(of, elementScalar(arg)!); // scalars and vectors have one
  }
  const fit = of && fitsClass(of, cls);
  return fit && withScalar(first, fit);
}

const table = new Map<string, Builtin>();

function define(
  names: string,
  signature: string,
  types: Builtin['types'],
  more: Partial<Builtin> = {},
): void {
  for (const name of names.split(' ')) {
    table.set(name, { types, isConstant: true, mayDrop: false, signature: `${name}${signature}`, ...more });
  }
}

/** n arguments of one scalar or vector type; the result has it too, or what `result` makes of it. */
function elementwise(names: string, n: number, cls: Class, result: (t: Type) => Type = (t) => t): void {
  define(
    names,
    `(${Array.from({ length: n }, () => 'T').join(', ')}) with T a scalar or vector of ${cls} type`,
    (args) => {
      const t = args.length === n ? same(args, cls) : undefined;
      return t && { params: args.map(() => t), result: result(t) };
    },
  );
}

elementwise(
  'acos acosh asin asinh atan atanh ceil cos cosh degrees exp exp2 floor fract inverseSqrt log log2 radians round saturate sin sinh sqrt tan tanh trunc',
  1,
  'float',
);
elementwise('abs', 1, 'number');
elementwise('sign', 1, 'signed');
elementwise('min max', 2, 'number');
elementwise('clamp', 3, 'number');
elementwise('atan2 pow step', 2, 'float');
elementwise('fma smoothstep', 3, 'float');
elementwise(
  'countLeadingZeros countOneBits countTrailingZeros firstLeadingBit firstTrailingBit reverseBits',
  1,
  'integer',
);
elementwise('quantizeToF16', 1, 'f32');
for (const name of ['dpdx', 'dpdy', 'fwidth']) {
  for (const suffix of ['', 'Coarse', 'Fine']) {
    elementwise(name + suffix, 1, 'f32');
    Object.assign(table.get(name + suffix)!, { isConstant: false, stages: ['fragment'] });
  }
}

const vectors = (args: Type[], cls: Class, sizes: number[] = [2, 3, 4]): Vec | undefined => {
  const t = same(args, cls);
  return t?.kind === 'vec' && sizes.includes(t.size) ? t : undefined;
};
define('all any', '(bool or vector of bool)', (args) => {
  const t = args.length === 1 ? same(args, 'bool') : undefined;
  return t && { params: [t], result: BOOL };
});
define('select', '(T, T, bool or vector of bool)', ([a, b, c, ...rest]) => {
  if (!a || !b || !c || rest.length > 0 || elementScalar(c) !== BOOL) return undefined;
  const t = same([a, b], 'any');
  if (!t) return undefined;
  const fits = c === BOOL || (c.kind === 'vec' && t.kind === 'vec' && c.size === t.size);
  return fits ? { params: [t, t, c], result: t } : undefined;
});
define('cross', '(vec3, vec3) of float type', (args) => {
  const t = args.length === 2 ? vectors(args, 'float', [3]) : undefined;
  return t && { params: [t, t], result: t };
});
define('dot', '(T, T) with T a vector of numbers', (args) => {
  const t = args.length === 2 ? vectors(args, 'number') : undefined;
  return t && { params: [t, t], result: t.of };
});
define('distance', '(T, T) with T a scalar or vector of float type', (args) => {
  const t = args.length === 2 ? same(args, 'float') : undefined;
  return t && { params: [t, t], result: elementScalar(t)! };
});
define('length', '(T) with T a scalar or vector of float type', (args) => {
  const t = args.length === 1 ? same(args, 'float') : undefined;
  return t && { params: [t], result: elementScalar(t)! };
});
define('normalize', '(vector of float type)', (args) => {
  const t = args.length === 1 ? vectors(args, 'float') : undefined;
  return t && { params: [t], result: t };
});
define('faceForward', '(T, T, T) with T a vector of float type', (args) => {
  const t = args.length === 3 ? vectors(args, 'float') : undefined;
  return t && { params: [t, t, t], result: t };
});
define('reflect', '(T, T) with T a vector of float type', (args) => {
  const t = args.length === 2 ? vectors(args, 'float') : undefined;
  return t && { params: [t, t], result: t };
});
define('refract', '(T, T, float) with T a vector of float type', ([a, b, ratio, ...rest]) => {
  if (!a || !b || ratio?.kind !== 'scalar' || rest.length > 0) return undefined;
  const t = vectors([a, b], 'float');
  const of = t && commonScalar(t.of, ratio);
  if (!t || !of || !isFloat(of)) return undefined;
  return { params: [withScalar(t, of), withScalar(t, of), of], result: withScalar(t, of) };
});
define('mix', '(T, T, T or float) with T a scalar or vector of float type', (args) => {
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
define('extractBits', '(T, u32, u32) with T a scalar or vector of integers', ([a, b, c, ...rest]) => {
  const t = a && same([a], 'integer');
  if (!t || rest.length > 0 || !isCount(b) || !isCount(c)) return undefined;
  return { params: [t, U32, U32], result: t };
});
define('insertBits', '(T, T, u32, u32) with T a scalar or vector of integers', ([a, b, c, d, ...rest]) => {
  const t = a && b && same([a, b], 'integer');
  if (!t || rest.length > 0 || !isCount(c) || !isCount(d)) return undefined;
  return { params: [t, t, U32, U32], result: t };
});
const isCount = (t: Type | undefined): boolean => t === U32 || t === AINT;
define('determinant', '(square matrix)', ([m, ...rest]) =>
  m?.kind === 'mat' && m.columns === m.rows && rest.length === 0 ? { params: [m], result: m.of } : undefined,
);
define('transpose', '(matrix)', ([m, ...rest]) =>
  m?.kind === 'mat' && rest.length === 0
    ? { params: [m], result: mat(m.rows, m.columns, (m as Mat).of) }
    : undefined,
);

/** Structures that some built-in functions give; they cannot be named. */
const results = new Map<string, Struct>();
function resultStruct(name: string, members: [string, Type][]): Struct {
  let found = results.get(name);
  if (!found) {
    found = makeStruct(
      name,
      undefined,
      members.map(([member, type]) => ({ name: member, type, offset: 0, align: 4, size: 4, io: {} })),
    );
    results.set(name, found);
  }
  return found;
}
define('frexp', '(T) with T a scalar or vector of float type', (args) => {
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
define('modf', '(T) with T a scalar or vector of float type', (args) => {
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
  define(names, `(${params.map((p) => p.key).join(', ')})`, (args) => {
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

define('arrayLength', '(pointer to an array sized at run time)', ([p, ...rest]) =>
  p?.kind === 'ptr' && p.of.kind === 'array' && p.of.count === undefined && rest.length === 0
    ? { params: [p], result: U32 }
    : undefined,
);
Object.assign(table.get('arrayLength')!, { isConstant: false });

const atomics: Partial<Builtin> = { isConstant: false, mayDrop: true, stages: ['fragment', 'compute'] };
const atomicOf = (p: Type | undefined): Scalar | undefined =>
  p?.kind === 'ptr' && p.of.kind === 'atomic' && p.access === 'read_write' ? p.of.of : undefined;
define(
  'atomicLoad',
  '(pointer to atomic)',
  ([p, ...rest]) => {
    const of = atomicOf(p);
    return of && rest.length === 0 ? { params: [p!], result: of } : undefined;
  },
  atomics,
);
define(
  'atomicStore',
  '(pointer to atomic, T)',
  ([p, v, ...rest]) => {
    const of = atomicOf(p);
    return of && v && commonScalar(v as Scalar, of) === of && rest.length === 0
      ? { params: [p!, of], result: VOID }
      : undefined;
  },
  atomics,
);
define(
  'atomicAdd atomicSub atomicMax atomicMin atomicAnd atomicOr atomicXor atomicExchange',
  '(pointer to atomic, T)',
  ([p, v, ...rest]) => {
    const of = atomicOf(p);
    return of && v?.kind === 'scalar' && commonScalar(v, of) === of && rest.length === 0
      ? { params: [p!, of], result: of }
      : undefined;
  },
  atomics,
);
define(
  'atomicCompareExchangeWeak',
  '(pointer to atomic, T, T)',
  ([p, a, b, ...rest]) => {
    const of = atomicOf(p);
    if (!of || a?.kind !== 'scalar' || b?.kind !== 'scalar' || rest.length > 0) return undefined;
    if (commonScalar(a, of) !== of || commonScalar(b, of) !== of) return undefined;
    const result = resultStruct(`__atomic_compare_exchange_result_${of.key}`, [
      ['old_value', of],
      ['exchanged', BOOL],
    ]);
    return { params: [p!, of, of], result };
  },
  atomics,
);
define(
  'storageBarrier textureBarrier workgroupBarrier',
  '()',
  (args) => (args.length === 0 ? { params: [], result: VOID } : undefined),
  {
    isConstant: false,
    mayDrop: true,
    stages: ['compute'],
  },
);
define(
  'workgroupUniformLoad',
  '(pointer to workgroup memory)',
  ([p, ...rest]) =>
    p?.kind === 'ptr' && p.space === 'workgroup' && rest.length === 0
      ? { params: [p], result: p.of.kind === 'atomic' ? p.of.of : p.of }
      : undefined,
  {
    isConstant: false,
    stages: ['compute'],
  },
);

/** Coordinates of a texture's dimension. */
export const COORDINATES: Record<TextureType['dimension'], number> = {
  '1d': 1,
  '2d': 2,
  '2d_array': 2,
  '3d': 3,
  cube: 3,
  cube_array: 3,
};
const isArrayed = (t: TextureType): boolean => t.dimension.endsWith('array');
const shaped = (n: number, of: Scalar): Type => (n === 1 ? of : vec(n, of));

/** Checks arguments in turn against what each may be, abstract numbers brought along. */
function take(args: Type[], wanted: (Type | Scalar[])[]): Type[] | undefined {
  if (args.length !== wanted.length) return undefined;
  const params: Type[] = [];
  for (const [i, want] of wanted.entries()) {
    const arg = args[i]!;
    if (!Array.isArray(want)) {
      const [from, to] = [elementScalar(arg), elementScalar(want)];
      const fits =
        arg === want || (from && to && commonScalar(from, to) === to && withScalar(arg, to) === want);
      if (!fits) return undefined;
      params.push(want);
      continue;
    }
    // One of several integer kinds, in the shape of the first.
    const fit = want.find(
      (of) => arg === of || (isAbstract(arg) && arg.kind === 'scalar' && commonScalar(arg, of) === of),
    );
    if (!fit) return undefined;
    params.push(fit);
  }
  return params;
}

const INTS = [I32, U32];
const coordinate = (t: TextureType): Type => shaped(COORDINATES[t.dimension], F32);
const intCoordinate = (args: Type[], at: number, t: TextureType): Type => {
  const of = elementScalar(args[at] ?? I32) === U32 ? U32 : I32;
  return shaped(COORDINATES[t.dimension], of);
};
const layer = (t: TextureType): Scalar[][] => (isArrayed(t) ? [INTS] : []);
const offset = (t: TextureType): Type[] | undefined =>
  t.dimension.startsWith('cube') || t.dimension === '1d'
    ? undefined
    : [shaped(COORDINATES[t.dimension], I32)];

/** A texture function whose arguments may end in a constant offset. */
function texture(
  names: string,
  wanted: (t: TextureType, args: Type[]) => (Type | Scalar[])[] | undefined,
  result: (t: TextureType) => Type,
  more: Partial<Builtin> & { withOffset?: boolean; textureAt?: number } = {},
): void {
  define(
    names,
    '(texture and coordinates)',
    (args) => {
      const t = args[more.textureAt ?? 0];
      if (t?.kind !== 'texture') return undefined;
      const list = wanted(t, args);
      if (!list) return undefined;
      const plain = take(args, list);
      if (plain) return { params: plain, result: result(t) };
      const extra = more.withOffset ? offset(t) : undefined;
      const longer = extra && take(args, [...list, ...extra]);
      return longer && { params: longer, result: result(t) };
    },
    { isConstant: false, ...more },
  );
}

const texel = (t: TextureType): Type =>
  t.form === 'depth' || t.form === 'depth_multisampled' ? F32 : vec(4, t.of);
const isFloatSampled = (t: TextureType): boolean => t.form === 'sampled' && t.of === F32;
const sampler = (args: Type[], comparison: boolean, at = 1): Type[] | undefined => {
  const s = args[at];
  return s?.kind === 'sampler' && s.comparison === comparison ? [s] : undefined;
};
const fragmentOnly = { stages: ['fragment'] as 'fragment'[] };

texture(
  'textureSample',
  (t, args) => {
    const s = sampler(args, false);
    if (!s || (!isFloatSampled(t) && t.form !== 'depth')) return undefined;
    return [t, ...s, coordinate(t), ...layer(t)];
  },
  texel,
  { withOffset: true, ...fragmentOnly },
);
texture(
  'textureSampleBias',
  (t, args) => {
    const s = sampler(args, false);
    if (!s || !isFloatSampled(t) || t.dimension === '1d') return undefined;
    return [t, ...s, coordinate(t), ...layer(t), F32];
  },
  texel,
  { withOffset: true, ...fragmentOnly },
);
texture(
  'textureSampleLevel',
  (t, args) => {
    const s = sampler(args, false);
    if (!s || (!isFloatSampled(t) && t.form !== 'depth')) return undefined;
    return [t, ...s, coordinate(t), ...layer(t), t.form === 'depth' ? INTS : F32];
  },
  texel,
  { withOffset: true },
);
texture(
  'textureSampleGrad',
  (t, args) => {
    const s = sampler(args, false);
    if (!s || !isFloatSampled(t) || t.dimension === '1d') return undefined;
    return [t, ...s, coordinate(t), ...layer(t), coordinate(t), coordinate(t)];
  },
  texel,
  { withOffset: true },
);
texture(
  'textureSampleCompare',
  (t, args) => {
    const s = sampler(args, true);
    return s && t.form === 'depth' ? [t, ...s, coordinate(t), ...layer(t), F32] : undefined;
  },
  () => F32,
  { withOffset: true, ...fragmentOnly },
);
texture(
  'textureSampleCompareLevel',
  (t, args) => {
    const s = sampler(args, true);
    return s && t.form === 'depth' ? [t, ...s, coordinate(t), ...layer(t), F32] : undefined;
  },
  () => F32,
  { withOffset: true },
);
texture(
  'textureSampleBaseClampToEdge',
  (t, args) => {
    const s = sampler(args, false);
    return s && (t.form === 'external' || (isFloatSampled(t) && t.dimension === '2d'))
      ? [t, ...s, vec(2, F32)]
      : undefined;
  },
  () => vec(4, F32),
);
texture(
  'textureGatherCompare',
  (t, args) => {
    const s = sampler(args, true);
    return s && t.form === 'depth' ? [t, ...s, coordinate(t), ...layer(t), F32] : undefined;
  },
  () => vec(4, F32),
  { withOffset: true },
);
// textureGather has its component first for all but depth textures.
texture(
  'textureGather',
  (t, args) => {
    const s = sampler(args, false);
    return s && t.form === 'depth' && t.dimension !== '3d'
      ? [t, ...s, coordinate(t), ...layer(t)]
      : undefined;
  },
  () => vec(4, F32),
  { withOffset: true },
);
const gatherDepth = table.get('textureGather')!;
texture(
  'textureGather',
  (t, args) => {
    const s = sampler(args, false, 2);
    return s && t.form === 'sampled' && !['1d', '3d'].includes(t.dimension)
      ? [INTS, t, ...s, coordinate(t), ...layer(t)]
      : undefined;
  },
  (t) => vec(4, t.of),
  { withOffset: true, textureAt: 1 },
);
const gatherColor = table.get('textureGather')!;
table.set('textureGather', {
  ...gatherColor,
  types: (args) => gatherDepth.types(args) ?? gatherColor.types(args),
});

texture(
  'textureLoad',
  (t, args) => {
    if (t.dimension.startsWith('cube')) return undefined;
    const at = intCoordinate(args, 1, t);
    if (t.form === 'external') return [t, at];
    if (t.form === 'storage') return t.access === 'write' ? undefined : [t, at, ...layer(t)];
    return [t, at, ...layer(t), INTS];
  },
  (t) => (t.form === 'external' ? vec(4, F32) : texel(t)),
);
texture(
  'textureStore',
  (t, args) => {
    if (t.form !== 'storage' || t.access === 'read') return undefined;
    return [t, intCoordinate(args, 1, t), ...layer(t), vec(4, t.of)];
  },
  () => VOID,
  { mayDrop: true, stages: ['fragment', 'compute'] },
);
define(
  'textureDimensions',
  '(texture, level)',
  ([t, level, ...rest]) => {
    if (t?.kind !== 'texture' || rest.length > 0) return undefined;
    const hasLevels = t.form === 'sampled' || t.form === 'depth';
    if (level && (!hasLevels || !(level === I32 || level === U32 || level === AINT))) return undefined;
    const n = t.dimension === '1d' ? 1 : t.dimension === '3d' ? 3 : 2;
    return { params: level ? [t, concrete(level)] : [t], result: shaped(n, U32) };
  },
  { isConstant: false },
);
const count = (name: string, fits: (t: TextureType) => boolean): void =>
  define(
    name,
    '(texture)',
    ([t, ...rest]) =>
      t?.kind === 'texture' && fits(t) && rest.length === 0 ? { params: [t], result: U32 } : undefined,
    {
      isConstant: false,
    },
  );
count('textureNumLayers', isArrayed);
count('textureNumLevels', (t) => t.form === 'sampled' || t.form === 'depth');
count('textureNumSamples', (t) => t.form.endsWith('multisampled'));

/** Built-in functions by name; `bitcast` is handled by the checker, since it takes a type. */
export const BUILTINS: ReadonlyMap<string, Builtin> = table;

/** What a texture of a storage format holds. */
export const STORAGE_FORMATS: Record<string, Scalar> = {
  rgba8unorm: F32,
  rgba8snorm: F32,
  rgba8uint: U32,
  rgba8sint: I32,
  rgba16unorm: F32,
  rgba16snorm: F32,
  rgba16uint: U32,
  rgba16sint: I32,
  rgba16float: F32,
  r32uint: U32,
  r32sint: I32,
  r32float: F32,
  rg32uint: U32,
  rg32sint: I32,
  rg32float: F32,
  rgba32uint: U32,
  rgba32sint: I32,
  rgba32float: F32,
  bgra8unorm: F32,
  r8unorm: F32,
  r8snorm: F32,
  r8uint: U32,
  r8sint: I32,
  rg8unorm: F32,
  rg8snorm: F32,
  rg8uint: U32,
  rg8sint: I32,
  r16unorm: F32,
  r16snorm: F32,
  r16uint: U32,
  r16sint: I32,
  r16float: F32,
  rg16unorm: F32,
  rg16snorm: F32,
  rg16uint: U32,
  rg16sint: I32,
  rg16float: F32,
  rgb10a2uint: U32,
  rgb10a2unorm: F32,
  rg11b10ufloat: F32,
};
