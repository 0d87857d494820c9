import { loaded, unparenthesized } from '../check/check-context.js';
import type { Shader } from '../compile.js';
import type { CallExpr, Expr, FunctionDecl, Local, Statement } from '../parse/ast.js';
import type { Type } from '../types/types.js';
import type { Value } from '../types/values.js';
import { statementsIn } from './statements.js';
import {
  add,
  ANYTHING,
  divide,
  exactly,
  extent,
  type Extent,
  FROM_0_TO_1,
  isPlain,
  join,
  loose,
  multiply,
  negate,
  placeAt,
  rising,
  subtract,
  UNIT,
} from './extent.js';

/** A number, or the parts of a vector, a structure or an array; columns of a matrix. */
type Held = Extent | Held[];

/** How far a function moves a vertex: metres, and a share of its distance from the origin. */
export interface Displacement {
  fixed: number;
  share: number;
}

/** Calls within calls, and statements, after which nothing more is known. */
const MOST_DEPTH = 24;
const MOST_STEPS = 20000;

/**
 * How far a function that takes a vertex (a structure with `position`) and gives one moves it at most.
 *
 * @param ranges of the members of structures that it takes besides, by structure and member: from, to
 * @returns undefined where that is not known
 */
export function displacementOf(
  shader: Shader,
  name: string,
  ranges: Readonly<Record<string, Readonly<Record<string, readonly [number, number]>>>>,
): Displacement | undefined {
  const decl = shader.checked.module.declarations.find(
    (d): d is FunctionDecl => d.kind === 'fn' && d.name === name,
  );
  const vertex = decl?.returnType;
  if (!decl || vertex?.kind !== 'struct') return undefined;
  const walk = new Walk();
  const args = decl.params.map(({ local }) => inputOf(local!.type, ranges)); // checked
  let result: Held | undefined;
  try {
    result = walk.call(decl, args);
  } catch (error) {
    if (error === walk.tooMuch) return undefined;
    throw error;
  }
  const at = vertex.members.findIndex((member) => member.name === 'position');
  const place = Array.isArray(result) ? result[at] : undefined;
  if (!Array.isArray(place)) return undefined;
  let [fixed, share] = [0, 0];
  place.forEach((part, k) => {
    const one = part as Extent;
    const away = one.anchor === k ? one : subtract(one, placeAt(k));
    const most = Math.max(Math.abs(away.low), Math.abs(away.high));
    fixed += most * most;
    // What another component is a part of counts with its own length.
    share += (away.share + (away.anchor >= 0 && away.anchor !== k ? 1 : 0)) ** 2;
  });
  const found = { fixed: Math.sqrt(fixed), share: Math.sqrt(share) };
  return Number.isFinite(found.fixed + found.share) ? found : undefined;
}

/**
 * Calls of `pow` in a function whose base may be below 0, as far as its range is known: of directions, sines, differences of
 * what is from 0 to 1.
 */
export function mayBeNegative(decl: FunctionDecl): ReadonlySet<CallExpr> {
  const found = new Set<CallExpr>();
  const walk = new Walk((call, name, args) => {
    if (name !== 'pow') return;
    const base = parts(args[0]);
    // Of what nothing is known nothing is said.
    if (base.some(({ anchor, low }) => anchor < 0 && low < -1e-6 && low > -Infinity)) found.add(call);
  });
  try {
    walk.call(
      decl,
      decl.params.map(({ local }) => inputOf(local!.type, {})),
    ); // checked
  } catch (error) {
    if (error !== walk.tooMuch) throw error;
  }
  return found;
}

/** What is known of an argument before anything is called. */
function inputOf(
  type: Type,
  ranges: Readonly<Record<string, Readonly<Record<string, readonly [number, number]>>>>,
): Held {
  if (type.kind !== 'struct') return anyOf(type);
  return type.members.map(({ name, type: of }): Held => {
    if (type.name === 'Fragment' && /^(n|cameraN|objectN)ormal$|^toCamera$/.test(name))
      return filled(of, UNIT);
    if (type.name === 'Light' && name === 'direction') return filled(of, UNIT);
    if (type.name === 'Vertex') {
      if (name === 'position') return [0, 1, 2].map(placeAt);
      if (name === 'normal' || name === 'tangent') return filled(of, UNIT);
      if (name === 'color') return filled(of, FROM_0_TO_1);
      return anyOf(of);
    }
    const range = ranges[type.name]?.[name];
    return range ? filled(of, extent(range[0], range[1])) : anyOf(of);
  });
}

