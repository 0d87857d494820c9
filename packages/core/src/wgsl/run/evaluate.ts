import { LensError } from '../../errors/lens-error.js';
import type { BinaryOp, CallExpr, Expr, FunctionDecl, GlobalVar, Statement } from '../parse/ast.js';
import { builtinValue } from '../types/builtin-values.js';
import { constructValue } from '../check/check-construct.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import type { CheckedModule } from '../check/check.js';
import {
  type CpuSampler,
  type CpuTexture,
  gatherTexels,
  loadTexel,
  sampleTexture,
  storeTexel,
  textureSize,
} from './cpu-texture.js';
import { readMemory, writeMemory } from './memory.js';
import { subgroupCall } from './one-invocation.js';
import { exprHasEffects } from '../check/effects.js';
import { binaryOperation, binaryTypes, unaryOperation } from '../types/operators.js';
import { findingOf, WgslFault } from '../parse/source.js';
import { elementScalar, I32, type Type, VOID } from '../types/types.js';
import { copyValue, sameValue, type Value, zeroValue } from '../types/values.js';

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

/** A place in memory, as `&x` gives it. */
interface Pointer {
  get(): Value;
  set(value: Value): void;
  /** A view into an untyped buffer: `get` gives a copy, so that a changed part is set as a whole. */
  isView?: boolean;
}

