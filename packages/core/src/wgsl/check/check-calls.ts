import type { CheckContext } from './check-context.js';
import { loaded } from './check-context.js';
import {
  concrete,
  I32,
  isAbstract,
  sizeOf,
  type Type,
  typeName,
  U32,
  AINT,
  BOOL,
  elementScalar,
  VOID,
} from '../types/types.js';
import { type CallExpr } from '../parse/ast.js';
import { BUILTINS } from '../types/builtins.js';
import { LANE_LIMITS } from '../types/subgroup-builtins.js';
import { inferBufferCall, isBufferFunction } from './check-buffers.js';
import { builtinValue, checkConstantCall } from '../types/builtin-values.js';
import { construct } from './check-construct.js';
import { checkFinite } from '../types/operators.js';
import { typeOf } from './check-types.js';
import { valueOf, convertTo, constantOf, constantInteger, faultOf } from './check-expressions.js';

export function inferCall(c: CheckContext, expr: CallExpr): Type {
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
  const types = c.each(args.map((arg) => () => valueOf(c, arg)));
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
  c.each(args.map((arg) => () => valueOf(c, arg)));
  args.forEach((arg, i) => {
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
