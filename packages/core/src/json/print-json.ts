import { isObject } from './forms.js';
import { strictJson } from './strict-json.js';

/** How a file is written. */
export interface TextStyle {
  /** One step of indentation. */
  indent: string;
  lineEnd: '\n' | '\r\n';
}

/** How most of a text is written. */
export function styleOf(text: string): TextStyle {
  const lineEnd = text.includes('\r\n') ? '\r\n' : '\n';
  const indent = /\n([ \t]+)\S/.exec(text)?.[1] ?? '  ';
  return { indent, lineEnd };
}

/** Characters of a line that new objects are written on, at most. */
const WIDTH = 100;

/**
 * A value as it is written anew: on one line where that is short, else by lines.
 *
 * @param at indentation of the line that it begins on
 */
export function printJson(value: unknown, style: TextStyle, at: string): string {
  const short = inLine(value);
  if (short.length <= WIDTH || typeof value !== 'object' || value === null) return short;
  // Numbers stay together.
  if (Array.isArray(value) && value.every((one) => typeof one === 'number')) return short;
  const deeper = at + style.indent;
  const lines = Array.isArray(value)
    ? value.map((one) => printJson(one, style, deeper))
    : Object.entries(value).map(([key, one]) => `${JSON.stringify(key)}: ${printJson(one, style, deeper)}`);
  const [open, close] = Array.isArray(value) ? ['[', ']'] : ['{', '}'];
  return `${open}${style.lineEnd}${lines.map((line) => deeper + line).join(`,${style.lineEnd}`)}${style.lineEnd}${at}${close}`;
}

function inLine(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(inLine).join(', ')}]`;
  if (!isObject(value)) return JSON.stringify(value) ?? 'null';
  const members = Object.entries(value)
    .filter(([, one]) => one !== undefined)
    .map(([key, one]) => `${JSON.stringify(key)}: ${inLine(one)}`);
  return members.length > 0 ? `{ ${members.join(', ')} }` : '{}';
}

/** What a part of a text holds. */
export const valueIn = (text: string, from: number, to: number): unknown =>
  JSON.parse(strictJson(text.slice(from, to)));
