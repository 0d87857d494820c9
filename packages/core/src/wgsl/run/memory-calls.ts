import { readMemory, writeMemory } from './memory.js';
import { elementScalar, I32, type Type } from '../types/types.js';
import { sameValue, type Value } from '../types/values.js';
import { type Frame, type Pointer, type Read } from './lane.js';

/** Views into an untyped buffer, which is a list of 32-bit words. */
export function bufferCall(name: string, args: Read[], type: Type): Read {
  const pointer = (frame: Frame): Pointer => args[0]!(frame) as unknown as Pointer;
  if (name === 'bufferLength') return (frame) => (pointer(frame).get() as Value[]).length * 4;
  const of = (type as { of: Type }).of; // views are pointers
  return (frame) => {
    const whole = pointer(frame);
    const at = args[1]!(frame) as number;
    const size = args[2]?.(frame) as number | undefined;
    const words = whole.get() as number[];
    const end = Math.min(words.length * 4, size === undefined ? Infinity : at + size);
    const view: Pointer = {
      get: () => readMemory(whole.get() as number[], at, of, end),
      set: (value) => {
        if (!frame.lane.isDiscarded) writeMemory(whole.get() as number[], at, of, value);
      },
      isView: true,
    };
    return view as unknown as Value;
  };
}

export function atomicCall(name: string, args: Read[], types: Type[]): Read {
  const isSigned = types[0]!.kind === 'ptr' && elementScalar((types[0].of as { of: Type }).of) === I32;
  const wrap = (x: number): number => (isSigned ? x | 0 : x >>> 0);
  const operate: Record<string, (old: number, x: number) => number> = {
    atomicAdd: (a, b) => a + b,
    atomicSub: (a, b) => a - b,
    atomicMax: Math.max,
    atomicMin: Math.min,
    atomicAnd: (a, b) => a & b,
    atomicOr: (a, b) => a | b,
    atomicXor: (a, b) => a ^ b,
    atomicExchange: (_, b) => b,
    atomicStore: (_, b) => b,
    atomicLoad: (a) => a,
  };
  return (frame) => {
    const pointer = args[0]!(frame) as unknown as Pointer;
    const old = pointer.get();
    const x = args[1]?.(frame) as number;
    if (name === 'atomicCompareExchangeWeak') {
      const isSame = sameValue(old, x);
      if (isSame && !frame.lane.isDiscarded) pointer.set(args[2]!(frame));
      return [old, isSame];
    }
    if (!frame.lane.isDiscarded) pointer.set(wrap(operate[name]!(old as number, x)));
    return old;
  };
}
