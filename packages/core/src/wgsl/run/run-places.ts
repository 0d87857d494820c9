import { LensError } from '../../errors/lens-error.js';
import { type Expr, type GlobalVar } from '../parse/ast.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import { type Value, zeroValue } from '../types/values.js';
import { readBase, readExpr } from './run-expressions.js';
import { type Evaluator } from './evaluate.js';
import { type Frame, type Pointer, type Read, type Write, partOf } from './lane.js';

/** A place with its indices evaluated, swizzles included. */
export function placeOf(e: Evaluator, expr: Expr): (frame: Frame) => Pointer {
  const target = unparenthesized(expr);
  const components =
    target.kind === 'member' && target.via?.kind === 'swizzle' ? target.via.components : undefined;
  if (target.kind !== 'member' || !components) {
    const address = addressOf(e, target);
    return (frame) => address(frame) as unknown as Pointer;
  }
  const isPointer = loaded(target.of.type!).kind === 'ptr';
  const base = isPointer ? readExpr(e, target.of) : addressOf(e, target.of);
  return (frame) => {
    const outer = base(frame) as unknown as Pointer;
    const [only] = components;
    if (components.length === 1) {
      return partOf(
        outer,
        (whole) => whole[only!]!,
        (whole, part) => void (whole[only!] = part),
      );
    }
    return partOf(
      outer,
      (whole) => components.map((k) => whole[k]!),
      (whole, part) => components.forEach((k, i) => (whole[k] = (part as Value[])[i]!)),
    );
  };
}

export function writeTo(e: Evaluator, expr: Expr): Write {
  const target = unparenthesized(expr);
  if (target.kind !== 'unary' && isThroughPointer(target)) {
    const place = placeOf(e, target);
    return (frame, value) => place(frame).set(value);
  }
  switch (target.kind) {
    case 'name': {
      const place = target.target!; // checked
      if ('index' in place) {
        const { index } = place;
        return (frame, value) => {
          frame.locals[index] = value;
        };
      }
      const global = place as GlobalVar;
      return (frame, value) => {
        if (frame.lane.isDiscarded && global.space === 'storage') return;
        // Buffers are the caller's own arrays: written in place.
        const held = frame.lane.memory.get(global);
        if (Array.isArray(held) && Array.isArray(value)) held.splice(0, held.length, ...value);
        else frame.lane.memory.set(global, value);
      };
    }
    case 'unary': {
      const pointer = readExpr(e, target.of);
      return (frame, value) => (pointer(frame) as unknown as Pointer).set(value);
    }
    case 'member': {
      const of = readBase(e, target.of);
      const via = target.via!; // set by the checker
      const indices = via.kind === 'member' ? [via.index] : via.components;
      if (indices.length === 1) {
        const index = indices[0]!;
        return (frame, value) => {
          (of(frame) as Value[])[index] = value;
        };
      }
      return (frame, value) => {
        const into = of(frame) as Value[];
        indices.forEach((index, i) => (into[index] = (value as Value[])[i]!));
      };
    }
    case 'index': {
      const of = readBase(e, target.of);
      const index = readExpr(e, target.index);
      return (frame, value) => {
        const into = of(frame) as Value[];
        into[within(index(frame) as number, into)] = value;
      };
    }
    default:
      throw new LensError('wgsl/assign', 'this cannot be assigned to');
  }
}

/** A pointer whose path is fixed now: indices are evaluated once. */
export function addressOf(e: Evaluator, expr: Expr): Read {
  const target = unparenthesized(expr);
  const pointer = (make: (frame: Frame) => Pointer): Read => make as unknown as Read;
  if (target.kind === 'name' || target.kind === 'unary') {
    if (target.kind === 'unary') return readExpr(e, target.of);
    const read = readExpr(e, target);
    const write = writeTo(e, target);
    return pointer((frame) => ({ get: () => read(frame), set: (value) => write(frame, value) }));
  }
  if (target.kind === 'member' || target.kind === 'index') {
    const isPointer = loaded(target.of.type!).kind === 'ptr';
    const base = isPointer ? readExpr(e, target.of) : addressOf(e, target.of);
    const at =
      target.kind === 'index'
        ? readExpr(e, target.index)
        : (): number => (target.via as { index: number }).index;
    return pointer((frame) => {
      const outer = base(frame) as unknown as Pointer;
      const index = at(frame) as number;
      return partOf(
        outer,
        (whole) => whole[within(index, whole)] ?? zeroValue(loaded(target.type!)),
        (whole, part) => void (whole[within(index, whole)] = part),
      );
    });
  }
  return readExpr(e, target);
}

/** Whether a place is reached through a pointer. */
function isThroughPointer(expr: Expr): boolean {
  const at = unparenthesized(expr);
  if (at.kind !== 'member' && at.kind !== 'index') return at.kind === 'unary';
  return loaded(at.of.type!).kind === 'ptr' || isThroughPointer(at.of);
}

export function within(index: number, list: Value[]): number {
  return Math.max(0, Math.min(list.length - 1, index));
}
