import { type Expr } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import { loaded, unparenthesized } from './check-context.js';
import {
  concrete,
  F16,
  I32,
  isAbstract,
  ptr,
  type Type,
  typeName,
  vec,
  AINT,
  BOOL,
  conversionRank,
  elementScalar,
  isInteger,
  type Ptr,
  VOID,
  withScalar,
} from '../types/types.js';
import { BUILTINS } from '../types/builtins.js';
import { binaryTypes, constantBinary, unaryOperation, unaryType } from '../types/operators.js';
import { nearest } from '../../errors/near-names.js';
import { convertAbstract, readLiteral, type Value, ValueFault } from '../types/values.js';
import { namedType } from './check-types.js';
import { inferCall } from './check-calls.js';

/** Checks an expression whose value is wanted; references are loaded. Sets and returns its type. */
export function valueOf(c: CheckContext, expr: Expr): Type {
  const type = checkExpr(c, expr);
  if (type.kind === 'ref') {
    if (type.access === 'write')
      throw c.fault('access', 'this memory can be written but not read', expr.span);
    if (type.of.kind === 'atomic') throw c.fault('atomic', 'an atomic is read by atomicLoad', expr.span);
    if (type.of.kind === 'array' && type.of.count === undefined)
      throw c.fault('value', 'an array sized at run time has no value of its own', expr.span);
    if (type.of.kind === 'buffer')
      throw c.fault(
        'value',
        'a buffer has no value of its own',
        expr.span,
        'Give it a type with bufferView<T>(&buffer, offset).',
      );
    return type.of;
  }
  if (type === VOID) throw c.fault('void', 'this call gives no value', expr.span);
  return type;
}

/** Brings a checked expression to a type by the conversions the language does by itself. */
export function convertTo(c: CheckContext, expr: Expr, to: Type, what: string): void {
  const from = loaded(expr.type!); // checked before
  if (from === to || narrowsBuffer(from, to)) return;
  if (conversionRank(from, to) < 0) {
    const hint =
      from.kind === 'scalar' && to.kind === 'scalar' && from !== BOOL && to !== BOOL
        ? `Convert it: ${typeName(to)}(...).`
        : '';
    throw c.fault(
      'type',
      `${what} is ${typeName(to)}, but this is ${typeName(concrete(from))}`,
      expr.span,
      hint,
    );
  }
  retype(c, expr, to);
}

/** A pointer to a buffer may stand for one to a smaller buffer, or to one of any size. */
function narrowsBuffer(from: Type, to: Type): boolean {
  if (from.kind !== 'ptr' || to.kind !== 'ptr' || from.space !== to.space || from.access !== to.access)
    return false;
  if (from.of.kind !== 'buffer' || to.of.kind !== 'buffer') return false;
  return to.of.size === undefined || (from.of.size ?? 0) >= to.of.size;
}

/** Gives a constant abstract expression a concrete type. */
export function retype(c: CheckContext, expr: Expr, to: Type): void {
  const of = elementScalar(to)!; // abstract types are made of scalars
  try {
    expr.value = convertAbstract(expr.value!, of); // abstract values are constants
  } catch (error) {
    throw faultOf(c, error, expr);
  }
  expr.type = to;
}

/** Makes an abstract expression i32 or f32, as where nothing else decides. */
export function concretize(c: CheckContext, expr: Expr): Type {
  const type = loaded(expr.type!);
  if (isAbstract(type)) retype(c, expr, concrete(type));
  return loaded(expr.type!);
}

export function constantOf(c: CheckContext, expr: Expr, what: string): Value {
  if (expr.value === undefined) {
    throw c.fault(
      'not-constant',
      `${what} must be known when the shader is made`,
      expr.span,
      'Only constants, literals and functions of them are.',
    );
  }
  return expr.value;
}

export function constantInteger(c: CheckContext, expr: Expr, what: string): number {
  const type = loaded(expr.type!);
  const value = constantOf(c, expr, what);
  if (!isInteger(type) || (typeof value !== 'number' && typeof value !== 'bigint'))
    throw c.fault('type', `${what} must be a whole number`, expr.span);
  return Number(value);
}

export function faultOf(c: CheckContext, error: unknown, expr: Expr): unknown {
  return error instanceof ValueFault ? c.fault('constant', error.message, expr.span) : error;
}

export function checkExpr(c: CheckContext, expr: Expr): Type {
  const type = infer(c, expr);
  expr.type = type;
  return type;
}

function infer(c: CheckContext, expr: Expr): Type {
  switch (expr.kind) {
    case 'literal': {
      if (expr.literal === 'bool') {
        expr.value = expr.text === 'true';
        return BOOL;
      }
      try {
        const { value, type } = readLiteral(expr.text, expr.literal);
        if (type === F16 && !c.features.has('f16'))
          throw c.fault('feature', 'f16 must be enabled', expr.span, 'Write "enable f16;" at the top.');
        expr.value = value;
        return type;
      } catch (error) {
        throw faultOf(c, error, expr);
      }
    }
    case 'paren': {
      const type = checkExpr(c, expr.of);
      if (expr.of.value !== undefined) expr.value = expr.of.value;
      return type;
    }
    case 'name':
      return inferName(c, expr);
    case 'unary':
      return inferUnary(c, expr);
    case 'binary':
      return inferBinary(c, expr);
    case 'member':
      return inferMember(c, expr);
    case 'index':
      return inferIndex(c, expr);
    case 'call':
      return inferCall(c, expr);
  }
}

