import type { Access, AddressSpace, IoAttributes, StructDecl } from '../parse/ast.js';

export type ScalarKind = 'bool' | 'i32' | 'u32' | 'f32' | 'f16' | 'abstract-int' | 'abstract-float';

export interface Scalar {
  kind: 'scalar';
  key: string;
  scalar: ScalarKind;
}

export interface Vec {
  kind: 'vec';
  key: string;
  size: 2 | 3 | 4;
  of: Scalar;
}

export interface Mat {
  kind: 'mat';
  key: string;
  columns: 2 | 3 | 4;
  rows: 2 | 3 | 4;
  of: Scalar;
  /** One column. */
  column: Vec;
}

export interface Arr {
  kind: 'array';
  key: string;
  of: Type;
  /** undefined: sized at run time, or by an override. */
  count: number | undefined;
  /** Sized by an override expression: only for workgroup variables. */
  isOverrideSized?: boolean;
}

export interface StructMember {
  name: string;
  type: Type;
  offset: number;
  align: number;
  size: number;
  io: IoAttributes;
}

export interface Struct {
  kind: 'struct';
  key: string;
  name: string;
  decl: StructDecl | undefined;
  members: StructMember[];
  align: number;
  size: number;
}

export interface Ptr {
  kind: 'ptr' | 'ref';
  key: string;
  space: AddressSpace;
  of: Type;
  access: Access;
}

export interface Atomic {
  kind: 'atomic';
  key: string;
  of: Scalar;
}

export type Dimension = '1d' | '2d' | '2d_array' | '3d' | 'cube' | 'cube_array';

export interface TextureType {
  kind: 'texture';
  key: string;
  form: 'sampled' | 'multisampled' | 'depth' | 'depth_multisampled' | 'storage' | 'external';
  dimension: Dimension;
  /** What a texel is made of; for storage by the format. */
  of: Scalar;
  format?: string;
  access?: Access;
}

export interface SamplerType {
  kind: 'sampler';
  key: string;
  comparison: boolean;
}

/** Memory without a type of its own. */
export interface BufferType {
  kind: 'buffer';
  key: string;
  /** Bytes; undefined: as large as what is bound, or sized by an override. */
  size: number | undefined;
  isOverrideSized?: boolean;
}

export interface Void {
  kind: 'void';
  key: 'void';
}

export type Type =
  Scalar | Vec | Mat | Arr | Struct | Ptr | Atomic | TextureType | SamplerType | BufferType | Void;

const scalar = (kind: ScalarKind): Scalar => ({ kind: 'scalar', key: kind, scalar: kind });
export const BOOL = scalar('bool');
export const I32 = scalar('i32');
export const U32 = scalar('u32');
export const F32 = scalar('f32');
export const F16 = scalar('f16');
export const AINT = scalar('abstract-int');
export const AFLOAT = scalar('abstract-float');
export const VOID: Void = { kind: 'void', key: 'void' };
export const SCALARS: Record<string, Scalar> = { bool: BOOL, i32: I32, u32: U32, f32: F32, f16: F16 };

/** One object a type: types are equal when they are the same object. */
const interned = new Map<string, Type>();
function intern<T extends Type>(key: string, make: () => T): T {
  let found = interned.get(key) as T | undefined;
  if (!found) interned.set(key, (found = make()));
  return found;
}

export function vec(size: number, of: Scalar): Vec {
  const key = `vec${size}<${of.key}>`;
  return intern(key, () => ({ kind: 'vec', key, size: size as 2, of }));
}

export function mat(columns: number, rows: number, of: Scalar): Mat {
  const key = `mat${columns}x${rows}<${of.key}>`;
  return intern(key, () => ({
    kind: 'mat',
    key,
    columns: columns as 2,
    rows: rows as 2,
    of,
    column: vec(rows, of),
  }));
}

/** Arrays of structures are not interned beyond their module: structures carry a number in their key. */
export function arr(of: Type, count: number | undefined): Arr {
  const key = `array<${of.key}${count === undefined ? '' : `, ${count}`}>`;
  return intern(key, () => ({ kind: 'array', key, of, count }));
}

