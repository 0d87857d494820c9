import type { HookName } from '../shading/hook-outline.js';
import type { Expr, FunctionDecl, Statement } from '../wgsl/parse/ast.js';
import { type GraphInput, type GraphValue, isCall } from './document.js';
import { OPERATORS, TAKEN } from './names.js';
import { shownType } from './types.js';

/** Thrown within where a function cannot be nodes: it stays code. */
export class StaysCode extends Error {}

export interface Facts {
  wgsl: string;
  textures: ReadonlySet<string>;
}

/** Structures whose members a hook gives, and what they are before anything is said of them. */
const BEGINS: Readonly<Record<string, string>> = { surface: '@defaults', displace: '@v' };

/** Reads the body of a function: without loops and branches it is a list of values. */
export class BodyReader {
  /** Names of values by what they are called in the text, as inputs name them. */
  private readonly values = new Map<string, GraphInput>();
  /** The structure that a hook gives, and its members so far. */
  private out: { name: string; members: Record<string, GraphInput> } | undefined;

  constructor(
    private readonly fn: FunctionDecl,
    args: ReadonlyMap<string, string>,
    private readonly nodes: Record<string, GraphValue>,
    private readonly facts: Facts,
    private readonly hook: HookName | undefined,
  ) {
    for (const [param, arg] of args) this.values.set(param, `@${arg}`);
  }

  output(): GraphInput | Record<string, GraphInput> {
    const body = this.fn.body.filter(({ kind }) => kind !== 'empty');
    for (const [i, statement] of body.entries()) {
      const found = this.statement(statement, i === body.length - 1);
      if (found !== undefined) return found;
    }
    throw new StaysCode();
  }

  private statement(
    statement: Statement,
    isLast: boolean,
  ): GraphInput | Record<string, GraphInput> | undefined {
    switch (statement.kind) {
      case 'let':
      case 'const':
      case 'var': {
        const { init, local, name, span } = statement;
        if (!init) throw new StaysCode();
        if (statement.kind === 'var' && this.beginsOut(name, init)) return undefined;
        if (statement.kind === 'const') {
          this.values.set(name, this.input(init));
          return undefined;
        }
        const type = local && shownType(local.type);
        const input = this.input(init);
        // What a hook is given goes by its own name.
        if (input === (this.hook && BEGINS[this.hook])) this.values.set(name, input);
        else this.value(name, input, span.from, type);
        return undefined;
      }
      case 'assign':
        this.assign(statement);
        return undefined;
      case 'return': {
        if (!isLast || !statement.value) throw new StaysCode();
        const { value } = statement;
        if (this.out && value.kind === 'name' && value.name === this.out.name) return this.out.members;
        return this.input(value);
      }
      default:
        throw new StaysCode();
    }
  }

  /** Whether a variable is what the hook gives: `var out = surfaceDefaults(p);` */
  private beginsOut(name: string, init: Expr): boolean {
    const begin = this.hook === undefined ? undefined : BEGINS[this.hook];
    if (begin === undefined || this.out) return false;
    const given =
      init.kind === 'call' && init.callee.name === 'surfaceDefaults'
        ? '@defaults'
        : init.kind === 'name'
          ? this.values.get(init.name)
          : undefined;
    if (given !== begin) return false;
    this.out = { name, members: {} };
    return true;
  }

  private assign({ op, target, value }: Extract<Statement, { kind: 'assign' }>): void {
    const { out } = this;
    const { hook } = this;
    if (out && target.kind === 'member' && target.of.kind === 'name' && target.of.name === out.name) {
      const begin = `${BEGINS[hook!]}.${target.member}`; // it has one: there is an out
      const now = out.members[target.member] ?? begin;
      const given = this.input(value);
      out.members[target.member] = op === '=' ? given : { call: op, in: [now, given] };
      return;
    }
    if (target.kind === 'member') return this.assignPart(target, op, value);
    if (target.kind !== 'name' || !this.values.has(target.name) || target.name === out?.name)
      throw new StaysCode();
    const given = this.input(value);
    const now = this.values.get(target.name)!; // looked at above
    // Another value of the same name: what was named before stays what it was.
    this.value(
      target.name,
      op === '=' ? given : { call: op, in: [now, given] },
      undefined,
      target.type && shownType(target.type),
    );
  }

