import { LensError } from '../../errors/lens-error.js';
import { type BinaryOp, type CallExpr, type Expr, type GlobalVar } from '../parse/ast.js';
import { builtinValue } from '../types/builtin-values.js';
import { constructValue } from '../check/check-construct.js';
import { loaded } from '../check/check-context.js';
import { subgroupCall } from './one-invocation.js';
import { binaryOperation, binaryTypes, unaryOperation } from '../types/operators.js';
import { type Type } from '../types/types.js';
import { copyValue, type Value, zeroValue } from '../types/values.js';
import { addressOf, within } from './run-places.js';
import { derivative, textureCall } from './texture-calls.js';
import { atomicCall, bufferCall } from './memory-calls.js';
import { type Evaluator } from './evaluate.js';
import { type Frame, type Pointer, type Read } from './lane.js';

/** Reads an expression's value; memory is read where it is, so keep a copy of what you store. */
export function readExpr(e: Evaluator, expr: Expr): Read {
  if (expr.value !== undefined) {
    const { value } = expr;
    return () => value;
  }
  switch (expr.kind) {
    case 'paren':
      return readExpr(e, expr.of);
    case 'name':
      return readName(expr);
    case 'unary': {
      if (expr.op === '&') return addressOf(e, expr.of);
      if (expr.op === '*') {
        const pointer = readExpr(e, expr.of);
        return (frame) => (pointer(frame) as unknown as Pointer).get();
      }
      const of = readExpr(e, expr.of);
      const f = unaryOperation(expr.op, loaded(expr.of.type!));
      return (frame) => f(of(frame));
    }
    case 'binary': {
      const left = readExpr(e, expr.left);
      const right = readExpr(e, expr.right);
      if (expr.op === '&&') return (frame) => left(frame) === true && right(frame) === true;
      if (expr.op === '||') return (frame) => left(frame) === true || right(frame) === true;
      const f = operationOf(expr.op, loaded(expr.left.type!), loaded(expr.right.type!));
      return (frame) => f(left(frame), right(frame));
    }
    case 'member': {
      const of = readBase(e, expr.of);
      if (expr.via!.kind === 'member') {
        const { index } = expr.via as { index: number };
        return (frame) => (of(frame) as Value[])[index]!;
      }
      const { components } = expr.via as { components: number[] };
      if (components.length === 1) return (frame) => (of(frame) as Value[])[components[0]!]!;
      return (frame) => {
        const from = of(frame) as Value[];
        return components.map((k) => from[k]!);
      };
    }
    case 'index': {
      const of = readBase(e, expr.of);
      const index = readExpr(e, expr.index);
      return (frame) => {
        const list = of(frame) as Value[];
        return list[within(index(frame) as number, list)] ?? zeroValue(loaded(expr.type!));
      };
    }
    case 'call':
      return readCall(e, expr);
    default:
      return () => 0;
  }
}

/** Members and elements are also taken of pointers. */
export function readBase(e: Evaluator, expr: Expr): Read {
  const type = loaded(expr.type!);
  const read = readExpr(e, expr);
  if (type.kind !== 'ptr') return read;
  return (frame) => (read(frame) as unknown as Pointer).get();
}

function readName(expr: Expr & { kind: 'name' }): Read {
  const { target } = expr;
  if (target && 'index' in target) {
    const { index } = target;
    return (frame) => frame.locals[index]!;
  }
  const global = target as GlobalVar;
  if (global.space === 'handle') {
    return (frame) => {
      const found = frame.lane.resources[global.name];
      if (found === undefined) {
        throw new LensError('wgsl/no-resource', `"${global.name}" was not given`, {
          hint: `Give it among the resources: { ${global.name}: ... }.`,
        });
      }
      return found as Value;
    };
  }
  return (frame) => frame.lane.memory.get(global)!;
}

export function operationOf(op: BinaryOp, left: Type, right: Type): (a: Value, b: Value) => Value {
  return binaryOperation(op, binaryTypes(op, left, right)!); // the checker found them to fit
}

function readCall(e: Evaluator, expr: CallExpr): Read {
  const args = expr.args.map((arg) => readExpr(e, arg));
  const types = expr.args.map((arg) => loaded(arg.type!));
  const type = expr.type!;
  const call = expr.call!; // set by the checker
  if (call.kind === 'construct') {
    if (args.length === 0) return () => zeroValue(type);
    if (type.kind === 'array' || type.kind === 'struct')
      return (frame) => args.map((arg) => copyValue(arg(frame)));
    return (frame) =>
      copyValue(
        constructValue(
          type,
          types,
          args.map((arg) => arg(frame)),
        ),
      );
  }
  if (call.kind === 'function') {
    const f = e.function(call.function);
    const { name } = call.function;
    return (frame) => {
      const values = args.map((arg) => {
        const value = arg(frame);
        return Array.isArray(value) ? copyValue(value) : value;
      });
      const result = f(values, frame.lane);
      if (frame.lane.trace) e.note(frame.lane, expr.span, 'call', name, result, type);
      return result;
    };
  }
  return readBuiltin(e, call.name, args, types, expr);
}

function readBuiltin(e: Evaluator, name: string, args: Read[], types: Type[], expr: CallExpr): Read {
  const type = expr.type!;
  const f = builtinValue(name, types, type);
  if (f) {
    const [a, b, c] = args;
    const traced = (frame: Frame, result: Value): Value => {
      if (frame.lane.trace) e.note(frame.lane, expr.span, 'call', name, result, type);
      return result;
    };
    if (args.length === 1) return (frame) => traced(frame, f(a!(frame)));
    if (args.length === 2) return (frame) => traced(frame, f(a!(frame), b!(frame)));
    if (args.length === 3) return (frame) => traced(frame, f(a!(frame), b!(frame), c!(frame)));
    return (frame) => traced(frame, f(...args.map((arg) => arg(frame))));
  }
  if (/^(dpdx|dpdy|fwidth)/.test(name)) return derivative(name, args[0]!);
  if (name.startsWith('texture')) return textureCall(name, args, types);
  if (/^(subgroup|quad)/.test(name))
    return (frame) =>
      subgroupCall(
        name,
        args.map((arg) => arg(frame)),
      );
  if (name.startsWith('buffer')) return bufferCall(name, args, type);
  if (name.startsWith('atomic')) return atomicCall(name, args, types);
  if (name === 'arrayLength')
    return (frame) => ((args[0]!(frame) as unknown as Pointer).get() as Value[]).length;
  if (name === 'workgroupUniformLoad') return (frame) => (args[0]!(frame) as unknown as Pointer).get();
  // Barriers: alone, an invocation waits for nobody.
  return () => 0;
}
