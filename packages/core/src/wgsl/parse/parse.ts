import type {
  Attribute,
  BinaryOp,
  CallExpr,
  Declaration,
  Expr,
  FunctionDecl,
  GlobalVar,
  Module,
  NameUse,
  Param,
  Statement,
  StructDecl,
  SwitchCase,
} from './ast.js';
import { NOT_NAMES, scan, type Token } from './scan.js';
import { type Source, type Span, WgslFault } from './source.js';

/** Nesting of expressions and statements beyond which a text is refused, as browsers do. */
const MOST_NESTING = 120;

/** Parses a module of WGSL. @throws WgslFault at the first fault of form */
export function parseModule(source: Source): Module {
  return new Parser(source).module();
}

class Parser {
  private readonly tokens: Token[];
  private at = 0;
  private depth = 0;

  constructor(private readonly source: Source) {
    this.tokens = scan(source);
  }

  module(): Module {
    const module: Module = { enables: [], requires: [], diagnostics: [], declarations: [], asserts: [] };
    this.directives(module);
    while (this.peek.kind !== 'end') {
      if (this.take(';')) continue;
      const start = this.peek;
      if (this.takeWord('const_assert')) {
        const condition = this.expression();
        this.need(';');
        module.asserts.push({ kind: 'const_assert', condition, span: this.from(start) });
        continue;
      }
      module.declarations.push(this.declaration());
    }
    return module;
  }

  private directives(module: Module): void {
    for (;;) {
      const start = this.peek;
      if (start.kind !== 'name') return;
      if (start.text === 'enable' || start.text === 'requires') {
        this.next();
        const list = start.text === 'enable' ? module.enables : module.requires;
        do {
          if (this.peek.text === ';') break;
          const name = this.peek;
          if (name.kind !== 'name') this.expected('the name of a feature');
          this.next();
          list.push({ name: name.text, span: this.span(name) });
        } while (this.take(','));
        if (this.tokens[this.at - 1] === start) this.expected('the name of a feature');
        this.need(';');
      } else if (start.text === 'diagnostic') {
        this.next();
        module.diagnostics.push({ ...this.diagnosticControl(), span: this.from(start) });
        this.need(';');
      } else return;
    }
  }

  private diagnosticControl(): { severity: string; rule: string } {
    this.need('(');
    const severity = this.peek;
    if (!['error', 'warning', 'info', 'off'].includes(severity.text))
      this.expected('error, warning, info or off');
    this.next();
    this.need(',');
    let rule = this.anyName();
    if (this.take('.')) rule += `.${this.anyName()}`;
    this.take(',');
    this.need(')');
    return { severity: severity.text, rule };
  }

  private anyName(): string {
    const token = this.peek;
    if (token.kind !== 'name') this.expected('a name');
    this.next();
    return token.text;
  }

  private declaration(): Declaration {
    const start = this.peek;
    const attributes = this.attributes();
    const word = this.peek;
    if (word.kind === 'name') {
      switch (word.text) {
        case 'fn':
          return this.functionDecl(start, attributes);
        case 'struct':
          this.noAttributes(attributes);
          return this.structDecl(start);
        case 'alias': {
          this.noAttributes(attributes);
          this.next();
          const [name, nameSpan] = this.newName();
          this.need('=');
          const typeExpr = this.typeExpression();
          this.need(';');
          return { kind: 'alias', name, nameSpan, typeExpr, span: this.from(start) };
        }
        case 'var':
        case 'const':
        case 'override':
          if (word.text === 'const') this.noAttributes(attributes);
          return this.globalDecl(start, attributes, word.text);
        default:
      }
    }
    if (['enable', 'requires', 'diagnostic'].includes(word.text)) {
      throw this.fault(
        'directive-place',
        `"${word.text}" must stand before all declarations`,
        this.span(word),
      );
    }
    return this.expected('a declaration (fn, struct, alias, var, const, override or const_assert)');
  }

