import type { BinaryOp } from '../wgsl/parse/ast.js';
import { BUILTINS } from '../wgsl/types/builtins.js';
import { binaryTypes, unaryType } from '../wgsl/types/operators.js';
import {
  AFLOAT,
  AINT,
  BOOL,
  concrete,
  conversionRank,
  elementScalar,
  F16,
  F32,
  I32,
  isInteger,
  makeStruct,
  mat,
  SAMPLER,
  SCALARS,
  type Scalar,
  type Struct,
  texture,
  type Type,
  typeName,
  U32,
  vec,
} from '../wgsl/types/types.js';
import { OPERATORS } from './names.js';

export { AFLOAT, AINT, BOOL, concrete, F32, I32, SAMPLER, type Struct, type Type, U32 };

/** A function as calls see it. */
export interface Signature {
  name: string;
  /** A type that graphs do not know is undefined: whatever is given is left to the compiler. */
  params: { name: string; type: Type | undefined }[];
  /** Undefined where it is not known: what it calls is wrong. */
  result: Type | undefined;
}

/** Functions and structures that calls may name. */
export interface Known {
  functions: ReadonlyMap<string, Signature>;
  structs: ReadonlyMap<string, Struct>;
}

const LETTERS: Readonly<Record<string, Scalar>> = { f: F32, i: I32, u: U32, h: F16 };

/** A type as people write it: `vec3f`. */
export const shownType = (type: Type): string =>
  typeName(type).replace(/<(f32|i32|u32|f16)>$/, (_, of: string) => (of === 'f16' ? 'h' : of[0]!)); // not empty

/** The type that a name stands for; undefined where there is none. */
export function typeNamed(name: string, structs: ReadonlyMap<string, Struct>): Type | undefined {
  const plain = name
    .replace(/\s+/g, '')
    .replace(/<(f32|i32|u32|f16)>$/, (_, of: string) => (of === 'f16' ? 'h' : of[0]!)); // not empty
  const vector = /^vec([234])([fiuh]|<bool>)$/.exec(plain);
  if (vector) return vec(Number(vector[1]), vector[2] === '<bool>' ? BOOL : LETTERS[vector[2]!]!); // it matched
  const matrix = /^mat([234])x([234])([fh])$/.exec(plain);
  if (matrix) return mat(Number(matrix[1]), Number(matrix[2]), LETTERS[matrix[3]!]!); // as above
  return SCALARS[plain] ?? structs.get(plain) ?? (plain === 'sampler' ? SAMPLER : TEXTURES[plain]);
}

const TEXTURES: Readonly<Record<string, Type>> = {
  texture_2df: texture('sampled', '2d', F32),
  texture_cubef: texture('sampled', 'cube', F32),
  texture_2d_arrayf: texture('sampled', '2d_array', F32),
};

/** The type of a texture of a shape that a graph names. */
export const textureType = (shape: '2d' | 'cube' | '2d-array'): Type =>
  texture('sampled', shape === '2d-array' ? '2d_array' : shape, F32);

/** What a call gives for inputs of these types; undefined where it does not take them. */
export function resultOf(call: string, args: readonly Type[], known: Known): Type | undefined {
  if (OPERATORS.has(call)) return operatorResult(call, args);
  const own = known.functions.get(call);
  if (own)
    return fits(
      own.params.map(({ type }) => type),
      args,
    )
      ? own.result
      : undefined;
  const struct = known.structs.get(call);
  if (struct)
    return fits(
      struct.members.map(({ type }) => type),
      args,
    )
      ? struct
      : undefined;
  const made = constructed(call, args, known.structs);
  if (made) return made;
  return BUILTINS.get(call)?.types([...args])?.result;
}

/** Whether arguments can be given for parameters. */
const fits = (params: readonly (Type | undefined)[], args: readonly Type[]): boolean =>
  params.length === args.length && params.every((param, i) => !param || conversionRank(args[i]!, param) >= 0); // as many

/** Whether a function takes inputs of these types, whatever it gives. */
export const takes = ({ params }: Signature, args: readonly Type[]): boolean =>
  fits(
    params.map(({ type }) => type),
    args,
  );

