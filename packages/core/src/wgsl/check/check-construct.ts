import type { CallExpr, Expr } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import { convertTo, retype, valueOf } from './check-expressions.js';
import { namedType } from './check-types.js';
import { checkFinite, commonScalar } from '../types/operators.js';
import {
  AFLOAT,
  AINT,
  arr,
  BOOL,
  concrete,
  conversionRank,
  elementScalar,
  F16,
  F32,
  isAbstract,
  isConstructible,
  type Mat,
  mat,
  type Scalar,
  type Type,
  typeName,
  type Vec,
  vec,
  withScalar,
} from '../types/types.js';
import { convertAbstract, convertScalar, type Value, ValueFault, zeroValue } from '../types/values.js';

/** Builds values: `vec3f(...)`, `array(...)`, `Light(...)`, `f32(x)`. Undefined when the name is no type. */
export function construct(c: CheckContext, expr: CallExpr): Type | undefined {
  const { callee, args } = expr;
  const named = namedType(c, callee);
  const inferred = named ? undefined : /^(?:vec([234])|mat([234])x([234])|(array))$/.exec(callee.name);
  if (!named && (!inferred || callee.templates)) return undefined;
  c.each(args.map((arg) => () => valueOf(c, arg)));
  const type = named ? buildNamed(c, expr, named) : buildInferred(c, expr, inferred!);
  expr.call = { kind: 'construct' };
  if (args.every((arg) => arg.value !== undefined)) {
    try {
      expr.value = constantConstruct(type, args);
    } catch (error) {
      throw error instanceof ValueFault ? c.fault('constant', error.message, expr.span) : error;
    }
  }
  return type;
}

const typeAt = (expr: Expr): Type =>
  expr.type!.kind === 'ref' ? (expr.type as { of: Type }).of : expr.type!;

function buildNamed(c: CheckContext, expr: CallExpr, type: Type): Type {
  const { args } = expr;
  if (!isConstructible(type))
    throw c.fault('construct', `a value of type ${typeName(type)} cannot be built`, expr.span);
  if (args.length === 0) return type;
  switch (type.kind) {
    case 'scalar': {
      const from = args.length === 1 ? typeAt(args[0]!) : undefined;
      if (from?.kind !== 'scalar') throw wrong(c, expr, type);
      if (isAbstract(from)) toConcrete(c, args[0]!, type);
      return type;
    }
    case 'vec':
      return buildVector(c, expr, type.size, type.of);
    case 'mat':
      return buildMatrix(c, expr, type.columns, type.rows, type.of);
    case 'array':
      if (args.length !== type.count)
        throw c.fault(
          'construct',
          `${typeName(type)} takes ${type.count} elements, not ${args.length}`,
          expr.span,
        );
      args.forEach((arg, i) => convertTo(c, arg, type.of, `element ${i}`));
      return type;
    case 'struct':
      if (args.length !== type.members.length) {
        throw c.fault(
          'construct',
          `"${type.name}" has ${type.members.length} members, but ${args.length} are given`,
          expr.span,
        );
      }
      args.forEach((arg, i) => convertTo(c, arg, type.members[i]!.type, `member "${type.members[i]!.name}"`));
      return type;
    default:
      throw wrong(c, expr, type);
  }
}

/** A constant without a type of its own, on its way to a conversion: as it is where it fits, else i32 or f32. */
function toConcrete(c: CheckContext, arg: Expr, to: Type): void {
  const from = typeAt(arg);
  if (conversionRank(from, to) >= 0) retype(c, arg, to);
  else if (elementScalar(from) === AFLOAT || elementScalar(to) === BOOL) {
    // u32(3000000000.0): the number is cut from its full precision. bool(x) takes any number.
    return;
  } else retype(c, arg, concrete(from));
}

function wrong(c: CheckContext, expr: CallExpr, type: Type): Error {
  return c.fault(
    'construct',
    `${typeName(type)} cannot be built from (${expr.args.map((arg) => typeName(concrete(typeAt(arg)))).join(', ')})`,
    expr.span,
  );
}

function buildInferred(c: CheckContext, expr: CallExpr, match: RegExpExecArray): Type {
  const { args } = expr;
  if (match[1]) return buildVector(c, expr, Number(match[1]), undefined);
  if (match[2]) return buildMatrix(c, expr, Number(match[2]), Number(match[3]), undefined);
  if (args.length === 0)
    throw c.fault('construct', 'array() needs at least one element to know its type', expr.span);
  let type = typeAt(args[0]!);
  for (const arg of args) {
    const other = typeAt(arg);
    if (conversionRank(type, other) >= 0) type = other;
    else if (conversionRank(other, type) < 0)
      throw c.fault(
        'construct',
        `an array holds one type, not ${typeName(concrete(type))} and ${typeName(concrete(other))}`,
        arg.span,
      );
  }
  if (!isConstructible(type)) throw c.fault('construct', `an array cannot hold ${typeName(type)}`, expr.span);
  if (args.some((arg) => arg.value === undefined)) type = concrete(type);
  args.forEach((arg, i) => convertTo(c, arg, type, `element ${i}`));
  return arr(type, args.length);
}

