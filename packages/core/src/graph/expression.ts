import { linearFromSrgb } from '../math/srgb.js';
import type { Meaning } from './meaning.js';
import { AFLOAT, AINT, BOOL, F32, type Type } from './types.js';
import { vec } from '../wgsl/types/types.js';

/** A value in WGSL, on its way into an expression. */
export interface Expression {
  text: string;
  /** How tightly its parts hold together: 0 a name or a call, higher the looser. */
  level: number;
  /** Undefined where something in it is wrong. */
  type: Type | undefined;
  meaning: Meaning;
  /** A number that stands there as it is. */
  number?: number;
  /** The sampler that goes with it, of a texture. */
  sampler?: string;
  /** Where it is a reference and nothing else: how a graph writes it. */
  reference?: string;
}

export const NAME = 0;
const UNARY = 1;
const LEVELS: Readonly<Record<string, number>> = {
  ...{ '*': 2, '/': 2, '%': 2, '+': 3, '-': 3, '<<': 4, '>>': 4 },
  ...{ '<': 5, '<=': 5, '>': 5, '>=': 5, '==': 5, '!=': 5, '&': 6, '|': 6, '^': 6, '&&': 7, '||': 8 },
};

export const nothing = (text = '0'): Expression => ({ text, level: NAME, type: undefined, meaning: {} });

/** A number, written as short as it can be. @param isFloat whether it is one with a point whatever it is */
export function numberText(value: number, isFloat = false): string {
  const text = String(value);
  return isFloat && /^-?\d+$/.test(text) ? `${text}.0` : text;
}

export const numberOf = (given: number): Expression => {
  // JSON has one 0.
  const value = given === 0 ? 0 : given;
  return {
    text: numberText(value),
    level: value < 0 ? UNARY : NAME,
    type: Number.isInteger(value) && Math.abs(value) < 2 ** 31 ? AINT : AFLOAT,
    meaning: { low: value, high: value },
    number: value,
  };
};

/** The same as a number with a point. */
export const asFloat = (expression: Expression): Expression =>
  expression.number === undefined
    ? expression
    : { ...expression, text: numberText(expression.number, true), type: AFLOAT };

export const truthOf = (value: boolean): Expression => ({
  text: String(value),
  level: NAME,
  type: BOOL,
  meaning: {},
});

/** Two to four numbers. */
export const vectorOf = (values: readonly number[]): Expression => ({
  text: `vec${values.length}f(${(values.every((one) => one === values[0]) ? values.slice(0, 1) : values).map((one) => numberText(one)).join(', ')})`,
  level: NAME,
  type: vec(values.length, F32),
  meaning: { low: Math.min(...values), high: Math.max(...values) },
});

/** A color as CSS writes it, `#rgb` to `#rrggbbaa`, in linear light; undefined for what is none. */
export function colorNumbers(text: string): number[] | undefined {
  const found = /^#([0-9a-f]{3,4}|[0-9a-f]{6}|[0-9a-f]{8})$/i.exec(text);
  if (!found) return undefined;
  const digits = found[1]!; // it matched
  const step = digits.length < 6 ? 1 : 2;
  const parts = Array.from({ length: digits.length / step }, (_, i) =>
    digits.slice(i * step, (i + 1) * step),
  );
  return parts.map((part, i) => {
    const share = Number.parseInt(step === 1 ? part + part : part, 16) / 255;
    // To six digits: eight bits have no more.
    return Number((i < 3 ? linearFromSrgb(share) : share).toPrecision(6));
  });
}

const inParens = ({ level, text }: Expression, most: number): string => (level > most ? `(${text})` : text);

/** Operands with an operator between them, in as few parentheses as WGSL allows. */
export function operationText(op: string, args: readonly Expression[]): { text: string; level: number } {
  if (op === '[]') return { text: `${inParens(args[0]!, NAME)}[${args[1]?.text ?? '0'}]`, level: NAME }; // one at least
  if (args.length === 1) return { text: `${op}${inParens(args[0]!, NAME)}`, level: UNARY }; // one
  const level = LEVELS[op]!; // it is one
  const text = args
    .map((arg, i) => {
      const isFirst = i === 0;
      switch (level) {
        case 2:
          return inParens(arg, isFirst ? level : NAME);
        case 3:
          return inParens(arg, isFirst ? level : arg.level === UNARY ? NAME : 2);
        case 5:
          return inParens(arg, 3);
        case 7:
        case 8:
          return inParens(arg, isFirst && arg.level === level ? level : 5);
        default:
          return inParens(arg, UNARY);
      }
    })
    .join(` ${op} `);
  return { text, level };
}

/** A part of a value: `a.xy`. */
export const memberText = (of: Expression, name: string): string => `${inParens(of, NAME)}.${name}`;
