import type { GlobalVar } from '../parse/ast.js';
import type { Type } from '../types/types.js';
import type { Value } from '../types/values.js';
import type { CpuSampler, CpuTexture } from './cpu-texture.js';

/** One invocation on its way. */
export interface Lane {
  memory: Map<GlobalVar, Value>;
  resources: Resources;
  /** Set by discard: the invocation goes on for its neighbours' sake, but writes nothing. */
  isDiscarded: boolean;
  /** Loop rounds left before it is stopped. */
  fuel: number;
  trace: TraceStep[] | undefined;
  /** Values whose differences to the neighbours were asked for, in order. */
  asked: Value[];
  /** Answers of the round before: differences along x and y, by the number of the question. */
  answers: { dx: Value; dy: Value }[];
  depth: number;
}

/** One thing that happened at a line, in the order of happening. */
export interface TraceStep {
  file: string;
  line: number;
  /** `let`, `var`, `const`, `assign`, `step`, `return`, `call`, `param` or `discard`. */
  kind: string;
  /** The variable, member path or function. */
  name: string;
  value: Value | undefined;
  type: Type;
}

/** Buffers, textures and samplers by the name of their variable. */
export type Resources = Record<string, Value | CpuTexture | CpuSampler>;

/** A function under way: its parameters and variables by number. */
export interface Frame {
  locals: Value[];
  lane: Lane;
}
export type Read = (frame: Frame) => Value;
export type Write = (frame: Frame, value: Value) => void;

/** A place in memory, as `&x` gives it. */
export interface Pointer {
  get(): Value;
  set(value: Value): void;
  /** A view into an untyped buffer: `get` gives a copy, so that a changed part is set as a whole. */
  isView?: boolean;
}

/** A part of what a pointer points to. */
export function partOf(
  outer: Pointer,
  get: (whole: Value[]) => Value,
  put: (whole: Value[], part: Value) => void,
): Pointer {
  return {
    get: () => get(outer.get() as Value[]),
    set: (part) => {
      const whole = outer.get() as Value[];
      put(whole, part);
      if (outer.isView) outer.set(whole);
    },
    isView: outer.isView ?? false,
  };
}