function scalarOfAll(args: Expr[]): Scalar | undefined {
  let of: Scalar | undefined;
  for (const arg of args) {
    const scalar = elementScalar(typeAt(arg));
    if (!scalar) return undefined;
    of = of ? commonScalar(of, scalar) : scalar;
    if (!of) return undefined;
  }
  return of;
}

/** @param given the scalar when it is written, undefined when it follows from the arguments */
function buildVector(c: CheckContext, expr: CallExpr, size: number, given: Scalar | undefined): Type {
  const { args } = expr;
  const isConstant = args.every((arg) => arg.value !== undefined);
  if (args.length === 0) return vec(size, given ?? AINT);
  const kinds = args.map(typeAt);
  if (!kinds.every((t) => t.kind === 'scalar' || t.kind === 'vec'))
    throw wrong(c, expr, vec(size, given ?? F32));
  let of = given ?? scalarOfAll(args);
  if (!of) throw wrong(c, expr, vec(size, given ?? F32));
  if (!given && !isConstant && isAbstract(of)) of = concrete(of) as Scalar;
  const type = vec(size, of);
  const [first] = kinds;
  if (args.length === 1 && first!.kind === 'vec') {
    // The same vector, or one whose components are converted.
    if ((first as Vec).size !== size) throw wrong(c, expr, type);
    if (isAbstract(first!) && !isAbstract(type)) toConcrete(c, args[0]!, type);
    return type;
  }
  for (const arg of args) convertTo(c, arg, withScalar(typeAt(arg), of), 'a component');
  const n = kinds.reduce((sum, t) => sum + (t.kind === 'vec' ? t.size : 1), 0);
  if (n !== size && !(args.length === 1 && first!.kind === 'scalar')) {
    throw c.fault('construct', `a vector of ${size} cannot be built from ${n} components`, expr.span);
  }
  return type;
}

function buildMatrix(
  c: CheckContext,
  expr: CallExpr,
  columns: number,
  rows: number,
  given: Scalar | undefined,
): Type {
  const { args } = expr;
  const isConstant = args.every((arg) => arg.value !== undefined);
  const kinds = args.map(typeAt);
  let of = given ?? scalarOfAll(args);
  if (of === AINT) of = AFLOAT;
  if (!of || !(of === F32 || of === F16 || of === AFLOAT)) throw wrong(c, expr, mat(columns, rows, F32));
  if (!given && !isConstant && isAbstract(of)) of = concrete(of) as Scalar;
  const type = mat(columns, rows, of);
  const [first] = kinds;
  if (args.length === 1 && first?.kind === 'mat') {
    if ((first as Mat).columns !== columns || (first as Mat).rows !== rows) throw wrong(c, expr, type);
    if (isAbstract(first) && !isAbstract(type)) retype(c, args[0]!, type);
    return type;
  }
  const byColumns = args.length === columns && kinds.every((t) => t.kind === 'vec' && t.size === rows);
  const byNumbers = args.length === columns * rows && kinds.every((t) => t.kind === 'scalar');
  if (!byColumns && !byNumbers) throw wrong(c, expr, type);
  for (const arg of args)
    convertTo(c, arg, withScalar(typeAt(arg), of), byColumns ? 'a column' : 'an element');
  return type;
}

function constantConstruct(type: Type, args: Expr[]): Value {
  if (args.length === 0) return zeroValue(type);
  const values = args.map((arg) => arg.value!);
  const result = constructValue(type, args.map(typeAt), values);
  const of = elementScalar(type);
  if (of) checkFinite(result, of);
  return result;
}

/** The value that a construction or conversion gives. */
export function constructValue(type: Type, from: Type[], values: Value[]): Value {
  const [first] = values;
  switch (type.kind) {
    case 'scalar':
      return convertScalar(first as number, elementScalar(from[0]!)!, type);
    case 'vec': {
      const flat = values.flatMap((value, i) => {
        const source = elementScalar(from[i]!)!;
        const convert = (x: Value): Value =>
          source === type.of
            ? x
            : isAbstract(type)
              ? convertAbstract(x, type.of)
              : convertScalar(x as number, source, type.of);
        return Array.isArray(value) ? value.map(convert) : [convert(value)];
      });
      return flat.length === 1 ? Array.from({ length: type.size }, () => flat[0]!) : flat;
    }
    case 'mat': {
      if (from[0]!.kind === 'mat') {
        const source = from[0]!.of;
        return (first as number[][]).map((column) =>
          column.map((x) => (source === type.of || isAbstract(type) ? x : convertScalar(x, source, type.of))),
        );
      }
      if (Array.isArray(first)) return values;
      return Array.from({ length: type.columns }, (_, k) => values.slice(k * type.rows, (k + 1) * type.rows));
    }
    default:
      return values;
  }
}