/** A part of what a pointer points to. */
function partOf(
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

/** Whether a place is reached through a pointer. */
function isThroughPointer(expr: Expr): boolean {
  const at = unparenthesized(expr);
  if (at.kind !== 'member' && at.kind !== 'index') return at.kind === 'unary';
  return loaded(at.of.type!).kind === 'ptr' || isThroughPointer(at.of);
}

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

type Frame = { locals: Value[]; lane: Lane };
type Read = (frame: Frame) => Value;
type Write = (frame: Frame, value: Value) => void;
/** How a statement ended. */
const NORMAL = 0;
const BREAK = 1;
const CONTINUE = 2;
const RETURN = 3;
type Run = (frame: Frame) => number;
type Call = (args: Value[], lane: Lane) => Value;

/** Rounds of loops that one invocation may take before it counts as endless. */
export const MOST_ROUNDS = 20_000_000;

/** Turns checked functions into JavaScript closures, each once; no text is ever run as code. */
export class Evaluator {
  private readonly calls = new Map<FunctionDecl, Call>();

  constructor(readonly checked: CheckedModule) {}

  lane(resources: Resources = {}, trace?: TraceStep[]): Lane {
    const memory = new Map<GlobalVar, Value>();
    const lane: Lane = {
      memory,
      resources,
      isDiscarded: false,
      fuel: MOST_ROUNDS,
      trace,
      asked: [],
      answers: [],
      depth: 0,
    };
    for (const global of this.checked.globals) {
      if (global.form === 'const') continue;
      if (global.space === 'handle') continue;
      const given = resources[global.name];
      if (given !== undefined) memory.set(global, given as Value);
      else
        memory.set(
          global,
          global.init ? copyValue(this.read(global.init)({ locals: [], lane })) : zeroValue(global.type!),
        );
    }
    return lane;
  }

  function(decl: FunctionDecl): Call {
    let call = this.calls.get(decl);
    if (!call) {
      call = this.compile(decl);
      this.calls.set(decl, call);
    }
    return call;
  }

  private compile(decl: FunctionDecl): Call {
    // Compiled when first called, so that functions may stand in any order.
    let body: Run | undefined;
    return (args, lane) => {
      body ??= this.block(decl.body);
      if (++lane.depth > 500)
        throw new LensError('wgsl/depth', 'functions are nested more than 500 calls deep');
      const frame: Frame & { result?: Value } = { locals: args.slice(), lane };
      if (lane.trace)
        decl.params.forEach((p, i) => this.note(lane, p.span, 'param', p.name, args[i]!, p.local!.type));
      body(frame);
      lane.depth--;
      const result = (frame as { result?: Value }).result;
      return result === undefined ? (decl.returnType === VOID ? 0 : zeroValue(decl.returnType!)) : result;
    };
  }

  private note(
    lane: Lane,
    span: Expr['span'],
    kind: string,
    name: string,
    value: Value | undefined,
    type: Type,
  ): void {
    if (!lane.trace || lane.trace.length >= 100_000) return;
    const { file, line } = findingOf(new WgslFault('', '', span));
    const kept =
      value !== undefined && typeof value === 'object' && !Array.isArray(value) ? undefined : value;
    lane.trace.push({
      file,
      line,
      kind,
      name,
      value: kept === undefined ? undefined : copyValue(kept),
      type,
    });
  }

  private block(body: Statement[]): Run {
    const runs = body.map((statement) => this.statement(statement));
    return (frame) => {
      for (const run of runs) {
        const end = run(frame);
        if (end !== NORMAL) return end;
      }
      return NORMAL;
    };
  }

  private statement(statement: Statement): Run {
    switch (statement.kind) {
      case 'block':
        return this.block(statement.body);
      case 'let':
      case 'const':
      case 'var': {
        const { local, init, kind, name, nameSpan } = statement;
        const { index, type } = local!; // set by the checker
        const read = init ? this.read(init) : () => zeroValue(type);
        return (frame) => {
          const value = read(frame);
          frame.locals[index] = copyValue(value);
          if (frame.lane.trace) this.note(frame.lane, nameSpan, kind, name, value, type);
          return NORMAL;
        };
      }
      case 'assign':
        return this.assign(statement);
      case 'phony': {
        const read = this.read(statement.value);
        return (frame) => (read(frame), NORMAL);
      }
      case 'step': {
        const place = this.placeOf(statement.target);
        const isSigned = loaded(statement.target.type!) === I32;
        return (frame) => {
          const { get, set } = place(frame);
          const next = (get() as number) + statement.by;
          set(isSigned ? next | 0 : next >>> 0);
          if (frame.lane.trace)
            this.note(
              frame.lane,
              statement.span,
              'step',
              textOf(statement.target),
              get(),
              loaded(statement.target.type!),
            );
          return NORMAL;
        };
      }
      case 'call': {
        const read = this.read(statement.call);
        return (frame) => (read(frame), NORMAL);
      }
      case 'if': {
        const condition = this.read(statement.condition);
        const then = this.statement(statement.then);
        const otherwise = statement.otherwise && this.statement(statement.otherwise);
        return (frame) => (condition(frame) ? then(frame) : otherwise ? otherwise(frame) : NORMAL);
      }
      case 'switch': {
        const on = this.read(statement.on);
        const cases = statement.cases.map((one) => ({
          values: one.selectors.map((s) => s?.value),
          run: this.statement(one.body),
        }));
        return (frame) => {
          const value = on(frame);
          const chosen =
            cases.find((one) => one.values.includes(value as never)) ??
            cases.find((one) => one.values.includes(undefined));
          const end = chosen?.run(frame) ?? NORMAL;
          return end === BREAK ? NORMAL : end;
        };
      }
      case 'loop':
        return this.loop(statement);
      case 'for':
      case 'while': {
        const init = statement.kind === 'for' && statement.init ? this.statement(statement.init) : undefined;
        const condition = statement.condition && this.read(statement.condition);
        const update =
          statement.kind === 'for' && statement.update ? this.statement(statement.update) : undefined;
        const body = this.statement(statement.body);
        return (frame) => {
          init?.(frame);
          while (!condition || condition(frame)) {
            burn(frame.lane, statement.span);
            const end = body(frame);
            if (end === BREAK) break;
            if (end === RETURN) return RETURN;
            update?.(frame);
          }
          return NORMAL;
        };
      }
      case 'break':
        return () => BREAK;
      case 'continue':
        return () => CONTINUE;
      case 'discard':
        return (frame) => {
          frame.lane.isDiscarded = true;
          if (frame.lane.trace) this.note(frame.lane, statement.span, 'discard', 'discard', undefined, VOID);
          return NORMAL;
        };
      case 'return': {
        const { value, span } = statement;
        if (!value) return () => RETURN;
        const read = this.read(value);
        return (frame) => {
          const result = copyValue(read(frame));
          (frame as Frame & { result: Value }).result = result;
          if (frame.lane.trace) this.note(frame.lane, span, 'return', '', result, loaded(value.type!));
          return RETURN;
        };
      }
      default:
        return () => NORMAL;
    }
  }

  private loop(statement: Statement & { kind: 'loop' }): Run {
    const body = this.block(statement.body);
    const continuing = statement.continuing && this.block(statement.continuing.body);
    const breakIf = statement.continuing?.breakIf && this.read(statement.continuing.breakIf);
    return (frame) => {
      for (;;) {
        burn(frame.lane, statement.span);
        const end = body(frame);
        if (end === BREAK) return NORMAL;
        if (end === RETURN) return RETURN;
        continuing?.(frame);
        if (breakIf?.(frame)) return NORMAL;
      }
    };
  }

  private assign(statement: Statement & { kind: 'assign' }): Run {
    const { target, op, value, span } = statement;
    const right = this.read(value);
    const type = loaded(target.type!);
    const operate = op === '=' ? undefined : this.operation(op, type, loaded(value.type!));
    const told = (frame: Frame, result: Value): number => {
      if (frame.lane.trace) this.note(frame.lane, span, 'assign', textOf(target), result, type);
      return NORMAL;
    };
    if (exprHasEffects(value) || exprHasEffects(target)) {
      // The left side is found, and read, before the right side changes anything.
      const place = this.placeOf(target);
      return (frame) => {
        const { get, set } = place(frame);
        const before = operate ? copyValue(get()) : 0;
        const result = operate ? operate(before, right(frame)) : copyValue(right(frame));
        set(result);
        return told(frame, result);
      };
    }
    const write = this.write(target);
    if (!operate) {
      return (frame) => {
        const result = right(frame);
        write(frame, copyValue(result));
        return told(frame, result);
      };
    }
    const left = this.read(target);
    return (frame) => {
      const result = operate(left(frame), right(frame));
      write(frame, result);
      return told(frame, result);
    };
  }

  /** A place with its indices evaluated, swizzles included. */
  private placeOf(expr: Expr): (frame: Frame) => Pointer {
    const target = unparenthesized(expr);
    const components =
      target.kind === 'member' && target.via?.kind === 'swizzle' ? target.via.components : undefined;
    if (target.kind !== 'member' || !components) {
      const address = this.address(target);
      return (frame) => address(frame) as unknown as Pointer;
    }
    const isPointer = loaded(target.of.type!).kind === 'ptr';
    const base = isPointer ? this.read(target.of) : this.address(target.of);
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

  private operation(op: BinaryOp, left: Type, right: Type): (a: Value, b: Value) => Value {
    return binaryOperation(op, binaryTypes(op, left, right)!); // the checker found them to fit
  }

  /** Reads an expression's value; memory is read where it is, so keep a copy of what you store. */
  private read(expr: Expr): Read {
    if (expr.value !== undefined) {
      const { value } = expr;
      return () => value;
    }
    switch (expr.kind) {
      case 'paren':
        return this.read(expr.of);
      case 'name':
        return this.readName(expr);
      case 'unary': {
        if (expr.op === '&') return this.address(expr.of);
        if (expr.op === '*') {
          const pointer = this.read(expr.of);
          return (frame) => (pointer(frame) as unknown as Pointer).get();
        }
        const of = this.read(expr.of);
        const f = unaryOperation(expr.op, loaded(expr.of.type!));
        return (frame) => f(of(frame));
      }
      case 'binary': {
        const left = this.read(expr.left);
        const right = this.read(expr.right);
        if (expr.op === '&&') return (frame) => left(frame) === true && right(frame) === true;
        if (expr.op === '||') return (frame) => left(frame) === true || right(frame) === true;
        const f = this.operation(expr.op, loaded(expr.left.type!), loaded(expr.right.type!));
        return (frame) => f(left(frame), right(frame));
      }
      case 'member': {
        const of = this.readBase(expr.of);
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
        const of = this.readBase(expr.of);
        const index = this.read(expr.index);
        return (frame) => {
          const list = of(frame) as Value[];
          return list[within(index(frame) as number, list)] ?? zeroValue(loaded(expr.type!));
        };
      }
      case 'call':
        return this.readCall(expr);
      default:
        return () => 0;
    }
  }

  /** Members and elements are also taken of pointers. */
  private readBase(expr: Expr): Read {
    const type = loaded(expr.type!);
    const read = this.read(expr);
    if (type.kind !== 'ptr') return read;
    return (frame) => (read(frame) as unknown as Pointer).get();
  }

  private readName(expr: Expr & { kind: 'name' }): Read {
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

  private write(expr: Expr): Write {
    const target = unparenthesized(expr);
    if (target.kind !== 'unary' && isThroughPointer(target)) {
      const place = this.placeOf(target);
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
        const pointer = this.read(target.of);
        return (frame, value) => (pointer(frame) as unknown as Pointer).set(value);
      }
      case 'member': {
        const of = this.readBase(target.of);
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
        const of = this.readBase(target.of);
        const index = this.read(target.index);
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
  private address(expr: Expr): Read {
    const target = unparenthesized(expr);
    const pointer = (make: (frame: Frame) => Pointer): Read => make as unknown as Read;
    if (target.kind === 'name' || target.kind === 'unary') {
      if (target.kind === 'unary') return this.read(target.of);
      const read = this.read(target);
      const write = this.write(target);
      return pointer((frame) => ({ get: () => read(frame), set: (value) => write(frame, value) }));
    }
    if (target.kind === 'member' || target.kind === 'index') {
      const isPointer = loaded(target.of.type!).kind === 'ptr';
      const base = isPointer ? this.read(target.of) : this.address(target.of);
      const at =
        target.kind === 'index'
          ? this.read(target.index)
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
    return this.read(target);
  }

  private readCall(expr: CallExpr): Read {
    const args = expr.args.map((arg) => this.read(arg));
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
      const f = this.function(call.function);
      const { name } = call.function;
      return (frame) => {
        const values = args.map((arg) => {
          const value = arg(frame);
          return Array.isArray(value) ? copyValue(value) : value;
        });
        const result = f(values, frame.lane);
        if (frame.lane.trace) this.note(frame.lane, expr.span, 'call', name, result, type);
        return result;
      };
    }
    return this.readBuiltin(call.name, args, types, expr);
  }

  private readBuiltin(name: string, args: Read[], types: Type[], expr: CallExpr): Read {
    const type = expr.type!;
    const f = builtinValue(name, types, type);
    if (f) {
      const [a, b, c] = args;
      const traced = (frame: Frame, result: Value): Value => {
        if (frame.lane.trace) this.note(frame.lane, expr.span, 'call', name, result, type);
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
}

function within(index: number, list: Value[]): number {
  return Math.max(0, Math.min(list.length - 1, index));
}

function burn(lane: Lane, span: Expr['span']): void {
  if (--lane.fuel > 0) return;
  const { file, line, column } = findingOf(new WgslFault('', '', span));
  throw new LensError('wgsl/too-long', `a loop went on for more than ${MOST_ROUNDS} rounds`, {
    where: { file, line, column },
  });
}

function textOf(expr: Expr): string {
  return expr.span.source.text.slice(expr.span.from, expr.span.to);
}

/** Asks for the differences to the neighbours; the answer is that of the round before. */
function differences(lane: Lane, value: Value): { dx: Value; dy: Value } {
  const answer = lane.answers[lane.asked.length];
  lane.asked.push(copyValue(value));
  const zero = Array.isArray(value) ? value.map(() => 0) : 0;
  return answer ?? { dx: zero, dy: zero };
}

function derivative(name: string, arg: Read): Read {
  const sum = (a: Value, b: Value): Value =>
    Array.isArray(a)
      ? a.map((x, i) => Math.fround(Math.abs(x as number) + Math.abs((b as number[])[i]!)))
      : Math.fround(Math.abs(a as number) + Math.abs(b as number));
  return (frame) => {
    const { dx, dy } = differences(frame.lane, arg(frame));
    return name.startsWith('dpdx') ? dx : name.startsWith('dpdy') ? dy : sum(dx, dy);
  };
}

function textureCall(name: string, args: Read[], types: Type[]): Read {
  const at = types.findIndex((t) => t.kind === 'texture');
  const type = types[at] as Type & { kind: 'texture' };
  const isArrayed = type.dimension.endsWith('array');
  const isDepth = type.form === 'depth';
  return (frame) => {
    const values = args.map((arg) => arg(frame));
    const texture = values[at] as unknown as CpuTexture;
    if (name === 'textureDimensions') {
      const size = textureSize(texture, (values[1] as number | undefined) ?? 0);
      return type.dimension === '1d' ? size[0]! : size.slice(0, type.dimension === '3d' ? 3 : 2);
    }
    if (name === 'textureNumLevels') return 1 + (texture.levels?.length ?? 0);
    if (name === 'textureNumLayers') return texture.layers ?? 1;
    if (name === 'textureLoad') {
      const [, coordinate, third, fourth] = values;
      const level = isArrayed ? fourth : third;
      const texel = loadTexel(
        texture,
        coordinate!,
        isArrayed ? (third as number) : 0,
        (level as number | undefined) ?? 0,
      );
      return isDepth ? texel[0]! : texel;
    }
    if (name === 'textureStore') {
      const texel = values[values.length - 1] as number[];
      if (!frame.lane.isDiscarded)
        storeTexel(texture, type.format!, values[1]!, isArrayed ? (values[2] as number) : 0, texel);
      return 0;
    }
    if (!/^texture(Sample|Gather)/.test(name))
      throw new LensError('wgsl/not-on-cpu', `${name} cannot be evaluated without a GPU`);
    const sampler = values[at + 1] as unknown as CpuSampler;
    const coordinate = values[at + 2] as Value;
    let next = at + 3;
    const layer = isArrayed ? (values[next++] as number) : 0;
    const lastType = types[types.length - 1]!; // a texture function has arguments
    const offset =
      lastType.kind === 'vec' && lastType.of === I32 ? (values[values.length - 1] as number[]) : undefined;
    let level = 0;
    let reference: number | undefined;
    if (name.includes('Compare')) reference = values[next++] as number;
    if (name === 'textureSampleLevel') level = values[next] as number;
    else if (name === 'textureSample' || name === 'textureSampleBias') {
      const { dx, dy } = differences(frame.lane, coordinate);
      level = levelOf(texture, dx, dy) + (name === 'textureSampleBias' ? (values[next] as number) : 0);
    } else if (name === 'textureSampleGrad') level = levelOf(texture, values[next]!, values[next + 1]!);
    if (name.startsWith('textureGather')) {
      const component = at === 1 ? (values[0] as number) : 0;
      return gatherTexels(texture, sampler, coordinate, layer, component, reference, offset);
    }
    const texel = sampleTexture(texture, sampler, coordinate, layer, level, reference, offset);
    return isDepth ? texel[0]! : texel;
  };
}

/** Level of detail by the longer of the two footprints (Vulkan 16.5.7, without anisotropy). */
function levelOf(texture: CpuTexture, dx: Value, dy: Value): number {
  const size = textureSize(texture, 0);
  const span = (d: Value): number =>
    Math.hypot(...(Array.isArray(d) ? d : [d]).map((x, i) => (x as number) * size[i]!));
  const longest = Math.max(span(dx), span(dy));
  return longest > 0 ? Math.log2(longest) : 0;
}

/** Views into an untyped buffer, which is a list of 32-bit words. */
function bufferCall(name: string, args: Read[], type: Type): Read {
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

function atomicCall(name: string, args: Read[], types: Type[]): Read {
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
