import type { CallExpr, Expr } from '../parse/ast.js';
import { BUILTINS } from '../types/builtins.js';
import { LANE_LIMITS } from '../types/subgroup-builtins.js';
import { inferBufferCall, isBufferFunction } from './check-buffers.js';
import { builtinValue, checkConstantCall } from '../types/builtin-values.js';
import { type CheckContext, loaded, unparenthesized } from './check-context.js';
import { construct } from './check-construct.js';
import { namedType, typeOf } from './check-types.js';
import { binaryTypes, checkFinite, constantBinary, unaryOperation, unaryType } from '../types/operators.js';
import { nearest } from '../parse/source.js';
import {
  AINT,
  BOOL,
  concrete,
  conversionRank,
  elementScalar,
  F16,
  I32,
  isAbstract,
  isInteger,
  ptr,
  type Ptr,
  sizeOf,
  type Type,
  typeName,
  U32,
  vec,
  VOID,
  withScalar,
} from '../types/types.js';
import { convertAbstract, readLiteral, type Value, ValueFault } from '../types/values.js';

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

function faultOf(c: CheckContext, error: unknown, expr: Expr): unknown {
  return error instanceof ValueFault ? c.fault('constant', error.message, expr.span) : error;
}

function checkExpr(c: CheckContext, expr: Expr): Type {
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
  const a = valueOf(c, left);
  // The right side of a decided && or || is checked, but its value may be faulty.
  const isDecided = (op === '&&' && left.value === false) || (op === '||' && left.value === true);
  let b: Type;
  try {
    b = valueOf(c, right);
  } catch (error) {
    if (!isDecided || (error as { code?: string }).code !== 'constant') throw error;
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
    else if (isDecided) expr.value = op === '||';
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

function part(place: Ptr | undefined, of: Type): Type {
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

function inferCall(c: CheckContext, expr: CallExpr): Type {
  const { callee, args } = expr;
  const { name } = callee;
  if (c.local(name)) throw c.fault('call', `"${name}" is not a function`, callee.span);
  const decl = c.find(name, callee.span);
  if (decl?.kind === 'fn') return inferFunctionCall(c, expr);
  if (decl && decl.kind !== 'struct' && decl.kind !== 'alias')
    throw c.fault('call', `"${name}" is not a function`, callee.span);
  if (name === 'bitcast' && !decl) return inferBitcast(c, expr);
  if (isBufferFunction(name) && !decl) return inferBufferCall(c, expr);
  const builtin = decl ? undefined : BUILTINS.get(name);
  if (!builtin) {
    const type = construct(c, expr);
    if (type) return type;
    throw c.unknown('function', name, callee.span);
  }
  if (callee.templates) throw c.fault('template', `"${name}" takes no template arguments`, callee.span);
  if (builtin.feature && !c.features.has(builtin.feature))
    throw c.fault(
      'feature',
      `${name} needs the feature "${builtin.feature}"`,
      callee.span,
      `Write "enable ${builtin.feature};" at the top.`,
    );
  const types = args.map((arg) => valueOf(c, arg));
  const chosen = builtin.types(types);
  if (!chosen) {
    throw c.fault(
      'arguments',
      `${name} does not take (${types.map((t) => typeName(concrete(t))).join(', ')})`,
      expr.span,
      `It is ${builtin.signature}.`,
    );
  }
  const isConstant = builtin.isConstant && args.every((arg) => arg.value !== undefined);
  let { params, result } = chosen;
  if (!isConstant && (params.some(isAbstract) || hidesAbstract(result))) {
    // Nothing abstract is left when the program runs: choose again among concrete types.
    const again = builtin.types(
      types.map((t, i) =>
        isAbstract(params[i]!) || isAbstract(t) ? concrete(isAbstract(params[i]!) ? params[i]! : t) : t,
      ),
    );
    if (again) ({ params, result } = again);
  }
  args.forEach((arg, i) => convertTo(c, arg, params[i]!, `argument ${i + 1} of ${name}`));
  expr.call = { kind: 'builtin', name };
  checkTextureConstants(c, name, expr);
  checkLane(c, name, expr);
  if (builtin.stages) c.fn?.staged.push({ name, stages: builtin.stages, span: callee.span });
  if (!c.fn && !builtin.isConstant)
    throw c.fault('not-constant', `${name} can only be called inside functions`, expr.span);
  if (isConstant) {
    try {
      const values = args.map((arg) => arg.value!);
      checkConstantCall(name, params, values);
      const value = builtinValue(name, params, result)!(...values); // constant functions all have one
      const of = elementScalar(result);
      if (of) checkFinite(value, of);
      expr.value = value;
    } catch (error) {
      throw faultOf(c, error, expr);
    }
  } else {
    checkPartialConstants(c, name, params, expr);
  }
  return result;
}

const hidesAbstract = (type: Type): boolean =>
  type.kind === 'struct' && type.members.some((m) => isAbstract(m.type));

/** Faults that show although not every argument is a constant. */
function checkPartialConstants(c: CheckContext, name: string, params: Type[], expr: CallExpr): void {
  const { args } = expr;
  const both = (i: number, j: number): boolean =>
    args[i]?.value !== undefined && args[j]?.value !== undefined;
  try {
    if (name === 'clamp' && both(1, 2))
      checkConstantCall(name, params, [0, args[1]!.value!, args[2]!.value!]);
    if (name === 'smoothstep' && both(0, 1))
      checkConstantCall(name, params, [args[0]!.value!, args[1]!.value!, 0]);
    if (name === 'extractBits' && both(1, 2))
      checkConstantCall(name, params, [0, args[1]!.value!, args[2]!.value!]);
    if (name === 'insertBits' && both(2, 3))
      checkConstantCall(name, params, [0, 0, args[2]!.value!, args[3]!.value!]);
    if (name === 'ldexp' && args[1]!.value !== undefined)
      checkConstantCall(name, params, [0, args[1]!.value]);
  } catch (error) {
    throw faultOf(c, error, expr);
  }
}

/** Offsets and components of texture functions must be constants in range. */
function checkTextureConstants(c: CheckContext, name: string, expr: CallExpr): void {
  if (!name.startsWith('textureSample') && !name.startsWith('textureGather')) return;
  const { args } = expr;
  const first = args[0]!.type!;
  if (name === 'textureGather' && first.kind !== 'texture') {
    const component = constantInteger(c, args[0]!, "textureGather's component");
    if (component < 0 || component > 3)
      throw c.fault('constant', `there is no component ${component}`, args[0]!.span);
  }
  const last = args[args.length - 1]!;
  const type = loaded(last.type!);
  if (args.length > 3 && type.kind === 'vec' && type.of === I32) {
    const values = constantOf(c, last, 'the offset of a texture function') as number[];
    if (values.some((v) => v < -8 || v > 7)) throw c.fault('constant', 'an offset is -8 to 7', last.span);
  }
}

/** Which invocation is meant must be in range, where it is known, and for some functions be known. */
function checkLane(c: CheckContext, name: string, expr: CallExpr): void {
  const rule = LANE_LIMITS[name];
  const at = expr.args[1];
  if (!rule || !at || (at.value === undefined && !rule.isConstant)) return;
  const value = constantInteger(c, at, 'the number of an invocation');
  if (value < 0 || value >= rule.limit)
    throw c.fault('constant', `${name} takes 0 to ${rule.limit - 1}, not ${value}`, at.span);
}

function inferFunctionCall(c: CheckContext, expr: CallExpr): Type {
  const decl = c.find(expr.callee.name, expr.callee.span)!; // the caller found it
  if (decl.kind !== 'fn') return VOID;
  const { callee, args } = expr;
  if (callee.templates) throw c.fault('template', `"${decl.name}" takes no template arguments`, callee.span);
  if (!c.fn)
    throw c.fault('not-constant', 'functions of the module can only be called inside functions', expr.span);
  c.resolve(decl, callee.span);
  if (decl.stage) throw c.fault('call', `"${decl.name}" is an entry point and cannot be called`, callee.span);
  if (args.length !== decl.params.length) {
    throw c.fault(
      'arguments',
      `"${decl.name}" takes ${decl.params.length} arguments, not ${args.length}`,
      expr.span,
    );
  }
  args.forEach((arg, i) => {
    valueOf(c, arg);
    convertTo(c, arg, decl.params[i]!.local!.type, `argument ${i + 1} of "${decl.name}"`);
  });
  c.fn.calls.add(decl);
  c.refer(decl.name, callee.span, decl);
  expr.call = { kind: 'function', function: decl };
  return decl.returnType!;
}

function inferBitcast(c: CheckContext, expr: CallExpr): Type {
  const { callee, args } = expr;
  if (callee.templates?.length !== 1 || args.length !== 1)
    throw c.fault('arguments', 'bitcast takes a type and a value: bitcast<u32>(x)', expr.span);
  const to = typeOf(c, callee.templates[0]!);
  const from = valueOf(c, args[0]!);
  const [a, b] = [elementScalar(from), elementScalar(to)];
  const isBits = (t: Type): boolean => t.kind === 'scalar' || t.kind === 'vec';
  if (!a || !b || a === BOOL || b === BOOL || !isBits(from) || !isBits(to)) {
    throw c.fault(
      'arguments',
      `the bits of ${typeName(concrete(from))} cannot be those of ${typeName(to)}`,
      expr.span,
    );
  }
  // A whole number keeps its bits as u32 where it is too large for i32.
  if (isAbstract(from))
    convertTo(
      c,
      args[0]!,
      from === AINT && (args[0]!.value as number) > 2147483647 ? U32 : concrete(from),
      'the value',
    );
  const source = loaded(args[0]!.type!);
  if (sizeOf(source) !== sizeOf(to))
    throw c.fault('arguments', `${typeName(source)} and ${typeName(to)} have different sizes`, expr.span);
  expr.call = { kind: 'builtin', name: 'bitcast' };
  if (args[0]!.value !== undefined) {
    try {
      const value = builtinValue('bitcast', [source], to)!(args[0]!.value);
      checkFinite(value, b);
      expr.value = value;
    } catch (error) {
      throw faultOf(c, error, expr);
    }
  }
  return to;
}

export { checkExpr };
