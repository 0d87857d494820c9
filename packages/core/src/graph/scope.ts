import { nearest, nearHint } from '../errors/near-names.js';
import { BUILTINS } from '../wgsl/types/builtins.js';
import { vec } from '../wgsl/types/types.js';
import type { GraphInput, GraphValue } from './document.js';
import { isCall } from './document.js';
import {
  asFloat,
  colorNumbers,
  type Expression,
  memberText,
  NAME,
  nothing,
  numberOf,
  operationText,
  truthOf,
  vectorOf,
} from './expression.js';
import type { GraphFault } from './faults.js';
import { doubtsOf, type Meaning, MEMBER_MEANINGS, meaningOf } from './meaning.js';
import { isType, OPERATORS } from './names.js';
import { type CallInput, CALL_TABLE } from './node-table.js';
import { offersFor } from './offers.js';
import {
  BOOL,
  concrete,
  F32,
  type Known,
  partOf,
  partsOf,
  resultOf,
  SAMPLER,
  shownType,
  takes,
  type Type,
} from './types.js';
import { nodeNamed, type Path } from './walk.js';

/** A name that inputs know beside nodes: `@p`, `@settings`. */
export interface Argument {
  text: string;
  type: Type | undefined;
  /** What its members stand for, by name. */
  members?: Readonly<Record<string, Meaning>>;
}

/** A node that was worked out. */
export interface Worked {
  ident: string;
  expression: Expression;
  /** Nodes that it names itself, and arguments. */
  uses: Set<string>;
  args: Set<string>;
}

export interface ScopeOptions {
  known: Known;
  /** Names of arguments by what inputs call them. */
  args: ReadonlyMap<string, Argument>;
  textures: ReadonlyMap<string, Type>;
  /** Of a function of the graph: its name. */
  of?: string;
  idents: ReadonlyMap<string, string>;
  faults: GraphFault[];
}

/** Nodes that see each other: those of the graph, or of one of its functions. Inputs become expressions in WGSL. */
export class Scope {
  readonly worked = new Map<string, Worked>();
  private current: { node?: string; uses: Set<string>; args: Set<string> } = {
    uses: new Set(),
    args: new Set(),
  };

  constructor(
    readonly nodes: Readonly<Record<string, GraphValue>>,
    private readonly options: ScopeOptions,
  ) {}

  private say(
    severity: GraphFault['severity'],
    code: string,
    path: Path,
    summary: string,
    hint: string,
  ): Expression {
    const { faults, of } = this.options;
    const { node } = this.current;
    faults.push({
      severity,
      code,
      path,
      summary,
      hint,
      ...(node === undefined ? {} : { node }),
      ...(of === undefined ? {} : { function: of }),
    });
    return nothing();
  }

  /** Works a node out. Those that it names were before it. */
  work(name: string, path: Path): void {
    const node = this.nodes[name]!; // one of them
    const ident = this.options.idents.get(name) ?? name;
    this.current = { node: name, uses: new Set(), args: new Set() };
    let expression: Expression;
    if (node.value !== undefined) {
      expression = asFloat(this.input(node.value, [...path, 'value'], undefined));
    } else if (node.muted) expression = this.input(node.in?.[0] ?? 0, [...path, 'in', 0], undefined);
    else expression = this.call(node.call ?? '', node.in ?? [], path);
    const { args, uses } = this.current;
    const type = expression.type && concrete(expression.type);
    if (type && type.kind !== 'struct' && (type.kind === 'texture' || type.kind === 'sampler'))
      expression = this.say(
        'error',
        'graph/type',
        path,
        `"${name}" would be a texture`,
        'Name the texture where it is read.',
      );
    this.worked.set(name, { ident, expression: { ...expression, type }, uses, args });
  }

  /** An output of a hook or a function: an input that no node has. */
  output(input: GraphInput, path: Path): { expression: Expression; uses: Set<string>; args: Set<string> } {
    this.current = { uses: new Set(), args: new Set() };
    const expression = this.input(input, path, undefined);
    const { args, uses } = this.current;
    return { expression, uses, args };
  }