  /** One component of a vector that becomes another: the vector is put together anew. */
  private assignPart(target: Extract<Expr, { kind: 'member' }>, op: string, value: Expr): void {
    const { member, of } = target;
    const type = of.type?.kind === 'ref' ? of.type.of : of.type;
    const letters = 'xyzw';
    const part = letters.indexOf(member) < 0 ? 'rgba'.indexOf(member) : letters.indexOf(member);
    if (type?.kind !== 'vec' || member.length !== 1 || part < 0) throw new StaysCode();
    const isOut = of.kind === 'member' && of.of.kind === 'name' && of.of.name === this.out?.name;
    if (!isOut && (of.kind !== 'name' || !this.values.has(of.name))) throw new StaysCode();
    const given = this.input(value);
    const now = this.input(of);
    if (typeof now !== 'string' || !now.startsWith('@')) throw new StaysCode();
    const parts = Array.from({ length: type.size }, (_, i): GraphInput => `${now}.${letters[i]!}`); // four at most
    parts[part] = op === '=' ? given : { call: op, in: [parts[part]!, given] }; // one of them
    const whole: GraphInput = { call: shownType(type), in: parts };
    if (of.kind === 'member')
      this.out!.members[of.member] = whole; // it is of the out
    else if (of.kind === 'name') this.value(of.name, whole);
  }

  /** Makes a node of a value. @param from where it stands, for the comment above it */
  private value(name: string, input: GraphInput, from?: number, type?: string): void {
    const free = this.freeName(name);
    const note = from === undefined ? undefined : commentAbove(this.facts.wgsl, from);
    const whole = type === 'i32' || type === 'u32';
    const node: GraphValue = isCall(input)
      ? { call: input.call, ...(input.in ? { in: input.in } : {}) }
      : whole && typeof input === 'number'
        ? { call: type, in: [input] }
        : { value: input };
    this.nodes[free] = { ...node, ...(note ? { note } : {}) };
    this.values.set(name, `@${free}`);
  }

  private freeName(name: string): string {
    const taken = (one: string): boolean =>
      one in this.nodes ||
      TAKEN.has(one) ||
      (this.hook === undefined && [...this.values.values()].includes(`@${one}`));
    if (!taken(name)) return name;
    for (let i = 2; ; i++) if (!taken(`${name}${i}`)) return `${name}${i}`;
  }

  private input(expr: Expr): GraphInput {
    const { type, value } = expr;
    // What is known when the shader is made is a value.
    if (value !== undefined && type && expr.kind !== 'literal') {
      const known = constantOf(value, type);
      if (known !== undefined && (expr.kind !== 'call' || typeof known === 'number' || Array.isArray(known)))
        return known;
    }
    switch (expr.kind) {
      case 'literal':
        return this.literal(expr);
      case 'paren':
        return this.input(expr.of);
      case 'name':
        return this.name(expr);
      case 'unary': {
        if (expr.op === '&' || expr.op === '*') throw new StaysCode();
        const of = this.input(expr.of);
        return typeof of === 'number' && expr.op === '-' ? 0 - of : { call: expr.op, in: [of] };
      }
      case 'binary':
        return this.binary(expr);
      case 'index':
        return { call: '[]', in: [this.input(expr.of), this.input(expr.index)] };
      case 'member':
        return this.member(expr);
      case 'call':
        return this.call(expr);
    }
  }

  private literal({ literal, text }: Extract<Expr, { kind: 'literal' }>): GraphInput {
    if (literal === 'bool') return text === 'true';
    const suffix = /^0x/i.test(text) ? /[iu]$/.exec(text)?.[0] : /[fhiu]$/.exec(text)?.[0];
    const number = Number(suffix ? text.slice(0, -1) : text);
    // Hexadecimal numbers with a point are seldom, and no script reads them.
    if (!Number.isFinite(number) || suffix === 'h') throw new StaysCode();
    return suffix === 'u' || suffix === 'i' ? { call: suffix === 'u' ? 'u32' : 'i32', in: [number] } : number;
  }