/** Of each type once: tables of materials are large, and what is held is never written into. */
const anything = new WeakMap<Type, Held>();

function anyOf(type: Type): Held {
  let found = anything.get(type);
  if (found === undefined) anything.set(type, (found = filled(type, ANYTHING)));
  return found;
}

function filled(type: Type, value: Extent): Held {
  if (type.kind === 'vec') return Array.from({ length: type.size }, () => value);
  if (type.kind === 'mat') return Array.from({ length: type.columns }, () => filled(type.column, value));
  if (type.kind === 'struct') return type.members.map((member) => filled(member.type, value));
  if (type.kind === 'array' && typeof type.count === 'number' && type.count <= 64)
    return Array.from({ length: type.count }, () => filled(type.of, value));
  return value;
}

const heldOf = (value: Value): Held =>
  Array.isArray(value) ? value.map((part) => heldOf(part)) : exactly(Number(value));

const copied = (held: Held): Held => (Array.isArray(held) ? held.map(copied) : held);

function joined(a: Held, b: Held): Held {
  if (Array.isArray(a) && Array.isArray(b)) return a.map((part, i) => joined(part, b[i]!)); // of one type
  return Array.isArray(a) || Array.isArray(b) ? ANYTHING : join(a, b);
}

/** What the locals of a function hold. */
type Locals = Map<Local, Held>;

/** Goes through functions as they would run, with all that each number may be at once. */
class Walk {
  /** Thrown where it would take too long. */
  readonly tooMuch = new Error('too much');
  private steps = 0;
  private depth = 0;

  constructor(private readonly onBuiltin?: (call: CallExpr, name: string, args: readonly Held[]) => void) {}

  call(decl: FunctionDecl, args: readonly Held[]): Held {
    if (++this.depth > MOST_DEPTH) throw this.tooMuch;
    const locals: Locals = new Map();
    decl.params.forEach(({ local }, i) => locals.set(local!, copied(args[i]!))); // checked: as many
    const returned: Held[] = [];
    this.block(decl.body, locals, returned);
    this.depth--;
    const [first, ...rest] = returned;
    return first === undefined ? anyOf(decl.returnType!) : rest.reduce(joined, first);
  }

  /** @returns whether what comes behind may run */
  private block(body: readonly Statement[], locals: Locals, returned: Held[]): boolean {
    for (const statement of body) if (!this.run(statement, locals, returned)) return false;
    return true;
  }

  private run(statement: Statement, locals: Locals, returned: Held[]): boolean {
    if (++this.steps > MOST_STEPS) throw this.tooMuch;
    switch (statement.kind) {
      case 'block':
        return this.block(statement.body, locals, returned);
      case 'let':
      case 'const':
      case 'var': {
        const local = statement.local!; // set by the checker
        const init = statement.init;
        locals.set(local, init ? copied(this.read(init, locals)) : filled(local.type, exactly(0)));
        return true;
      }
      case 'assign': {
        const value = this.read(statement.value, locals);
        const { op, target } = statement;
        const next = op === '=' ? value : this.binary(op, this.read(target, locals), value);
        this.write(target, copied(next), locals);
        return true;
      }
      case 'step':
        this.write(statement.target, ANYTHING, locals);
        return true;
      case 'if':
        return this.either(statement, locals, returned);
      case 'return':
        returned.push(statement.value ? this.read(statement.value, locals) : ANYTHING);
        return false;
      case 'switch':
      case 'loop':
      case 'for':
      case 'while':
        this.forget(statement, locals, returned);
        return true;
      case 'call':
        // It may write through pointers.
        for (const arg of statement.call.args) if (loaded(arg.type!).kind === 'ptr') throw this.tooMuch;
        return true;
      default:
        return true;
    }
  }