function inferName(c: CheckContext, expr: Expr & { kind: 'name' }): Type {
  const { name, span } = expr;
  const local = c.local(name);
  if (local) {
    if (expr.templates) throw c.fault('template', `"${name}" takes no template arguments`, span);
    expr.target = local;
    c.refer(name, span, local);
    if (local.value !== undefined && local.kind === 'const') expr.value = local.value;
    return local.kind === 'var' ? ptr('function', local.type, 'read_write', 'ref') : local.type;
  }
  const decl = c.find(name, span);
  if (!decl) {
    if (BUILTINS.has(name))
      throw c.fault('value', `the function "${name}" must be called`, span, `Write ${name}(...).`);
    if (namedType(c, expr)) throw c.fault('value', `"${name}" is a type, not a value`, span);
    throw c.unknown('name', name, span);
  }
  if (decl.kind !== 'global') {
    throw c.fault(
      'value',
      decl.kind === 'fn' ? `the function "${name}" must be called` : `"${name}" is a type, not a value`,
      span,
    );
  }
  if (expr.templates) throw c.fault('template', `"${name}" takes no template arguments`, span);
  c.resolve(decl, span);
  expr.target = decl;
  c.refer(name, span, decl);
  if (decl.form === 'const') {
    expr.value = decl.value!; // resolved just now
    return decl.type!;
  }
  if (decl.form === 'override') {
    c.fn?.uses.add(decl);
    return decl.type!;
  }
  if (!c.fn) throw c.fault('not-constant', `the variable "${name}" can only be used inside functions`, span);
  c.fn.uses.add(decl);
  return decl.space === 'handle' ? decl.type! : ptr(decl.space!, decl.type!, decl.access!, 'ref');
}

function inferUnary(c: CheckContext, expr: Expr & { kind: 'unary' }): Type {
  const { op, of } = expr;
  if (op === '&') {
    const type = checkExpr(c, of);
    if (type.kind !== 'ref')
      throw c.fault('address', 'only of variables and their parts can the address be taken', of.span);
    const inner = unparenthesized(of);
    const isComponent =
      (inner.kind === 'member' && inner.via?.kind === 'swizzle') ||
      (inner.kind === 'index' && baseType(inner.of).kind === 'vec');
    if (isComponent)
      throw c.fault('address', 'the address of a component of a vector cannot be taken', of.span);
    return ptr(type.space, type.of, type.access);
  }
  if (op === '*') {
    const type = valueOf(c, of);
    if (type.kind !== 'ptr')
      throw c.fault('type', `only pointers can be followed, and this is ${typeName(type)}`, of.span);
    return ptr(type.space, type.of, type.access, 'ref');
  }
  const type = valueOf(c, of);
  const result = unaryType(op, type);
  if (!result) throw c.fault('operator', `there is no "${op}" for ${typeName(type)}`, expr.span);
  if (of.value !== undefined) {
    try {
      if (op === '-' && type === I32 && of.value === -2147483648)
        throw new ValueFault('-(-2147483648) does not fit i32');
      expr.value = unaryOperation(op, type)(of.value);
    } catch (error) {
      throw faultOf(c, error, expr);
    }
  }
  return result;
}

function inferBinary(c: CheckContext, expr: Expr & { kind: 'binary' }): Type {
  const { op, left, right } = expr;
  // The right side of a decided && or || is checked, but its value may be faulty.
  const isDecided = (): boolean =>
    (op === '&&' && left.value === false) || (op === '||' && left.value === true);
  const rightType = (): Type | undefined => {
    try {
      return valueOf(c, right);
    } catch (error) {
      if (!isDecided() || (error as { code?: string }).code !== 'constant') throw error;
      return undefined;
    }
  };
  const [a, b] = c.each([() => valueOf(c, left), rightType]);
  if (!a || !b) {
    expr.value = op === '||';
    return BOOL;
  }
  const types = binaryTypes(op, a, b);
  if (!types) {
    throw c.fault(
      'operator',
      `there is no "${op}" for ${typeName(concrete(a))} and ${typeName(concrete(b))}`,
      expr.opSpan,
      operatorHint(a, b),
    );
  }
  const isConstant = left.value !== undefined && right.value !== undefined;
  if (!isConstant) {
    // Nothing abstract is left when the program runs.
    types.left = concrete(types.left);
    types.right = concrete(types.right);
    types.result = concrete(types.result);
  }
  convertTo(c, left, types.left, `the left side of "${op}"`);
  convertTo(c, right, types.right, `the right side of "${op}"`);
  try {
    if (isConstant) expr.value = constantBinary(op, types, left.value!, right.value!);
    else if (isDecided()) expr.value = op === '||';
    else if (right.value !== undefined) checkRightConstant(op, types.left, right.value);
  } catch (error) {
    throw faultOf(c, error, expr);
  }
  return types.result;
}