  /** What stands at an input. @param row what the table says of it */
  private input(given: GraphInput | undefined, path: Path, row: CallInput | undefined): Expression {
    if (given === null || given === undefined) {
      const usual = this.usualOf(row);
      if (usual !== undefined) return this.input(usual, path, undefined);
      return this.say(
        'error',
        'graph/input',
        path,
        `input ${inWhich(path)}${row ? ` (${row.name})` : ''} has no value`,
        'Give a value, or "@name" of a node.',
      );
    }
    if (typeof given === 'number')
      return Number.isFinite(given)
        ? numberOf(given)
        : this.say('error', 'graph/input', path, `an input is ${given}`, 'Give a finite number.');
    if (typeof given === 'boolean') return truthOf(given);
    if (Array.isArray(given)) {
      const numbers = given as readonly unknown[];
      if (numbers.length >= 2 && numbers.length <= 4 && numbers.every((one) => Number.isFinite(one)))
        return vectorOf(numbers as number[]);
      return this.say('error', 'graph/input', path, 'a list is two to four numbers', 'Write [0, 1, 0].');
    }
    if (typeof given === 'string') return this.named(given, path);
    if (isCall(given)) return this.call(given.call, given.in ?? [], path);
    return this.say(
      'error',
      'graph/input',
      path,
      'an input is an object without "call"',
      'Write { "call": "dot", "in": [...] }.',
    );
  }

  /** What counts where nothing is given; undefined where that asks for something that is not there. */
  private usualOf(row: CallInput | undefined): GraphInput | undefined {
    const usual = row?.default;
    if (typeof usual !== 'string') return usual;
    const name = /^@(\w+)/.exec(usual)?.[1] ?? '';
    const argument = this.options.args.get(name);
    if (!argument) return undefined;
    // An effect has places in the picture.
    if (argument.type?.kind === 'struct' && argument.type.name === 'Pixel' && usual === '@p.texcoord0')
      return '@p.place';
    return usual;
  }

  /** A reference, a color, or a texture. */
  private named(text: string, path: Path): Expression {
    const { textures } = this.options;
    if (text.startsWith('#')) {
      const color = colorNumbers(text);
      if (color) return vectorOf(color);
      return this.say('error', 'graph/input', path, `"${text}" is no color`, 'Write #rrggbb, or #rrggbbaa.');
    }
    if (text.startsWith('@')) return this.reference(text, path);
    const type = textures.get(text);
    if (type) return { text, level: NAME, type, meaning: {}, sampler: `${text}Sampler` };
    const near = nearest(text, [...textures.keys(), ...Object.keys(this.nodes)]);
    const isNode = near !== undefined && near in this.nodes;
    return this.say(
      'error',
      'graph/name',
      path,
      `there is no texture "${text}"`,
      near === undefined
        ? 'Nodes are named with an @: "@name".'
        : `Did you mean "${isNode ? '@' : ''}${near}"?`,
    );
  }

  private reference(text: string, path: Path): Expression {
    const { args, idents } = this.options;
    const [first = ''] = text.slice(1).split('.');
    const name = nodeNamed(text, this.nodes) ?? first;
    const rest = text
      .slice(name.length + 2)
      .split('.')
      .filter(Boolean);
    const argument = args.get(name);
    let expression: Expression;
    if (argument) {
      this.current.args.add(name);
      expression = { text: argument.text, level: NAME, type: argument.type, meaning: {} };
    } else if (Object.hasOwn(this.nodes, name)) {
      this.current.uses.add(name);
      const found = this.worked.get(name);
      const { meaning = {}, type } = found?.expression ?? {};
      expression = { text: idents.get(name) ?? name, level: NAME, type, meaning };
    } else
      return this.say(
        'error',
        'graph/name',
        path,
        `there is no node "${name}"`,
        nearHint(name, [...Object.keys(this.nodes), ...args.keys()]),
      );
    for (const [i, part] of rest.entries()) {
      const { type } = expression;
      const of = type && partOf(type, part);
      if (type && !of)
        return this.say(
          'error',
          'graph/part',
          path,
          `"@${[name, ...rest.slice(0, i)].join('.')}" is a ${shownType(type)} and has no "${part}"`,
          nearHint(part, partsOf(type)),
        );
      const meanings =
        type?.kind === 'struct'
          ? (argument && i === 0 && argument.members) || MEMBER_MEANINGS[type.name]
          : undefined;
      const meaning = meanings
        ? (meanings[part] ?? {})
        : part === 'xyz'
          ? expression.meaning
          : rangeOf(expression.meaning);
      expression = { text: memberText(expression, part), level: NAME, type: of, meaning };
    }
    return { ...expression, reference: text };
  }