  private either(
    { condition, then, otherwise }: Statement & { kind: 'if' },
    locals: Locals,
    returned: Held[],
  ): boolean {
    const known = condition.value;
    if (typeof known === 'boolean') {
      const taken = known ? then : otherwise;
      return taken ? this.run(taken, locals, returned) : true;
    }
    const other: Locals = new Map([...locals].map(([local, held]) => [local, copied(held)]));
    const goesOn = this.run(then, locals, returned);
    const otherGoesOn = otherwise ? this.run(otherwise, other, returned) : true;
    if (!goesOn || !otherGoesOn) {
      if (!goesOn) for (const [local, held] of other) locals.set(local, held);
      return goesOn || otherGoesOn;
    }
    for (const [local, held] of other) {
      const mine = locals.get(local);
      if (mine !== undefined) locals.set(local, joined(mine, held));
    }
    return true;
  }

  /** Of what loops and switches write nothing is known afterwards, and of what they give back. */
  private forget(statement: Statement, locals: Locals, returned: Held[]): void {
    const inner = (one: Statement): void => {
      if (one.kind === 'return') returned.push(one.value ? anyOf(loaded(one.value.type!)) : ANYTHING);
      if (one.kind === 'assign' || one.kind === 'step') {
        const local = localOf(one.target);
        if (local) locals.set(local, anyOf(local.type));
      }
      if (one.kind === 'call') throw this.tooMuch;
      for (const part of statementsIn(one)) inner(part);
    };
    inner(statement);
  }

  private write(target: Expr, value: Held, locals: Locals): void {
    const place = unparenthesized(target);
    if (place.kind === 'name') {
      // What stands outside of functions is never known.
      const local = localOf(place);
      if (local) locals.set(local, value);
      return;
    }
    if (place.kind === 'member') {
      const whole = this.read(place.of, locals);
      if (!Array.isArray(whole)) throw this.tooMuch;
      const next = [...whole];
      const via = place.via!; // checked
      if (via.kind === 'member') next[via.index] = value;
      else via.components.forEach((k, i) => (next[k] = Array.isArray(value) ? value[i]! : value)); // as many
      this.write(place.of, next, locals);
      return;
    }
    if (place.kind === 'index') {
      const whole = this.read(place.of, locals);
      if (!Array.isArray(whole)) throw this.tooMuch;
      const at = place.index.value;
      const next =
        typeof at === 'number'
          ? whole.map((part, i) => (i === at ? value : part))
          : whole.map((part) => joined(part, value));
      this.write(place.of, next, locals);
      return;
    }
    throw this.tooMuch;
  }

  private read(expr: Expr, locals: Locals): Held {
    if (expr.value !== undefined) return heldOf(expr.value);
    const type = loaded(expr.type!); // checked
    // Of what stands outside of functions no part is known either: tables there have thousands.
    if (isOutside(expr)) return anyOf(type);
    switch (expr.kind) {
      case 'paren':
        return this.read(expr.of, locals);
      case 'name': {
        const local = localOf(expr);
        return (local && locals.get(local)) ?? anyOf(type);
      }
      case 'unary':
        return expr.op === '-' ? eachPart(this.read(expr.of, locals), negate) : anyOf(type);
      case 'binary':
        return this.binary(expr.op, this.read(expr.left, locals), this.read(expr.right, locals), type);
      case 'member': {
        const whole = this.read(expr.of, locals);
        const via = expr.via;
        if (!Array.isArray(whole) || !via) return anyOf(type);
        if (via.kind === 'member') return whole[via.index]!; // checked
        const parts = via.components.map((k) => whole[k]!); // checked
        return parts.length === 1 ? parts[0]! : parts;
      }
      case 'index': {
        const whole = this.read(expr.of, locals);
        const at = expr.index.value;
        if (!Array.isArray(whole)) return anyOf(type);
        return typeof at === 'number' ? (whole[at] ?? anyOf(type)) : whole.reduce(joined);
      }
      case 'call':
        return this.readCall(expr, locals, type);
      default:
        return anyOf(type);
    }
  }