  private noAttributes(attributes: Attribute[]): void {
    const first = attributes[0];
    if (first) throw this.fault('attribute-place', `@${first.name} cannot stand here`, first.span);
  }

  private attributes(): Attribute[] {
    const list: Attribute[] = [];
    while (this.peek.text === '@' && this.peek.kind === 'symbol') {
      const start = this.next();
      const name = this.anyName();
      const args: Expr[] = [];
      if (name === 'diagnostic') {
        this.diagnosticControl();
      } else if (this.take('(')) {
        while (!this.take(')')) {
          args.push(this.expression());
          if (!this.take(',')) {
            this.need(')');
            break;
          }
        }
      }
      list.push({ name, args, span: this.from(start) });
    }
    return list;
  }

  private functionDecl(start: Token, attributes: Attribute[]): FunctionDecl {
    this.next();
    const [name, nameSpan] = this.newName();
    this.need('(');
    const params: Param[] = [];
    while (!this.take(')')) {
      const paramStart = this.peek;
      const own = this.attributes();
      const [paramName, paramNameSpan] = this.newName();
      this.need(':');
      params.push({
        name: paramName,
        nameSpan: paramNameSpan,
        attributes: own,
        typeExpr: this.typeExpression(),
        span: this.from(paramStart),
      });
      if (!this.take(',')) {
        this.need(')');
        break;
      }
    }
    let returnAttributes: Attribute[] = [];
    let returnExpr: Expr | undefined;
    if (this.take('->')) {
      returnAttributes = this.attributes();
      returnExpr = this.typeExpression();
    }
    const bodyAttributes = this.attributes();
    checkControlAttributes(bodyAttributes, this.source);
    const bodyStart = this.peek;
    const body = this.block();
    return {
      kind: 'fn',
      name,
      nameSpan,
      attributes,
      params,
      returnAttributes,
      returnExpr,
      body,
      span: this.from(start),
      bodySpan: this.from(bodyStart),
    };
  }

  private structDecl(start: Token): StructDecl {
    this.next();
    const [name, nameSpan] = this.newName();
    this.need('{');
    const members: StructDecl['members'] = [];
    while (!this.take('}')) {
      const memberStart = this.peek;
      const attributes = this.attributes();
      const [member] = this.newName();
      this.need(':');
      members.push({
        name: member,
        attributes,
        typeExpr: this.typeExpression(),
        span: this.from(memberStart),
      });
      if (!this.take(',')) {
        this.need('}');
        break;
      }
    }
    return { kind: 'struct', name, nameSpan, members, span: this.from(start) };
  }

  private globalDecl(start: Token, attributes: Attribute[], form: GlobalVar['form']): GlobalVar {
    this.next();
    const templates = form === 'var' ? this.templateList() : undefined;
    const [name, nameSpan] = this.newName();
    const typeExpr = this.take(':') ? this.typeExpression() : undefined;
    const init = this.take('=') ? this.expression() : undefined;
    if (form === 'const' && !init) this.expected('"=" and a value, which a const needs');
    this.need(';');
    return {
      kind: 'global',
      form,
      name,
      nameSpan,
      attributes,
      templates,
      typeExpr,
      init,
      span: this.from(start),
    };
  }

  private block(): Statement[] {
    this.need('{');
    this.enter();
    const body: Statement[] = [];
    while (!this.take('}')) {
      if (this.peek.kind === 'end') this.expected('"}"');
      body.push(this.statement());
    }
    this.depth--;
    return body;
  }