export function ptr(space: AddressSpace, of: Type, access: Access, kind: 'ptr' | 'ref' = 'ptr'): Ptr {
  const key = `${kind}<${space}, ${of.key}, ${access}>`;
  return intern(key, () => ({ kind, key, space, of, access }));
}

export function atomic(of: Scalar): Atomic {
  const key = `atomic<${of.key}>`;
  return intern(key, () => ({ kind: 'atomic', key, of }));
}

export function buffer(size: number | undefined): BufferType {
  const key = size === undefined ? 'buffer' : `buffer<${size}>`;
  return intern(key, () => ({ kind: 'buffer', key, size }));
}

export function texture(
  form: TextureType['form'],
  dimension: Dimension,
  of: Scalar,
  storage?: { format: string; access: Access },
): TextureType {
  const key = `texture ${form} ${dimension} ${of.key} ${storage?.format ?? ''} ${storage?.access ?? ''}`;
  return intern(key, () => ({ kind: 'texture', key, form, dimension, of, ...storage }));
}

export const SAMPLER: SamplerType = { kind: 'sampler', key: 'sampler', comparison: false };
export const SAMPLER_COMPARISON: SamplerType = {
  kind: 'sampler',
  key: 'sampler_comparison',
  comparison: true,
};

let structCount = 0;

export function makeStruct(name: string, decl: StructDecl | undefined, members: StructMember[]): Struct {
  const align = Math.max(1, ...members.map((m) => m.align));
  const last = members[members.length - 1];
  const size = last ? roundUp(align, last.offset + last.size) : 0;
  return { kind: 'struct', key: `${name}#${++structCount}`, name, decl, members, align, size };
}

/** The type as an author writes it. */
export function typeName(type: Type): string {
  switch (type.kind) {
    case 'vec':
      return `vec${type.size}<${typeName(type.of)}>`;
    case 'mat':
      return `mat${type.columns}x${type.rows}<${typeName(type.of)}>`;
    case 'array':
      return `array<${typeName(type.of)}${type.count === undefined ? '' : `, ${type.count}`}>`;
    case 'struct':
      return type.name;
    case 'ref':
      return typeName(type.of);
    case 'ptr':
      return `ptr<${type.space}, ${typeName(type.of)}${type.space === 'storage' ? `, ${type.access}` : ''}>`;
    case 'texture': {
      const dimension = type.dimension;
      if (type.form === 'external') return 'texture_external';
      if (type.form === 'depth') return `texture_depth_${dimension}`;
      if (type.form === 'depth_multisampled') return 'texture_depth_multisampled_2d';
      if (type.form === 'multisampled') return `texture_multisampled_2d<${type.of.key}>`;
      if (type.form === 'storage') return `texture_storage_${dimension}<${type.format}, ${type.access}>`;
      return `texture_${dimension}<${type.of.key}>`;
    }
    case 'scalar':
      return type.scalar === 'abstract-int'
        ? 'a whole number'
        : type.scalar === 'abstract-float'
          ? 'a number'
          : type.key;
    default:
      return type.key;
  }
}

export const isInteger = (t: Type): boolean => t === I32 || t === U32 || t === AINT;
export const isFloat = (t: Type): boolean => t === F32 || t === F16 || t === AFLOAT;
export const isAbstract = (t: Type): boolean => {
  const of = elementScalar(t);
  return of === AINT || of === AFLOAT;
};

/** The scalar a type is made of: itself, or of vector, matrix and array. */
export function elementScalar(type: Type): Scalar | undefined {
  switch (type.kind) {
    case 'scalar':
      return type;
    case 'vec':
    case 'mat':
      return type.of;
    case 'array':
      return elementScalar(type.of);
    default:
      return undefined;
  }
}

/** The same shape over another scalar. */
export function withScalar(type: Type, of: Scalar): Type {
  switch (type.kind) {
    case 'scalar':
      return of;
    case 'vec':
      return vec(type.size, of);
    case 'mat':
      return mat(type.columns, type.rows, of);
    case 'array':
      return arr(withScalar(type.of, of), type.count);
    default:
      return type;
  }
}