  private name({ name, target }: Extract<Expr, { kind: 'name' }>): GraphInput {
    const known = this.values.get(name);
    if (known !== undefined) return known;
    if (this.facts.textures.has(name)) return name;
    if (name === 'frame' && target?.kind === 'global') return '@frame';
    throw new StaysCode();
  }

  private binary({ left, op, right }: Extract<Expr, { kind: 'binary' }>): GraphInput {
    const [a, b] = [this.input(left), this.input(right)];
    const isChain =
      (op === '+' || op === '*' || op === '&&' || op === '||') && left.kind === 'binary' && left.op === op;
    return isChain && isCall(a) && a.call === op
      ? { call: op, in: [...(a.in ?? []), b] }
      : { call: op, in: [a, b] };
  }

  private member({ member, of }: Extract<Expr, { kind: 'member' }>): GraphInput {
    if (this.out && of.kind === 'name' && of.name === this.out.name) {
      const now = this.out.members[member];
      if (now === undefined) return `${BEGINS[this.hook!]}.${member}`; // there is an out
      if (typeof now === 'string' || typeof now === 'number') return now;
      const name = this.freeName(member);
      this.nodes[name] = isCall(now) ? { call: now.call, ...(now.in ? { in: now.in } : {}) } : { value: now };
      return (this.out.members[member] = `@${name}`);
    }
    let held = this.input(of);
    if (typeof held !== 'string' || !held.startsWith('@')) {
      if (!isCall(held)) throw new StaysCode();
      const name = this.freeName(OPERATORS.has(held.call) ? 'sum' : held.call);
      this.nodes[name] = { call: held.call, ...(held.in ? { in: held.in } : {}) };
      held = `@${name}`;
    }
    return `${held}.${member}`;
  }

  private call(expr: Extract<Expr, { kind: 'call' }>): GraphInput {
    const { args, call, callee, type } = expr;
    let name = callee.name;
    if (call?.kind === 'construct') {
      if (!type || !['scalar', 'vec', 'mat', 'struct'].includes(type.kind)) throw new StaysCode();
      name = shownType(type);
    } else if (callee.templates) throw new StaysCode();
    if (name === 'surfaceDefaults' && this.hook === 'surface') {
      const [given] = args;
      if (given && given.kind === 'name' && this.values.get(given.name) === '@p') return '@defaults';
    }
    const inputs: GraphInput[] = [];
    for (const arg of args) {
      // A texture brings its sampler along.
      if (
        arg.kind === 'name' &&
        typeof inputs.at(-1) === 'string' &&
        arg.name === `${String(inputs.at(-1))}Sampler`
      )
        continue;
      inputs.push(this.input(arg));
    }
    return { call: name, in: inputs };
  }
}

/** A number, or numbers, out of a constant; undefined of what graphs do not write as a value. */
function constantOf(value: unknown, type: { kind: string; key: string }): GraphInput | undefined {
  if (!/abstract-float|f32|abstract-int/.test(type.key)) return undefined;
  // What was rounded to 32 bits is written as short as it can be.
  const short = type.key.includes('f32') ? shortest : (number: number): number => number;
  if (type.kind === 'scalar') {
    const number = Number(value);
    return typeof value !== 'boolean' && Number.isFinite(number) ? short(number) : undefined;
  }
  if (type.kind !== 'vec' || !Array.isArray(value)) return undefined;
  const numbers = value.map(Number);
  return numbers.every(Number.isFinite) ? numbers.map(short) : undefined;
}

/** The number of fewest digits that is the same in 32 bits. */
function shortest(number: number): number {
  for (let digits = 1; digits < 10; digits++) {
    const near = Number(number.toPrecision(digits));
    if (Math.fround(near) === Math.fround(number)) return near;
  }
  return number;
}

export const plainComment = (text: string): string =>
  text
    .split('\n')
    .map((line) => line.replace(/^\s*\/\/+ ?/, '').trimEnd())
    .join('\n')
    .trim();

/** The comment on the lines right above a place; undefined where there is none. */
export function commentAbove(text: string, at: number): string | undefined {
  const lines = text.slice(0, at).split('\n');
  lines.pop();
  const found: string[] = [];
  for (let line = lines.pop(); line !== undefined && /^\s*\/\//.test(line); line = lines.pop())
    found.unshift(line);
  return found.length > 0 ? plainComment(found.join('\n')) : undefined;
}