  /** A call with its inputs. */
  private call(call: string, given: readonly GraphInput[], path: Path): Expression {
    const row = CALL_TABLE.get(call);
    const own = this.options.known.functions.get(call);
    if (!this.isKnown(call)) {
      for (const [i, one] of given.entries()) this.input(one, [...path, 'in', i], undefined);
      const names = [...CALL_TABLE.keys(), ...this.options.known.functions.keys()];
      const near =
        nearest(call, names) ??
        [...CALL_TABLE].find(([, { words = '' }]) => words.split(' ').includes(call.toLowerCase()))?.[0];
      return this.say(
        'error',
        'graph/call',
        [...path, 'call'],
        `there is nothing called "${call}"`,
        near === undefined
          ? 'Call an operator, a function of WGSL, a type, or a function of a file under "uses".'
          : `Did you mean "${near}"?`,
      );
    }
    const inputs: readonly CallInput[] =
      row?.inputs ?? own?.params.filter(({ type }) => type !== SAMPLER).map(({ name }) => ({ name })) ?? [];
    const isGiven = (i: number): boolean => given[i] !== undefined && given[i] !== null;
    let args = given.map((one, i) => this.input(one, [...path, 'in', i], inputs[i]));
    const count = this.countOf(call, args, inputs.length, row !== undefined || own !== undefined);
    for (let i = args.length; i < count; i++) args.push(this.input(undefined, [...path, 'in', i], inputs[i]));
    this.tellDefaults(call, given, count, inputs, path);
    // Whole numbers alone would be divided as such.
    if (
      args.length > 0 &&
      !WHOLE.has(call) &&
      !isType(call) &&
      args.every(({ number, type: of }) => number !== undefined || of === BOOL)
    )
      args = args.map(asFloat);
    args = this.withSamplers(call, args);
    if (args.some(({ type }) => !type)) return { ...this.written(call, args), type: undefined, meaning: {} };
    let type = this.resultOf(call, args);
    if (!type) {
      const splat = this.splat(call, args, (i) => !isGiven(i) || args[i]!.number !== undefined); // as many
      if (splat) ({ args, type } = splat);
    }
    if (
      !type &&
      own &&
      takes(
        own,
        args.map((arg) => arg.type!),
      )
    )
      return { ...this.written(call, args), type, meaning: {} }; // looked at above
    if (!type)
      return { ...this.mismatch(call, args, inputs, path), ...this.written(call, args), type: undefined };
    const meanings = args.filter(({ type: of }) => of !== SAMPLER).map(({ meaning }) => meaning);
    const names = args.map(
      (arg, i) => arg.reference ?? `input ${i + 1}${inputs[i] ? ` (${inputs[i].name})` : ''}`,
    );
    for (const { code, hint, summary } of doubtsOf(call, meanings, names))
      this.say('warning', code, path, summary, hint);
    return { ...this.written(call, args), type, meaning: meaningOf(call, meanings, type) };
  }

  private isKnown(call: string): boolean {
    const { functions, structs } = this.options.known;
    return (
      OPERATORS.has(call) || isType(call) || BUILTINS.has(call) || functions.has(call) || structs.has(call)
    );
  }

  /** How many inputs a call has. A type takes what is given where that makes it whole: a vector of one number, of a vector and a number. */
  private countOf(call: string, args: readonly Expression[], listed: number, isListed: boolean): number {
    const given = args.length;
    if (!isListed || given >= listed || (call === '-' && given === 1)) return given;
    const isWhole = isType(call) && given > 0 && args.every(({ type }) => type) && this.resultOf(call, args);
    return isWhole ? given : listed;
  }