function operatorResult(call: string, args: readonly Type[]): Type | undefined {
  const [first, ...rest] = args;
  if (!first) return undefined;
  if (call === '!' || call === '~' || (call === '-' && rest.length === 0))
    return rest.length === 0 ? unaryType(call, first) : undefined;
  if (rest.length === 0) return undefined;
  if (call === '[]') return rest.length === 1 && isInteger(rest[0]!) ? elementOf(first) : undefined; // one
  return rest.reduce<Type | undefined>(
    (left, right) => left && binaryTypes(call as BinaryOp, left, right)?.result,
    first,
  );
}

/** What stands at a number of a value. */
function elementOf(type: Type): Type | undefined {
  if (type.kind === 'vec' || type.kind === 'array') return type.of;
  return type.kind === 'mat' ? type.column : undefined;
}

/** A scalar, vector or matrix that is made of others (WGSL 17.1). */
function constructed(
  call: string,
  args: readonly Type[],
  structs: ReadonlyMap<string, Struct>,
): Type | undefined {
  const bare = /^vec([234])$/.exec(call);
  const [first] = args;
  if (bare) {
    const scalar = first && elementScalar(concrete(first));
    const own = scalar && vec(Number(bare[1]), scalar);
    return own && constructed(shownType(own), args, structs);
  }
  const type = typeNamed(call, structs);
  if (!type) return undefined;
  if (args.length === 0 && (type.kind === 'scalar' || type.kind === 'vec' || type.kind === 'mat'))
    return type;
  if (type.kind === 'scalar') return args.length === 1 && first!.kind === 'scalar' ? type : undefined; // one
  if (type.kind === 'vec') {
    if (args.length === 1 && first!.kind === 'vec') return first!.size === type.size ? type : undefined; // one
    if (args.length === 1 && first!.kind === 'scalar') return canBe(first!, type.of) ? type : undefined; // one
    let count = 0;
    for (const arg of args) {
      if (arg.kind === 'scalar' && canBe(arg, type.of)) count++;
      else if (arg.kind === 'vec' && canBe(arg.of, type.of)) count += arg.size;
      else return undefined;
    }
    return count === type.size ? type : undefined;
  }
  if (type.kind === 'mat') {
    const isColumns =
      args.length === type.columns && args.every((arg) => conversionRank(arg, type.column) >= 0);
    const isNumbers =
      args.length === type.columns * type.rows &&
      args.every((arg) => arg.kind === 'scalar' && canBe(arg, type.of));
    return isColumns || isNumbers || (args.length === 1 && first!.kind === 'mat') ? type : undefined; // one
  }
  return undefined;
}

const canBe = (from: Type, to: Scalar): boolean => conversionRank(from, to) >= 0;

/** What a part of a value is: a member, or components such as `xy`. */
export function partOf(type: Type, name: string): Type | undefined {
  if (type.kind === 'struct') return type.members.find((member) => member.name === name)?.type;
  if (type.kind !== 'vec') return undefined;
  const set = /^[xyzw]{1,4}$/.test(name) ? 'xyzw' : /^[rgba]{1,4}$/.test(name) ? 'rgba' : undefined;
  if (set === undefined || [...name].some((letter) => set.indexOf(letter) >= type.size)) return undefined;
  return name.length === 1 ? type.of : vec(name.length, type.of);
}

/** Parts that a value has, for hints. */
export const partsOf = (type: Type): string[] =>
  type.kind === 'struct'
    ? type.members.map(({ name }) => name)
    : type.kind === 'vec'
      ? [...'xyzw'].slice(0, type.size)
      : [];

/** How many components a value has: 1 of a number. Undefined of what is neither number nor vector. */
export const sizeOfType = (type: Type): number | undefined =>
  type.kind === 'scalar' ? 1 : type.kind === 'vec' ? type.size : undefined;

/** A structure of members, for what asks for their types alone. */
export const structOf = (name: string, members: readonly { name: string; type: Type }[]): Struct =>
  makeStruct(
    name,
    undefined,
    members.map((member) => ({ ...member, offset: 0, align: 4, size: 4, io: {} })),
  );
