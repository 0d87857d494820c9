import { isBreak, type Source, WgslFault } from './source.js';

export type TokenKind = 'name' | 'int' | 'float' | 'symbol' | 'end';

export interface Token {
  kind: TokenKind;
  /** Its letters; for template brackets `<T` and `>T`. */
  text: string;
  from: number;
  to: number;
  /** What is wrong with it; whoever takes it throws it. */
  fault?: WgslFault;
}

const SYMBOLS = [
  '<<=',
  '>>=',
  '&&',
  '||',
  '->',
  '==',
  '!=',
  '<=',
  '>=',
  '<<',
  '>>',
  '++',
  '--',
  '+=',
  '-=',
  '*=',
  '/=',
  '%=',
  '&=',
  '|=',
  '^=',
  '&',
  '|',
  '@',
  '/',
  '!',
  '[',
  ']',
  '{',
  '}',
  ':',
  ',',
  '=',
  '>',
  '<',
  '%',
  '-',
  '.',
  '+',
  '(',
  ')',
  ';',
  '*',
  '~',
  '^',
];
const BY_FIRST = new Map<string, string[]>();
for (const symbol of SYMBOLS) {
  // `>` is always scanned alone: whether it closes a template is only known later.
  if (symbol.length > 1 && symbol.startsWith('>')) continue;
  const list = BY_FIRST.get(symbol[0]!);
  if (list) list.push(symbol);
  else BY_FIRST.set(symbol[0]!, [symbol]);
}

const NUMBER =
  /0[xX](?:[0-9a-fA-F]*\.[0-9a-fA-F]+(?:[pP][+-]?\d+[fh]?)?|[0-9a-fA-F]+\.[0-9a-fA-F]*(?:[pP][+-]?\d+[fh]?)?|[0-9a-fA-F]+[pP][+-]?\d+[fh]?|[0-9a-fA-F]+[iu]?)|\d+[eE][+-]?\d+[fh]?|\d*\.\d+(?:[eE][+-]?\d+)?[fh]?|\d+\.\d*(?:[eE][+-]?\d+)?[fh]?|\d+[iufh]?/y;
const NAME = /[_\p{XID_Start}][\p{XID_Continue}]*/uy;

/**
 * Cuts a text into tokens, comments dropped and template brackets told apart from comparisons. What is no token
 * carries its fault, so that the rest is read all the same.
 */
export function scan(source: Source): Token[] {
  const { text } = source;
  const tokens: Token[] = [];
  const fault = (code: string, message: string, from: number, to: number, hint = ''): WgslFault =>
    new WgslFault(code, message, { source, from, to }, hint);
  let unclosed: WgslFault | undefined;
  let at = 0;
  while (at < text.length) {
    const code = text.charCodeAt(at);
    if (code === 32 || code === 9 || isBreak(code) || code === 0x200e || code === 0x200f) {
      at++;
      continue;
    }
    if (code === 47) {
      const next = text.charCodeAt(at + 1);
      if (next === 47) {
        while (at < text.length && !isBreak(text.charCodeAt(at))) at++;
        continue;
      }
      if (next === 42) {
        const behind = skipComment(text, at);
        if (behind === undefined)
          unclosed = fault(
            'comment',
            'a comment is never closed',
            at,
            at + 2,
            'Close it with */; comments nest.',
          );
        at = behind ?? text.length;
        continue;
      }
    }
    const isDigit = code >= 48 && code <= 57;
    if (isDigit || (code === 46 && /\d/.test(text[at + 1] ?? ''))) {
      NUMBER.lastIndex = at;
      const match = NUMBER.exec(text)?.[0] ?? text[at]!; // a digit stands there
      const end = at + match.length;
      NAME.lastIndex = end;
      const behind = NAME.exec(text)?.[0].length ?? 0;
      const isHex = /^0x/i.test(match);
      const isFloat = isHex ? /[.pP]/.test(match) : /[.eEfh]/.test(match);
      const token: Token = { kind: isFloat ? 'float' : 'int', text: match, from: at, to: end + behind };
      if (behind > 0) {
        const message = `a name follows the number ${match} at once`;
        token.fault = fault('number', message, at, end + behind, 'Suffixes are i, u, f and h.');
      } else if (/^0\d/.test(match)) {
        const hint = 'Whole numbers have no leading zeros.';
        token.fault = fault('number', `${match} starts with a zero`, at, end, hint);
      } else if (isHex && /\./.test(match) && /[fh]$/.test(match) && !/[pP]/.test(match)) {
        token.fault = fault('number', 'a hexadecimal float with a suffix needs an exponent', at, end);
      }
      tokens.push(token);
      at = token.to;
      continue;
    }
    const list = BY_FIRST.get(text[at]!);
    if (list) {
      const symbol = list.find((s) => text.startsWith(s, at))!; // the single letter is in the list
      tokens.push({ kind: 'symbol', text: symbol, from: at, to: at + symbol.length });
      at += symbol.length;
      continue;
    }
    NAME.lastIndex = at;
    const name = NAME.exec(text)?.[0];
    if (name === undefined) {
      const letter = String.fromCodePoint(text.codePointAt(at)!); // at < length
      const to = at + letter.length;
      const message = `${JSON.stringify(letter)} has no meaning in WGSL`;
      tokens.push({ kind: 'symbol', text: letter, from: at, to, fault: fault('letter', message, at, to) });
      at = to;
      continue;
    }
    const token: Token = { kind: 'name', text: name, from: at, to: at + name.length };
    if (name.startsWith('__')) {
      const message = `"${name}" starts with two underscores`;
      token.fault = fault('name', message, at, token.to, 'Such names are reserved.');
    }
    tokens.push(token);
    at += name.length;
  }
  const end: Token = { kind: 'end', text: '', from: text.length, to: text.length };
  if (unclosed) end.fault = unclosed;
  tokens.push(end);
  findTemplates(tokens);
  return tokens;
}

