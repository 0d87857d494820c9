import type { BinaryOp } from '../parse/ast.js';
import {
  AFLOAT,
  AINT,
  BOOL,
  conversionRank,
  elementScalar,
  F16,
  F32,
  I32,
  isFloat,
  isInteger,
  type Mat,
  mat,
  type Scalar,
  type Type,
  U32,
  vec,
  withScalar,
} from './types.js';
import { mapComponents, MOST_F16, MOST_F32, rounder, type Value, ValueFault, wholeValue } from './values.js';

/** What an operator does with its operands: the types they are brought to, and the result's. */
export interface OperatorTypes {
  left: Type;
  right: Type;
  result: Type;
}

/** The scalar that both can become, or undefined. */
export function commonScalar(a: Scalar, b: Scalar): Scalar | undefined {
  if (conversionRank(a, b) >= 0) return b;
  return conversionRank(b, a) >= 0 ? a : undefined;
}

/** Types of a binary operation (WGSL 8.7 to 8.10), or undefined where there is none. */
export function binaryTypes(op: BinaryOp, left: Type, right: Type): OperatorTypes | undefined {
  const [a, b] = [elementScalar(left), elementScalar(right)];
  if (!a || !b || left.kind === 'array' || right.kind === 'array') return undefined;
  if (op === '&&' || op === '||')
    return left === BOOL && right === BOOL ? { left, right, result: BOOL } : undefined;
  if (op === '<<' || op === '>>') {
    const isShape = left.kind === right.kind && left.kind !== 'mat' && shapeOf(left) === shapeOf(right);
    if (!isShape || !isInteger(a) || (b !== U32 && b !== AINT)) return undefined;
    return { left, right: withScalar(right, U32), result: left };
  }
  const of = commonScalar(a, b);
  if (!of) return undefined;
  const l = withScalar(left, of);
  const r = withScalar(right, of);
  switch (op) {
    case '&':
    case '|':
    case '^':
      if (l !== r || l.kind === 'mat' || (!isInteger(of) && (of !== BOOL || op === '^'))) return undefined;
      return { left: l, right: r, result: l };
    case '==':
    case '!=':
    case '<':
    case '<=':
    case '>':
    case '>=':
      if (l !== r || l.kind === 'mat' || (of === BOOL && op !== '==' && op !== '!=')) return undefined;
      return { left: l, right: r, result: withScalar(l, BOOL) };
    default:
  }
  if (of === BOOL) return undefined;
  if (l.kind === 'mat' || r.kind === 'mat') return matrixTypes(op, l, r);
  if (l === r) return { left: l, right: r, result: l };
  // A scalar meets every component of a vector.
  if (l.kind === 'scalar' && r.kind === 'vec') return { left: l, right: r, result: r };
  if (l.kind === 'vec' && r.kind === 'scalar') return { left: l, right: r, result: l };
  return undefined;
}

function shapeOf(type: Type): string {
  return type.kind === 'vec' ? `vec${type.size}` : type.kind;
}

function matrixTypes(op: BinaryOp, l: Type, r: Type): OperatorTypes | undefined {
  if ((op === '+' || op === '-') && l === r) return { left: l, right: r, result: l };
  if (op !== '*') return undefined;
  if (l.kind === 'scalar') return { left: l, right: r, result: r };
  if (r.kind === 'scalar') return { left: l, right: r, result: l };
  if (l.kind === 'mat' && r.kind === 'vec') {
    return l.columns === r.size ? { left: l, right: r, result: vec(l.rows, l.of) } : undefined;
  }
  if (l.kind === 'vec' && r.kind === 'mat') {
    return l.size === r.rows ? { left: l, right: r, result: vec(r.columns, r.of) } : undefined;
  }
  if (l.kind === 'mat' && r.kind === 'mat') {
    return l.columns === r.rows ? { left: l, right: r, result: mat(r.columns, l.rows, l.of) } : undefined;
  }
  return undefined;
}

export type Binary = (a: Value, b: Value) => Value;