  private statement(): Statement {
    const start = this.peek;
    if (this.take(';')) return { kind: 'empty', span: this.from(start) };
    const attributes = this.attributes();
    checkControlAttributes(attributes, this.source);
    const word = this.peek;
    const takesAttributes = ['if', 'switch', 'loop', 'for', 'while'].includes(word.text) || word.text === '{';
    if (attributes.length > 0 && !takesAttributes) this.noAttributes(attributes);
    if (word.text === '{' && word.kind === 'symbol') {
      const body = this.block();
      return { kind: 'block', body, attributes, span: this.from(start) };
    }
    if (word.kind === 'name') {
      switch (word.text) {
        case 'if':
          return this.ifStatement(start);
        case 'switch':
          return this.switchStatement(start);
        case 'loop':
          return this.loopStatement(start);
        case 'for':
          return this.forStatement(start);
        case 'while': {
          this.next();
          const condition = this.expression();
          return { kind: 'while', condition, body: this.blockStatement(), span: this.from(start) };
        }
        case 'break':
        case 'continue':
        case 'discard': {
          this.next();
          if (word.text === 'break' && this.peek.text === 'if') {
            throw this.fault('break-if', '"break if" may only end a continuing block', this.span(this.peek));
          }
          this.need(';');
          return { kind: word.text, span: this.from(start) };
        }
        case 'return': {
          this.next();
          const value = this.peek.text === ';' ? undefined : this.expression();
          this.need(';');
          return { kind: 'return', value, span: this.from(start) };
        }
        case 'const_assert': {
          this.next();
          const condition = this.expression();
          this.need(';');
          return { kind: 'const_assert', condition, span: this.from(start) };
        }
        default:
      }
    }
    const simple = this.simpleStatement();
    this.need(';');
    return simple;
  }

  private blockStatement(): Statement {
    const start = this.peek;
    const attributes = this.attributes();
    checkControlAttributes(attributes, this.source);
    const body = this.block();
    return { kind: 'block', body, attributes, span: this.from(start) };
  }

  private ifStatement(start: Token): Statement {
    this.next();
    this.enter();
    const condition = this.expression();
    const then = this.blockStatement();
    let otherwise: Statement | undefined;
    if (this.takeWord('else')) {
      const elseStart = this.peek;
      otherwise = this.peek.text === 'if' ? this.ifStatement(elseStart) : this.blockStatement();
    }
    this.depth--;
    return { kind: 'if', condition, then, otherwise, span: this.from(start) };
  }

  private switchStatement(start: Token): Statement {
    this.next();
    const on = this.expression();
    checkControlAttributes(this.attributes(), this.source);
    this.need('{');
    const cases: SwitchCase[] = [];
    while (!this.take('}')) {
      const caseStart = this.peek;
      const selectors: (Expr | undefined)[] = [];
      if (this.takeWord('default')) {
        selectors.push(undefined);
      } else if (this.takeWord('case')) {
        do {
          if (this.peek.text === ':' || this.peek.text === '{' || this.peek.text === '@') break;
          selectors.push(this.takeWord('default') ? undefined : this.expression());
        } while (this.take(','));
        if (selectors.length === 0) this.expected('a value to compare with');
      } else {
        this.expected('case or default');
      }
      this.take(':');
      cases.push({ selectors, body: this.blockStatement(), span: this.from(caseStart) });
    }
    return { kind: 'switch', on, cases, span: this.from(start) };
  }

  private loopStatement(start: Token): Statement {
    this.next();
    checkControlAttributes(this.attributes(), this.source);
    this.need('{');
    this.enter();
    const body: Statement[] = [];
    let continuing: (Statement & { kind: 'loop' })['continuing'];
    while (!this.take('}')) {
      if (this.peek.kind === 'end') this.expected('"}"');
      const at = this.peek;
      if (this.takeWord('continuing')) {
        continuing = this.continuingBlock(at);
        this.need('}');
        break;
      }
      body.push(this.statement());
    }
    this.depth--;
    return { kind: 'loop', body, continuing, span: this.from(start) };
  }

  private continuingBlock(start: Token): NonNullable<(Statement & { kind: 'loop' })['continuing']> {
    checkControlAttributes(this.attributes(), this.source);
    this.need('{');
    const body: Statement[] = [];
    let breakIf: Expr | undefined;
    while (!this.take('}')) {
      if (this.peek.text === 'break' && this.tokens[this.at + 1]?.text === 'if') {
        this.next();
        this.next();
        breakIf = this.expression();
        this.need(';');
        this.need('}');
        break;
      }
      body.push(this.statement());
    }
    return { body, breakIf, span: this.from(start) };
  }

