import { NOT_NAMES, scan, type Token } from './scan.js';
import { type Source, type Span, WgslFault } from './source.js';

/** Nesting of expressions and statements beyond which a text is refused, as browsers do. */
const MOST_NESTING = 120;
/** Faults of form after which a text is given up: it is hardly WGSL. */
const MOST_FAULTS = 30;
/** Words that a declared name follows. */
const DECLARES = new Set(['let', 'var', 'const', 'override', 'fn', 'struct', 'alias']);

/** The tokens of a text, and where the parser stands among them. */
export class TokenCursor {
  readonly tokens: Token[];
  at = 0;
  depth = 0;
  /** Faults after which reading went on. */
  readonly faults: WgslFault[] = [];
  /** Names that were declared in what was passed over. */
  readonly broken = new Set<string>();

  constructor(readonly source: Source) {
    this.tokens = scan(source);
  }

  /** The operator at hand; `>` tokens that touch are put together. */
  operator(): string {
    const token = this.peek;
    if (token.kind !== 'symbol') return '';
    if (token.text !== '>') return token.text;
    let text = '>';
    for (let i = this.at + 1; text.length < 3; i++) {
      const next = this.tokens[i]!; // the end token stops it
      const before = this.tokens[i - 1]!;
      if (next.from !== before.to) break;
      if (next.text === '>' && text === '>') text = '>>';
      else if (next.text === '=' && text.length < 3) return `${text}=`;
      else if (next.text === '==' && text.length < 3) return `${text}=`;
      else break;
    }
    return text;
  }

  /** Moves past an operator. */
  shift(op: string): void {
    const end = this.peek.from + op.length;
    while (this.peek.from < end && this.peek.kind !== 'end') this.next();
  }

  get peek(): Token {
    return this.tokens[this.at]!; // the end token is never passed
  }

  get lastTo(): number {
    return this.tokens[this.at - 1]!.to; // called after a token was taken
  }

  next(): Token {
    const token = this.peek;
    if (token.fault) throw token.fault;
    if (token.kind !== 'end') this.at++;
    return token;
  }

  take(symbol: string): boolean {
    const token = this.peek;
    if (token.kind !== 'symbol' || token.text !== symbol) return false;
    this.at++;
    return true;
  }

  takeWord(word: string): boolean {
    const token = this.peek;
    if (token.kind !== 'name' || token.text !== word) return false;
    this.at++;
    return true;
  }

  need(symbol: string): void {
    if (!this.take(symbol)) this.expected(`"${symbol.replace('T', '')}"`);
  }

  anyName(): string {
    const token = this.peek;
    if (token.kind !== 'name') this.expected('a name');
    this.next();
    return token.text;
  }

  newName(): [string, Span] {
    const token = this.peek;
    if (token.kind !== 'name' || token.text === '_') this.expected('a name');
    this.refuseWord(token);
    this.next();
    return [token.text, this.span(token)];
  }

  refuseWord(token: Token): void {
    const kind = NOT_NAMES.get(token.text);
    if (kind) {
      const what = kind === 'keyword' ? 'a word of the language' : 'reserved by the language';
      throw this.fault(
        'reserved',
        `"${token.text}" is ${what} and cannot be a name`,
        this.span(token),
        'Choose another name.',
      );
    }
    if (token.text === '_') throw this.fault('name', '"_" is not a name', this.span(token));
  }

  expected(what: string): never {
    const token = this.peek;
    if (token.fault) throw token.fault;
    const found =
      token.kind === 'end' ? 'the text ends' : `there is "${token.text.replace(/^([<>])T$/, '$1')}"`;
    throw this.fault('expected', `${what} is expected here, but ${found}`, this.span(token));
  }

  /**
   * Notes a fault and passes over what it spoiled: to behind the next `;` or `}` of this block, or to before what
   * begins anew on a line of its own.
   *
   * @param from where what failed begins
   * @param begins words that begin something anew here
   * @throws WgslFault the fault itself, when it is for an outer block to go on after
   */
  recover(error: unknown, from: number, begins: ReadonlySet<string>): void {
    if (!(error instanceof WgslFault) || error.code === 'nesting') throw error;
    if (this.faults.length >= MOST_FAULTS) throw error;
    this.faults.push(error);
    if (this.at === from && this.peek.text !== '}' && this.peek.kind !== 'end') this.at++;
    let depth = 0;
    for (; this.peek.kind !== 'end'; this.at++) {
      const { text, kind } = this.peek;
      if (kind === 'name' && this.at > from) {
        if (DECLARES.has(text)) this.breakName(this.at);
        if (depth <= 0 && begins.has(text) && this.beginsLine()) break;
        continue;
      }
      if (kind !== 'symbol') continue;
      if (text === '{' || text === '(' || text === '[') depth++;
      else if (text === ')' || text === ']') depth--;
      else if (text === '}') {
        // What was opened before the fault is closed here as well.
        if (depth <= 0) break;
        if (--depth <= 0) {
          this.at++;
          break;
        }
      } else if (text === ';' && depth <= 0) {
        this.at++;
        break;
      }
    }
    for (let i = from; i < this.at; i++) if (DECLARES.has(this.tokens[i]!.text)) this.breakName(i); // in range
  }

  /** Notes the name that is declared behind a word such as `let`, past its templates and attributes. */
  private breakName(at: number): void {
    let i = at + 1;
    if (this.tokens[i]?.text.startsWith('<')) while (this.tokens[i] && !/^>/.test(this.tokens[i]!.text)) i++; // there
    const token = this.tokens.slice(i, i + 2).find(({ kind }) => kind === 'name');
    if (token) this.broken.add(token.text);
  }

  /** Whether the token at hand is the first of its line. */
  beginsLine(): boolean {
    const before = this.tokens[this.at - 1];
    return !before || /[\n\r]/.test((this.source.code ?? this.source.text).slice(before.to, this.peek.from));
  }

  fault(code: string, message: string, span: Span, hint = ''): WgslFault {
    return new WgslFault(code, message, span, hint);
  }

  enter(): void {
    if (++this.depth > MOST_NESTING) {
      throw this.fault('nesting', `more than ${MOST_NESTING} levels of nesting`, this.span(this.peek));
    }
  }

  span(token: Token): Span {
    return { source: this.source, from: token.from, to: token.to };
  }

  from(start: Token): Span {
    return { source: this.source, from: start.from, to: Math.max(start.to, this.lastTo) };
  }
}