  private resultOf(call: string, args: readonly Expression[]): Type | undefined {
    return resultOf(
      call,
      args.map(({ type }) => type!),
      this.options.known,
    ); // looked at by the callers
  }

  private written(call: string, args: readonly Expression[]): { text: string; level: number } {
    if (OPERATORS.has(call)) return args.length > 0 ? operationText(call, args) : { text: '0', level: NAME };
    return { text: `${call}(${args.map(({ text }) => text).join(', ')})`, level: NAME };
  }

  /** A texture brings its sampler along, where one is wanted. */
  private withSamplers(call: string, args: Expression[]): Expression[] {
    const own = this.options.known.functions.get(call);
    return args.flatMap((arg, i) => {
      if (arg.sampler === undefined) return [arg];
      const isWanted = own ? own.params[i + 1]?.type === SAMPLER : /^textureSample/.test(call);
      return isWanted ? [arg, { text: arg.sampler, level: NAME, type: SAMPLER, meaning: {} }] : [arg];
    });
  }

  /** Numbers made as wide as the widest of the others. @param may whether the input of a number may be */
  private splat(
    call: string,
    args: readonly Expression[],
    may: (i: number) => boolean,
  ): { args: Expression[]; type: Type } | undefined {
    const sizes = args.flatMap(({ type }) => (type?.kind === 'vec' ? [type.size] : []));
    const own = this.options.known.functions.get(call)?.params;
    const changed = args.map((arg, i) => {
      const wanted = own?.[i]?.type;
      const size = wanted?.kind === 'vec' ? wanted.size : Math.max(...sizes);
      if (arg.number === undefined || !may(i) || !Number.isFinite(size) || (own && wanted?.kind !== 'vec'))
        return arg;
      return { ...arg, text: `vec${size}f(${arg.text})`, level: NAME, type: vec(size, F32) };
    });
    const type = this.resultOf(call, changed);
    return type && { args: changed, type };
  }

  /** Inputs that were left out, where what stands in for them makes little sense. */
  private tellDefaults(
    call: string,
    given: readonly GraphInput[],
    count: number,
    inputs: readonly CallInput[],
    path: Path,
  ): void {
    for (let i = 0; i < count; i++) {
      const row = inputs[i];
      if (!row?.isWanted || (given[i] !== undefined && given[i] !== null)) continue;
      this.say(
        'warning',
        'graph/no-value',
        [...path, 'in', i],
        `input ${i + 1} (${row.name}) of ${call} has no value, and is ${JSON.stringify(row.default)}`,
        'Give it a value, or "@name" of a node.',
      );
    }
  }

  /** Tells what a call would take in place of what it has. */
  private mismatch(
    call: string,
    args: readonly Expression[],
    inputs: readonly CallInput[],
    path: Path,
  ): Expression {
    const types = args.map(({ type }) => shownType(type!)); // looked at by the caller
    const offers = offersFor(call, args, this.options.known);
    const own = this.options.known.functions.get(call);
    const wanted = own
      ? `It takes ${own.params.map(({ name, type }) => `${name}: ${type ? shownType(type) : 'something else'}`).join(', ')}. `
      : '';
    return this.say(
      'error',
      'graph/type',
      path,
      `${call} does not take ${types.length > 0 ? types.join(', ') : 'nothing'}`,
      wanted +
        (offers.length > 0
          ? offers.slice(0, 3).join(' Or: ')
          : own
            ? ''
            : `It has ${inputs.map(({ name }) => name).join(', ')}.`),
    );
  }
}

/** Calls whose whole numbers stay whole. */
const WHOLE = new Set(['[]', '&', '|', '^', '~', '<<', '>>', 'textureLoad', 'textureDimensions']);

const rangeOf = ({ high, low }: Meaning): Meaning => ({
  ...(low === undefined ? {} : { low }),
  ...(high === undefined ? {} : { high }),
});

/** Which input of its call an input is, from 1. */
const inWhich = (path: Path): string => {
  const last = path.at(-1);
  return typeof last === 'number' ? String(last + 1) : `"${String(last)}"`;
};