  private forStatement(start: Token): Statement {
    this.next();
    this.need('(');
    const init = this.peek.text === ';' ? undefined : this.simpleStatement();
    this.need(';');
    const condition = this.peek.text === ';' ? undefined : this.expression();
    this.need(';');
    const update = this.peek.text === ')' ? undefined : this.simpleStatement();
    if (update && ['var', 'let', 'const'].includes(update.kind)) {
      throw this.fault('for-update', 'the last part of a for may not declare a name', update.span);
    }
    this.need(')');
    return { kind: 'for', init, condition, update, body: this.blockStatement(), span: this.from(start) };
  }

  /** Declarations, assignments, increments and calls: what may also stand in the head of a for. */
  private simpleStatement(): Statement {
    const start = this.peek;
    if (start.kind === 'name') {
      if (start.text === 'var') {
        this.next();
        const templates = this.templateList();
        const [name, nameSpan] = this.newName();
        const typeExpr = this.take(':') ? this.typeExpression() : undefined;
        const init = this.take('=') ? this.expression() : undefined;
        return { kind: 'var', name, nameSpan, templates, typeExpr, init, span: this.from(start) };
      }
      if (start.text === 'let' || start.text === 'const') {
        this.next();
        const [name, nameSpan] = this.newName();
        const typeExpr = this.take(':') ? this.typeExpression() : undefined;
        this.need('=');
        return {
          kind: start.text,
          name,
          nameSpan,
          typeExpr,
          init: this.expression(),
          span: this.from(start),
        };
      }
      if (start.text === '_') {
        this.next();
        this.need('=');
        return { kind: 'phony', value: this.expression(), span: this.from(start) };
      }
    }
    const target = this.unary();
    const op = this.operator();
    if (op === '++' || op === '--') {
      this.shift(op);
      return { kind: 'step', target, by: op === '++' ? 1 : -1, span: this.from(start) };
    }
    if (ASSIGNMENTS.has(op)) {
      this.shift(op);
      const value = this.expression();
      return {
        kind: 'assign',
        target,
        op: op === '=' ? '=' : (op.slice(0, -1) as BinaryOp),
        value,
        span: this.from(start),
      };
    }
    if (target.kind === 'call') return { kind: 'call', call: target, span: this.from(start) };
    return this.expected('an assignment, an increment or a call');
  }

  /** Types are written like expressions: a name with templates. */
  private typeExpression(): Expr {
    const token = this.peek;
    if (token.kind !== 'name' || NOT_NAMES.has(token.text)) this.expected('a type');
    return this.nameUse();
  }

  private nameUse(): NameUse {
    const start = this.peek;
    if (start.kind !== 'name') this.expected('a name');
    this.refuseWord(start);
    this.next();
    const templates = this.templateList();
    return { kind: 'name', name: start.text, templates, span: this.from(start) };
  }

  private templateList(): Expr[] | undefined {
    if (!this.take('<T')) return undefined;
    const list: Expr[] = [];
    this.enter();
    while (!this.take('>T')) {
      list.push(this.expression());
      if (!this.take(',')) {
        this.need('>T');
        break;
      }
    }
    this.depth--;
    if (list.length === 0) this.expected('a template argument');
    return list;
  }

  private expression(): Expr {
    this.enter();
    const result = this.binary();
    this.depth--;
    return result;
  }

  /**
   * Operators by the grammar of WGSL 8.18: arithmetic binds as in C, but bitwise operators mix with
   * nothing, comparisons do not chain, && and || do not mix, and shifts take unary operands.
   */
  private binary(): Expr {
    const first = this.unary();
    const op = this.operator();
    if (op === '&' || op === '|' || op === '^') {
      let left = first;
      while (this.operator() === op) left = this.combine(left, op, this.unary.bind(this));
      this.refuseMixing(op);
      return left;
    }
    let left = this.relational(first);
    const logic = this.operator();
    if (logic !== '&&' && logic !== '||') {
      if (left.kind === 'binary') this.refuseMixing(left.op);
      return left;
    }
    while (this.operator() === logic) left = this.combine(left, logic, () => this.relational(this.unary()));
    this.refuseMixing(logic);
    return left;
  }