  private binary(op: string, a: Held, b: Held, type?: Type): Held {
    const f = { '+': add, '-': subtract, '*': multiply, '/': divide }[op];
    const isMatrix = isNested(a) || isNested(b);
    if (!f || (isMatrix && op !== '+' && op !== '-')) return type ? anyOf(type) : eachPart(a, () => ANYTHING);
    const found = together(a, b, f);
    return type && isInteger(type) ? eachPart(found, withoutWrap) : found;
  }

  private readCall(expr: CallExpr, locals: Locals, type: Type): Held {
    const args = expr.args.map((arg) => this.read(arg, locals));
    const call = expr.call!; // checked
    if (call.kind === 'function') {
      const bounded = BOUNDED[call.function.name];
      if (bounded && call.function.span.source.file.startsWith('umber/')) return bounded;
      if (expr.args.some((arg) => loaded(arg.type!).kind === 'ptr')) throw this.tooMuch;
      return this.call(call.function, args);
    }
    if (call.kind === 'construct') return constructed(type, args);
    this.onBuiltin?.(expr, call.name, args);
    const [a, b, c] = args;
    const whole = WHOLE[call.name];
    if (whole) return whole(args);
    const each = EACH[call.name];
    if (!each || a === undefined) return anyOf(type);
    if (b === undefined) return eachPart(a, (x) => each(x, x, x));
    if (c === undefined) return together(a, b, (x, y) => each(x, y, y));
    return eachOfThree(a, b, c, each);
  }
}

/** What the library's own functions give, whatever they are given. */
const BOUNDED: Readonly<Record<string, Extent>> = {
  // Gradient noise of three dimensions keeps within the square root of 3 over 2 times its gradients' length.
  noise: extent(-1.25, 1.25),
  noise2: extent(-1.25, 1.25),
  hashFloat: FROM_0_TO_1,
};

type Each = (a: Extent, b: Extent, c: Extent) => Extent;

const least: Each = (a, b) =>
  isPlain(a) && isPlain(b)
    ? extent(Math.min(a.low, b.low), Math.min(a.high, b.high))
    : join(loose(a), loose(b));
const greatest: Each = (a, b) =>
  isPlain(a) && isPlain(b)
    ? extent(Math.max(a.low, b.low), Math.max(a.high, b.high))
    : join(loose(a), loose(b));
const absolute: Each = (a) => {
  const x = loose(a);
  const low = x.low > 0 && x.share === 0 ? x.low : x.high < 0 && x.share === 0 ? -x.high : 0;
  return extent(low, Math.max(Math.abs(x.low), Math.abs(x.high)), x.share);
};
const clampTo = (a: Extent, low: number, high: number): Extent =>
  isPlain(a)
    ? extent(Math.min(high, Math.max(low, a.low)), Math.min(high, Math.max(low, a.high)))
    : extent(low, high);

/** Built-in functions that work part by part. */
const EACH: Readonly<Record<string, Each>> = {
  sin: () => UNIT,
  cos: () => UNIT,
  tanh: () => UNIT,
  sign: () => UNIT,
  atan: () => extent(-Math.PI / 2, Math.PI / 2),
  atan2: () => extent(-Math.PI, Math.PI),
  saturate: (a) => clampTo(a, 0, 1),
  fract: () => FROM_0_TO_1,
  step: () => FROM_0_TO_1,
  smoothstep: () => FROM_0_TO_1,
  abs: absolute,
  min: least,
  max: greatest,
  clamp: (a, low, high) => least(greatest(a, low, low), high, high),
  mix: (a, b, t) => add(a, multiply(subtract(b, a), t)),
  select: (a, b) => join(a, b),
  sqrt: rising((x) => Math.sqrt(Math.max(0, x))),
  exp: rising(Math.exp),
  exp2: rising((x) => 2 ** x),
  floor: rising(Math.floor),
  ceil: rising(Math.ceil),
  round: rising(Math.round),
  trunc: rising(Math.trunc),
  radians: (a) => multiply(a, exactly(Math.PI / 180)),
  degrees: (a) => multiply(a, exactly(180 / Math.PI)),
  pow: (a, b) => {
    if (!isPlain(a) || !isPlain(b) || a.low < 0 || b.low < 0) return ANYTHING;
    const ends = [a.low ** b.low, a.low ** b.high, a.high ** b.low, a.high ** b.high];
    return extent(Math.min(...ends), Math.max(...ends));
  },
};