/** What an abstract type becomes when nothing else decides: i32 or f32. */
export function concrete(type: Type): Type {
  const of = elementScalar(type);
  if (of === AINT) return withScalar(type, I32);
  return of === AFLOAT ? withScalar(type, F32) : type;
}

/** Whether a value of one type may stand where the other is wanted (WGSL 6.1.2); -1 if not, else its rank. */
export function conversionRank(from: Type, to: Type): number {
  if (from === to) return 0;
  const [a, b] = [elementScalar(from), elementScalar(to)];
  if (!a || !b || withScalar(from, b) !== to) return -1;
  if (a === AFLOAT) return b === F32 ? 1 : b === F16 ? 2 : -1;
  if (a === AINT)
    return b === I32 ? 3 : b === U32 ? 4 : b === AFLOAT ? 5 : b === F32 ? 6 : b === F16 ? 7 : -1;
  return -1;
}

/** Whether values can be built and copied: no run-time sizes, no atomics, no handles. */
export function isConstructible(type: Type): boolean {
  switch (type.kind) {
    case 'scalar':
    case 'vec':
    case 'mat':
      return true;
    case 'array':
      return type.count !== undefined && isConstructible(type.of);
    case 'struct':
      return type.members.every((m) => isConstructible(m.type));
    default:
      return false;
  }
}

export function isPlain(type: Type): boolean {
  if (type.kind === 'array') return isPlain(type.of);
  if (type.kind === 'struct') return type.members.every((m) => isPlain(m.type));
  return type.kind === 'scalar' || type.kind === 'vec' || type.kind === 'mat' || type.kind === 'atomic';
}

export function isHostShareable(type: Type): boolean {
  switch (type.kind) {
    case 'scalar':
      return type !== BOOL && !isAbstract(type);
    case 'vec':
      return type.of !== BOOL;
    case 'mat':
    case 'atomic':
      return true;
    case 'array':
      return isHostShareable(type.of);
    case 'struct':
      return type.members.every((m) => isHostShareable(m.type));
    default:
      return false;
  }
}

/** Whether its size is known when the shader is made. */
export function hasFixedFootprint(type: Type): boolean {
  if (type.kind === 'buffer') return type.size !== undefined || type.isOverrideSized === true;
  if (type.kind === 'array')
    return (type.count !== undefined || type.isOverrideSized === true) && hasFixedFootprint(type.of);
  return type.kind !== 'struct' || type.members.every((m) => hasFixedFootprint(m.type));
}

export function holdsAtomic(type: Type): boolean {
  if (type.kind === 'array') return holdsAtomic(type.of);
  return type.kind === 'atomic' || (type.kind === 'struct' && type.members.some((m) => holdsAtomic(m.type)));
}

export const roundUp = (to: number, n: number): number => Math.ceil(n / to) * to;

/** Alignment in bytes (WGSL 14.4.1). */
export function alignOf(type: Type): number {
  switch (type.kind) {
    case 'scalar':
      return type === F16 ? 2 : 4;
    case 'vec':
      return (type.of === F16 ? 2 : 4) * (type.size === 2 ? 2 : 4);
    case 'mat':
      return alignOf(type.column);
    case 'array':
      return alignOf(type.of);
    case 'struct':
      return type.align;
    default:
      return 4;
  }
}

/** Size in bytes; of one element for arrays sized at run time. */
export function sizeOf(type: Type): number {
  switch (type.kind) {
    case 'scalar':
      return type === F16 ? 2 : 4;
    case 'vec':
      return (type.of === F16 ? 2 : 4) * type.size;
    case 'mat':
      return type.columns * roundUp(alignOf(type.column), sizeOf(type.column));
    case 'array':
      return (type.count ?? 1) * strideOf(type);
    case 'struct':
      return type.size;
    case 'buffer':
      return type.size ?? 4;
    default:
      return 4;
  }
}

/** Bytes from one element of an array to the next. */
export function strideOf(type: Arr): number {
  return roundUp(alignOf(type.of), sizeOf(type.of));
}