  private refuseMixing(op: string): void {
    const next = this.operator();
    if (BINARY.has(next)) {
      const token = this.peek;
      throw this.fault(
        'mixed-operators',
        `mixing "${op}" and "${next}" needs parentheses`,
        this.span(token),
        'Say which is meant first.',
      );
    }
  }

  private relational(first: Expr): Expr {
    const left = this.shiftExpression(first);
    const op = this.operator();
    if (!['<', '>', '<=', '>=', '==', '!='].includes(op)) return left;
    const result = this.combine(left, op as BinaryOp, () => this.shiftExpression(this.unary()));
    const next = this.operator();
    if (['<', '>', '<=', '>=', '==', '!='].includes(next)) {
      throw this.fault(
        'mixed-operators',
        'comparisons do not chain',
        this.span(this.peek),
        'Join two comparisons by &&.',
      );
    }
    return result;
  }

  private shiftExpression(first: Expr): Expr {
    const op = this.operator();
    if (op === '<<' || op === '>>') {
      const result = this.combine(first, op, this.unary.bind(this));
      const next = this.operator();
      if (ARITHMETIC.has(next) || next === '<<' || next === '>>') this.refuseMixing(op);
      return result;
    }
    let left = this.product(first);
    while (this.operator() === '+' || this.operator() === '-') {
      left = this.combine(left, this.operator() as BinaryOp, () => this.product(this.unary()));
    }
    const next = this.operator();
    if (left !== first && (next === '<<' || next === '>>')) this.refuseMixing('+');
    return left;
  }

  private product(first: Expr): Expr {
    let left = first;
    while (['*', '/', '%'].includes(this.operator())) {
      left = this.combine(left, this.operator() as BinaryOp, this.unary.bind(this));
    }
    return left;
  }

  private combine(left: Expr, op: BinaryOp, readRight: () => Expr): Expr {
    const opToken = this.peek;
    this.shift(op);
    const right = readRight();
    const span = { source: this.source, from: left.span.from, to: right.span.to };
    return {
      kind: 'binary',
      op,
      left,
      right,
      opSpan: { ...this.span(opToken), to: opToken.from + op.length },
      span,
    };
  }

  private unary(): Expr {
    const token = this.peek;
    if (token.kind === 'symbol' && ['-', '!', '~', '&', '*'].includes(token.text)) {
      this.next();
      this.enter();
      const of = this.unary();
      this.depth--;
      return { kind: 'unary', op: token.text as '-', of, span: this.from(token) };
    }
    if (token.text === '--' || token.text === '++') {
      throw this.fault(
        'operator',
        `"${token.text}" cannot stand before a value`,
        this.span(token),
        'Write - -x, or increment in a statement of its own.',
      );
    }
    if (token.text === '&&') {
      // && before a value is two address-of signs, which never makes sense.
      throw this.fault('operator', 'the address of an address cannot be taken', this.span(token));
    }
    return this.postfix(this.primary());
  }

  private postfix(start: Expr): Expr {
    let of = start;
    for (let links = 0; ; links++) {
      if (links > 1000) throw this.fault('nesting', 'an expression is nested too deeply', of.span);
      const token = this.peek;
      if (token.kind !== 'symbol') return of;
      if (token.text === '[') {
        this.next();
        const index = this.expression();
        this.need(']');
        of = { kind: 'index', of, index, span: { ...of.span, to: this.lastTo } };
      } else if (token.text === '.') {
        this.next();
        const name = this.peek;
        if (name.kind !== 'name') this.expected('a member');
        this.refuseWord(name);
        this.next();
        of = {
          kind: 'member',
          of,
          member: name.text,
          memberSpan: this.span(name),
          span: { ...of.span, to: this.lastTo },
        };
      } else return of;
    }
  }

