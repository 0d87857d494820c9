import { type Builtin, type BuiltinTable, define } from './builtin-table.js';
import { commonScalar } from './operators.js';
import {
  AINT,
  concrete,
  elementScalar,
  F32,
  I32,
  isAbstract,
  type Scalar,
  type TextureType,
  type Type,
  U32,
  vec,
  VOID,
  withScalar,
} from './types.js';

const table: BuiltinTable = new Map();

/** Functions of textures and samplers. */
export const TEXTURE_BUILTINS: ReadonlyMap<string, Builtin> = table;

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
    table,
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
  table,
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
    table,
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
