import { commonScalar } from './operators.js';
import {
  AFLOAT,
  AINT,
  BOOL,
  elementScalar,
  F32,
  I32,
  isFloat,
  isInteger,
  makeStruct,
  type Scalar,
  type Struct,
  type Type,
  U32,
  type Vec,
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
  /** What must be enabled to use it. */
  feature?: string;
  /** For messages: what it takes. */
  signature: string;
}

export type Class = 'float' | 'number' | 'signed' | 'integer' | 'any' | 'bool' | 'f32';

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
export function same(args: Type[], cls: Class): Type | undefined {
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

export type BuiltinTable = Map<string, Builtin>;

/** Enters functions that take their arguments alike, their names apart by spaces. */
export function define(
  table: BuiltinTable,
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
export function elementwise(
  table: BuiltinTable,
  names: string,
  n: number,
  cls: Class,
  more: Partial<Builtin> = {},
): void {
  define(
    table,
    names,
    `(${Array.from({ length: n }, () => 'T').join(', ')}) with T a scalar or vector of ${cls} type`,
    (args) => {
      const t = args.length === n ? same(args, cls) : undefined;
      return t && { params: args.map(() => t), result: t };
    },
    more,
  );
}

/** Structures that some built-in functions give; they cannot be named. */
const results = new Map<string, Struct>();
export function resultStruct(name: string, members: [string, Type][]): Struct {
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