function skipComment(text: string, from: number): number | undefined {
  let depth = 0;
  for (let at = from; at + 1 < text.length; at++) {
    if (text[at] === '/' && text[at + 1] === '*') {
      depth++;
      at++;
    } else if (text[at] === '*' && text[at + 1] === '/') {
      at++;
      if (--depth === 0) return at + 1;
    }
  }
  return undefined;
}

/** Marks template brackets, by the algorithm of WGSL 3.9 "Template Lists". */
function findTemplates(tokens: Token[]): void {
  const pending: { index: number; depth: number }[] = [];
  let depth = 0;
  for (let i = 0; i < tokens.length; i++) {
    const { kind, text } = tokens[i]!;
    if (kind === 'name') {
      const next = tokens[i + 1]!; // the end token follows every name
      if (next.text !== '<' || next.kind !== 'symbol') continue;
      i++;
      pending.push({ index: i, depth });
      continue;
    }
    if (kind !== 'symbol') continue;
    switch (text) {
      case '>': {
        const top = pending[pending.length - 1];
        if (top && top.depth === depth) {
          pending.pop();
          tokens[top.index]!.text = '<T';
          tokens[i]!.text = '>T';
        } else if (tokens[i + 1]?.text === '=' && tokens[i + 1]!.from === tokens[i]!.to) i++;
        break;
      }
      case '(':
      case '[':
        depth++;
        break;
      case ')':
      case ']':
        while (pending.length > 0 && pending[pending.length - 1]!.depth >= depth) pending.pop();
        depth = Math.max(0, depth - 1);
        break;
      case '=':
      case ';':
      case '{':
      case ':':
        depth = 0;
        pending.length = 0;
        break;
      case '&&':
      case '||':
        while (pending.length > 0 && pending[pending.length - 1]!.depth >= depth) pending.pop();
        break;
      default:
    }
  }
}

const KEYWORDS =
  'alias break case const const_assert continue continuing default diagnostic discard else enable false fn for if let loop override requires return struct switch true var while';
const RESERVED = `NULL Self abstract active alignas alignof as asm asm_fragment async attribute auto await become cast catch class co_await co_return co_yield coherent column_major common compile compile_fragment concept const_cast consteval constexpr constinit crate debugger decltype delete demote demote_to_helper do dynamic_cast enum explicit export extends extern external fallthrough filter final finally friend from fxgroup get goto groupshared highp impl implements import inline instanceof interface layout lowp macro macro_rules match mediump meta mod module move mut mutable namespace new nil noexcept noinline nointerpolation non_coherent noncoherent noperspective null nullptr of operator package packoffset partial pass patch pixelfragment precise precision premerge priv protected pub public readonly ref regardless register reinterpret_cast require resource restrict self set shared sizeof smooth snorm static static_assert static_cast std subroutine super target template this thread_local throw trait try type typedef typeid typename typeof union unless unorm unsafe unsized use using varying virtual volatile wgsl where with writeonly yield`;

/** Words that cannot be names: of the language, and kept for its future. */
export const NOT_NAMES: ReadonlyMap<string, 'keyword' | 'reserved'> = new Map([
  ...KEYWORDS.split(' ').map((word) => [word, 'keyword'] as const),
  ...RESERVED.split(' ').map((word) => [word, 'reserved'] as const),
]);