/** Dividing by a constant zero and shifting by a constant too large are faults whatever is divided. */
function checkRightConstant(op: string, left: Type, right: Value): void {
  if (!isInteger(elementScalar(left)!)) return;
  const values = (Array.isArray(right) ? right : [right]) as number[];
  if ((op === '/' || op === '%') && values.includes(0)) throw new ValueFault('division by zero');
  if ((op === '<<' || op === '>>') && values.some((v) => v >= 32))
    throw new ValueFault('shifting by 32 or more leaves nothing');
}

function operatorHint(a: Type, b: Type): string {
  const [x, y] = [elementScalar(a), elementScalar(b)];
  if (x && y && x !== y && x !== BOOL && y !== BOOL)
    return `Convert one side: ${typeName(concrete(withScalar(b, x)))}(...).`;
  return '';
}

/** The type behind parentheses, references and pointers. */
function baseType(expr: Expr): Type {
  const type = expr.type!; // checked before
  if (type.kind === 'ref') return type.of.kind === 'ptr' ? type.of.of : type.of;
  return type.kind === 'ptr' ? type.of : type;
}

/** Checks what a member or element is taken of; pointers are followed by themselves. */
function checkBase(c: CheckContext, expr: Expr): { base: Type; place: Ptr | undefined } {
  const type = checkExpr(c, expr);
  if (type === VOID) throw c.fault('void', 'this call gives no value', expr.span);
  const place = type.kind === 'ref' || type.kind === 'ptr' ? type : undefined;
  return { base: place ? place.of : type, place };
}

export function part(place: Ptr | undefined, of: Type): Type {
  return place ? ptr(place.space, of, place.access, 'ref') : of;
}

function inferMember(c: CheckContext, expr: Expr & { kind: 'member' }): Type {
  const { base, place } = checkBase(c, expr.of);
  const { member, memberSpan } = expr;
  if (base.kind === 'struct') {
    const index = base.members.findIndex((m) => m.name === member);
    if (index < 0) {
      const near = nearest(
        member,
        base.members.map((m) => m.name),
      );
      throw c.fault(
        'unknown-member',
        `"${base.name}" has no member "${member}"`,
        memberSpan,
        near ? `Did you mean "${near}"?` : `It has ${base.members.map((m) => m.name).join(', ')}.`,
      );
    }
    expr.via = { kind: 'member', index };
    if (Array.isArray(expr.of.value)) expr.value = expr.of.value[index]!;
    return part(place, base.members[index]!.type);
  }
  if (base.kind !== 'vec') throw c.fault('unknown-member', `${typeName(base)} has no members`, memberSpan);
  const letters = /^[xyzw]{1,4}$/.test(member) ? 'xyzw' : /^[rgba]{1,4}$/.test(member) ? 'rgba' : '';
  const components = [...member].map((letter) => letters.indexOf(letter));
  if (!letters || components.some((k) => k >= base.size)) {
    throw c.fault(
      'unknown-member',
      `a vector of ${base.size} has no "${member}"`,
      memberSpan,
      'Use x, y, z, w or r, g, b, a, not mixed.',
    );
  }
  expr.via = { kind: 'swizzle', components };
  const type = components.length === 1 ? base.of : vec(components.length, base.of);
  if (Array.isArray(expr.of.value)) {
    const from = expr.of.value;
    expr.value = components.length === 1 ? from[components[0]!]! : components.map((k) => from[k]!);
  }
  return part(place, type);
}

function inferIndex(c: CheckContext, expr: Expr & { kind: 'index' }): Type {
  const { base, place } = checkBase(c, expr.of);
  const type = valueOf(c, expr.index);
  if (!isInteger(type))
    throw c.fault('type', `an index is a whole number, not ${typeName(concrete(type))}`, expr.index.span);
  if (type === AINT) retype(c, expr.index, I32);
  const length =
    base.kind === 'vec'
      ? base.size
      : base.kind === 'mat'
        ? base.columns
        : base.kind === 'array'
          ? base.count
          : -1;
  if (length === -1) throw c.fault('index', `${typeName(base)} has no elements`, expr.of.span);
  const at = expr.index.value as number | undefined;
  if (at !== undefined && (at < 0 || (length !== undefined && at >= length))) {
    throw c.fault(
      'index',
      `there is no element ${at}`,
      expr.index.span,
      length === undefined ? '' : `There are ${length}: 0 to ${length - 1}.`,
    );
  }
  const of = base.kind === 'mat' ? base.column : (base as { of: Type }).of;
  if (at !== undefined && Array.isArray(expr.of.value)) {
    expr.value = expr.of.value[at]!;
    return part(place, of);
  }
  if (!place && isAbstract(base)) {
    retype(c, expr.of, concrete(base));
    return concrete(of);
  }
  return part(place, of);
}