  private primary(): Expr {
    const token = this.peek;
    if (token.kind === 'int' || token.kind === 'float') {
      this.next();
      return { kind: 'literal', text: token.text, literal: token.kind, span: this.span(token) };
    }
    if (token.kind === 'symbol' && token.text === '(') {
      this.next();
      const of = this.expression();
      this.need(')');
      return { kind: 'paren', of, span: this.from(token) };
    }
    if (token.kind === 'name') {
      if (token.text === 'true' || token.text === 'false') {
        this.next();
        return { kind: 'literal', text: token.text, literal: 'bool', span: this.span(token) };
      }
      const callee = this.nameUse();
      if (!this.take('(')) return callee;
      const args: Expr[] = [];
      while (!this.take(')')) {
        args.push(this.expression());
        if (!this.take(',')) {
          this.need(')');
          break;
        }
      }
      const call: CallExpr = { kind: 'call', callee, args, span: this.from(token) };
      return call;
    }
    return this.expected('a value');
  }

  /** The operator at hand; `>` tokens that touch are put together. */
  private operator(): string {
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
  private shift(op: string): void {
    const end = this.peek.from + op.length;
    while (this.peek.from < end && this.peek.kind !== 'end') this.next();
  }

  private get peek(): Token {
    return this.tokens[this.at]!; // the end token is never passed
  }

  private get lastTo(): number {
    return this.tokens[this.at - 1]!.to; // called after a token was taken
  }

  private next(): Token {
    const token = this.peek;
    if (token.kind !== 'end') this.at++;
    return token;
  }

  private take(symbol: string): boolean {
    const token = this.peek;
    if (token.kind !== 'symbol' || token.text !== symbol) return false;
    this.at++;
    return true;
  }

  private takeWord(word: string): boolean {
    const token = this.peek;
    if (token.kind !== 'name' || token.text !== word) return false;
    this.at++;
    return true;
  }

  private need(symbol: string): void {
    if (!this.take(symbol)) this.expected(`"${symbol.replace('T', '')}"`);
  }

  private newName(): [string, Span] {
    const token = this.peek;
    if (token.kind !== 'name' || token.text === '_') this.expected('a name');
    this.refuseWord(token);
    this.next();
    return [token.text, this.span(token)];
  }

  private refuseWord(token: Token): void {
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

  private expected(what: string): never {
    const token = this.peek;
    const found =
      token.kind === 'end' ? 'the text ends' : `there is "${token.text.replace(/^([<>])T$/, '$1')}"`;
    throw this.fault('expected', `${what} is expected here, but ${found}`, this.span(token));
  }

  private fault(code: string, message: string, span: Span, hint = ''): WgslFault {
    return new WgslFault(code, message, span, hint);
  }

  private enter(): void {
    if (++this.depth > MOST_NESTING) {
      throw this.fault('nesting', `more than ${MOST_NESTING} levels of nesting`, this.span(this.peek));
    }
  }

  private span(token: Token): Span {
    return { source: this.source, from: token.from, to: token.to };
  }

  private from(start: Token): Span {
    return { source: this.source, from: start.from, to: Math.max(start.to, this.lastTo) };
  }
}

/** The only attribute of blocks and control statements is @diagnostic. */
function checkControlAttributes(attributes: Attribute[], _source: Source): void {
  const wrong = attributes.find(({ name }) => name !== 'diagnostic');
  if (wrong) throw new WgslFault('attribute-place', `@${wrong.name} cannot stand here`, wrong.span);
}

const ASSIGNMENTS = new Set(['=', '+=', '-=', '*=', '/=', '%=', '&=', '|=', '^=', '<<=', '>>=']);
const ARITHMETIC = new Set(['+', '-', '*', '/', '%']);
const BINARY = new Set([
  ...ARITHMETIC,
  '&',
  '|',
  '^',
  '<<',
  '>>',
  '&&',
  '||',
  '==',
  '!=',
  '<',
  '>',
  '<=',
  '>=',
]);