/** The operation on values of the given types, each step rounded as the GPU rounds. */
export function binaryOperation(op: BinaryOp, types: OperatorTypes): Binary {
  const { left, right } = types;
  if (
    op === '*' &&
    (left.kind === 'mat' || right.kind === 'mat') &&
    left.kind !== 'scalar' &&
    right.kind !== 'scalar'
  ) {
    return matrixProduct(left, right);
  }
  const f = scalarOperation(op, elementScalar(left)!); // operators work on scalars and what is made of them
  if (left.kind === 'scalar' && right.kind === 'scalar') return f as Binary;
  return (a, b) => mapComponents(f as (...xs: number[]) => number, [a, b]);
}

function scalarOperation(op: BinaryOp, type: Scalar): (a: never, b: never) => Value {
  if (type === AINT) return abstractOperation(op) as (a: never, b: never) => Value;
  const round = rounder(type);
  const isInt = type === I32 || type === U32;
  const table: Record<BinaryOp, (a: number, b: number) => number | boolean> = {
    '+': (a, b) => round(a + b),
    '-': (a, b) => round(a - b),
    '*': isInt ? (type === I32 ? Math.imul : (a, b) => Math.imul(a, b) >>> 0) : (a, b) => round(a * b),
    // Dividing by zero, or the lowest by -1, gives the dividend (WGSL 8.7).
    '/': isInt
      ? (a, b) => (b === 0 || (a === -2147483648 && b === -1) ? a : round(Math.trunc(a / b)))
      : (a, b) => round(a / b),
    '%': isInt
      ? (a, b) => (b === 0 || (a === -2147483648 && b === -1) ? 0 : round(a % b))
      : (a, b) => round(a % b),
    '&': type === BOOL ? (a, b) => Boolean(a) && Boolean(b) : (a, b) => round(a & b),
    '|': type === BOOL ? (a, b) => Boolean(a) || Boolean(b) : (a, b) => round(a | b),
    '^': (a, b) => round(a ^ b),
    '<<': (a, b) => round(a << (b & 31)),
    '>>': type === U32 ? (a, b) => a >>> (b & 31) : (a, b) => a >> (b & 31),
    '&&': (a, b) => Boolean(a) && Boolean(b),
    '||': (a, b) => Boolean(a) || Boolean(b),
    '==': (a, b) => a === b,
    '!=': (a, b) => a !== b,
    '<': (a, b) => a < b,
    '>': (a, b) => a > b,
    '<=': (a, b) => a <= b,
    '>=': (a, b) => a >= b,
  };
  return table[op] as (a: never, b: never) => number | boolean;
}

/** Abstract whole numbers have 64 bits, more than a number holds. @throws ValueFault beyond them */
function abstractOperation(op: BinaryOp): (a: number | bigint, b: number | bigint) => Value {
  const whole =
    (f: (a: bigint, b: bigint) => bigint) =>
    (a: number | bigint, b: number | bigint): Value =>
      wholeValue(f(BigInt(a), BigInt(b)), `${a} ${op} ${b}`);
  switch (op) {
    case '+':
      return whole((a, b) => a + b);
    case '-':
      return whole((a, b) => a - b);
    case '*':
      return whole((a, b) => a * b);
    case '/':
      return whole((a, b) => a / b);
    case '%':
      return whole((a, b) => {
        if (b === -1n) wholeValue(-a, `${a} / -1`); // a remainder is left of a quotient that fits
        return a % b;
      });
    case '&':
      return whole((a, b) => a & b);
    case '|':
      return whole((a, b) => a | b);
    case '^':
      return whole((a, b) => a ^ b);
    case '<<':
      return whole((a, b) => BigInt.asIntN(64, a << b));
    case '>>':
      return whole((a, b) => a >> b);
    case '==':
      return (a, b) => a === b;
    case '!=':
      return (a, b) => a !== b;
    case '<':
      return (a, b) => a < b;
    case '>':
      return (a, b) => a > b;
    case '<=':
      return (a, b) => a <= b;
    default:
      return (a, b) => a >= b;
  }
}

function matrixProduct(left: Type, right: Type): Binary {
  const round = rounder((left as Mat).of);
  const dot = (a: number[], b: number[]): number => a.reduce((sum, x, i) => round(sum + round(x * b[i]!)), 0);
  const row = (m: number[][], i: number): number[] => m.map((column) => column[i]!);
  if (right.kind === 'vec') {
    return (m, v) => (m as number[][])[0]!.map((_, i) => dot(row(m as number[][], i), v as number[]));
  }
  if (left.kind === 'vec') return (v, m) => (m as number[][]).map((column) => dot(v as number[], column));
  return (a, b) =>
    (b as number[][]).map((column) =>
      (a as number[][])[0]!.map((_, i) => dot(row(a as number[][], i), column)),
    );
}