const parts = (held: Held | undefined): Extent[] => (held === undefined ? [] : ([held].flat(3) as Extent[]));
const lengthOf = (held: Held | undefined): Extent => {
  let [square, share] = [0, 0];
  for (const part of parts(held).map(loose)) {
    square += Math.max(part.low * part.low, part.high * part.high);
    share += part.share * part.share;
  }
  return extent(0, Math.sqrt(square), Math.sqrt(share));
};

/** Built-in functions of whole vectors. */
const WHOLE: Readonly<Record<string, (args: Held[]) => Held>> = {
  length: ([a]) => lengthOf(a),
  distance: ([a, b]) => lengthOf(together(a!, b!, subtract)),
  normalize: ([a]) => eachPart(a!, () => UNIT),
  dot: ([a, b]) => parts(together(a!, b!, multiply)).reduce(add),
  cross: ([a, b]) => {
    const [p, q] = [parts(a), parts(b)];
    const part = (i: number, k: number): Extent => subtract(multiply(p[i]!, q[k]!), multiply(p[k]!, q[i]!)); // three each
    return [part(1, 2), part(2, 0), part(0, 1)];
  },
};

function constructed(type: Type, args: readonly Held[]): Held {
  if (args.length === 0) return filled(type, exactly(0));
  if (type.kind === 'vec') {
    const flat = args.flatMap((arg) => parts(arg));
    return flat.length === 1 ? Array.from({ length: type.size }, () => flat[0]!) : flat.slice(0, type.size);
  }
  if (type.kind === 'struct' || type.kind === 'array') return args.map(copied);
  if (type.kind === 'scalar') return args[0]!;
  return anyOf(type);
}

function together(a: Held, b: Held, f: (a: Extent, b: Extent) => Extent): Held {
  if (Array.isArray(a)) return a.map((part, i) => together(part, Array.isArray(b) ? b[i]! : b, f)); // of one size
  return Array.isArray(b) ? b.map((part) => together(a, part, f)) : f(a, b);
}

function eachOfThree(a: Held, b: Held, c: Held, f: Each): Held {
  const longest = [a, b, c].find((one) => Array.isArray(one));
  if (!longest) return f(a as Extent, b as Extent, c as Extent); // none is a list
  const part = (of: Held, i: number): Held => (Array.isArray(of) ? of[i]! : of); // of one size
  return longest.map((_, i) => eachOfThree(part(a, i), part(b, i), part(c, i), f));
}

function eachPart(held: Held, f: (a: Extent) => Extent): Held {
  return Array.isArray(held) ? held.map((part) => eachPart(part, f)) : f(held);
}

/** Whole numbers go on from their least where they pass their greatest. */
const withoutWrap = (a: Extent): Extent => (isPlain(a) && a.low >= 0 && a.high < 0x7fffffff ? a : ANYTHING);

function isInteger(type: Type): boolean {
  const scalar = type.kind === 'vec' ? type.of : type;
  return scalar.kind === 'scalar' && (scalar.scalar === 'u32' || scalar.scalar === 'i32');
}

const isNested = (held: Held): boolean => Array.isArray(held) && held.some((part) => Array.isArray(part));

/** What an expression is a part of. */
function rootOf(expr: Expr): Expr {
  let at = unparenthesized(expr);
  while (at.kind === 'member' || at.kind === 'index') at = unparenthesized(at.of);
  return at;
}

function localOf(expr: Expr): Local | undefined {
  const at = rootOf(expr);
  return at.kind === 'name' && at.target && 'index' in at.target ? at.target : undefined;
}

/** Whether it is a variable that stands outside of functions, or a part of one. */
function isOutside(expr: Expr): boolean {
  const at = rootOf(expr);
  return at.kind === 'name' && at.target !== undefined && !('index' in at.target) && at.value === undefined;
}