/**
 * A binary operation on constants. What a GPU would let pass is a fault here: overflow, division by
 * zero, shifting bits out (WGSL 8.18.5).
 *
 * @throws ValueFault
 */
export function constantBinary(op: BinaryOp, types: OperatorTypes, a: Value, b: Value): Value {
  const of = elementScalar(types.left)!; // operators work on scalars and what is made of them
  if (isInteger(of) && ['/', '%'].includes(op)) {
    mapComponents(
      (x, y) => {
        if (y === 0) throw new ValueFault(`division by zero: ${x} ${op} 0`);
        if (x === -2147483648 && y === -1 && of === I32)
          throw new ValueFault(`${x} ${op} -1 does not fit i32`);
        return 0;
      },
      [a, b],
    );
  }
  if (op === '<<' || op === '>>') checkShift(op, of, a, b);
  if (isFloat(of) && (op === '/' || op === '%')) {
    mapComponents(
      (x, y) => {
        if (y === 0) throw new ValueFault(`division by zero: ${x} ${op} 0`);
        return 0;
      },
      [a, b],
    );
  }
  const result = binaryOperation(op, types)(a, b);
  checkFinite(result, of);
  return result;
}

function checkShift(op: BinaryOp, of: Scalar, a: Value, b: Value): void {
  mapComponents(
    (x, y) => {
      if (of !== AINT && y >= 32) throw new ValueFault(`shifting by ${y} leaves none of the 32 bits`);
      if (of === AINT && y >= 64) throw new ValueFault(`shifting by ${y} leaves none of the 64 bits`);
      if (op === '<<') {
        const exact = BigInt(x) << BigInt(y);
        const kept =
          of === AINT
            ? BigInt.asIntN(64, exact)
            : of === I32
              ? BigInt.asIntN(32, exact)
              : BigInt.asUintN(32, exact);
        if (kept !== exact)
          throw new ValueFault(`${x} << ${y} shifts bits out of ${of === AINT ? '64 bits' : of.key}`);
      }
      return 0;
    },
    [a, b],
  );
}

/** @throws ValueFault for NaN, infinities and numbers beyond the type */
export function checkFinite(value: Value, of: Scalar): void {
  if (!isFloat(of)) return;
  const most = of === F32 ? MOST_F32 : of === F16 ? MOST_F16 : Number.MAX_VALUE;
  const check = (v: Value): void => {
    if (Array.isArray(v)) v.forEach(check);
    else if (typeof v === 'number' && !(Math.abs(v) <= most)) {
      throw new ValueFault(
        Number.isNaN(v)
          ? 'the result is not a number'
          : `the result does not fit ${of === AFLOAT ? '64 bits' : of.key}`,
      );
    }
  };
  check(value);
}

/** Result of a unary operation, or undefined where there is none. */
export function unaryType(op: '-' | '!' | '~', of: Type): Type | undefined {
  if (of.kind !== 'scalar' && of.kind !== 'vec') return undefined;
  const scalar = elementScalar(of)!; // scalars and vectors have one
  if (op === '!') return scalar === BOOL ? of : undefined;
  if (op === '~') return isInteger(scalar) ? of : undefined;
  return scalar === BOOL || scalar === U32 ? undefined : of;
}

export function unaryOperation(op: '-' | '!' | '~', type: Type): (a: Value) => Value {
  const of = elementScalar(type)!; // only such types have unary operators
  const round = rounder(of);
  const f =
    op === '!'
      ? (x: number): boolean => !x
      : op === '~'
        ? of === AINT
          ? (x: number): Value => wholeValue(~BigInt(x))
          : (x: number): number => round(~x)
        : of === AINT
          ? (x: number): Value => wholeValue(BigInt.asIntN(64, -BigInt(x)))
          : (x: number): number => (x === 0 && isInteger(of) ? 0 : round(-x));
  return type.kind === 'scalar' ? (f as (a: Value) => Value) : (a) => mapComponents(f, [a]);
}
