import { type BinaryOp, type CallExpr, type Expr, type NameUse } from './ast.js';
import { NOT_NAMES } from './scan.js';
import { type TokenCursor } from './token-cursor.js';

/** Types are written like expressions: a name with templates. */
export function parseType(p: TokenCursor): Expr {
  const token = p.peek;
  if (token.kind !== 'name' || NOT_NAMES.has(token.text)) p.expected('a type');
  return parseName(p);
}

function parseName(p: TokenCursor): NameUse {
  const start = p.peek;
  if (start.kind !== 'name') p.expected('a name');
  p.refuseWord(start);
  p.next();
  const templates = parseTemplates(p);
  return { kind: 'name', name: start.text, templates, span: p.from(start) };
}

export function parseTemplates(p: TokenCursor): Expr[] | undefined {
  if (!p.take('<T')) return undefined;
  const list: Expr[] = [];
  p.enter();
  while (!p.take('>T')) {
    list.push(parseExpression(p));
    if (!p.take(',')) {
      p.need('>T');
      break;
    }
  }
  p.depth--;
  if (list.length === 0) p.expected('a template argument');
  return list;
}

export function parseExpression(p: TokenCursor): Expr {
  p.enter();
  const result = parseBinary(p);
  p.depth--;
  return result;
}

/**
 * Operators by the grammar of WGSL 8.18: arithmetic binds as in C, but bitwise operators mix with
 * nothing, comparisons do not chain, && and || do not mix, and shifts take unary operands.
 */
function parseBinary(p: TokenCursor): Expr {
  const first = parseUnary(p);
  const op = p.operator();
  if (op === '&' || op === '|' || op === '^') {
    let left = first;
    while (p.operator() === op) left = combine(p, left, op, () => parseUnary(p));
    refuseMixing(p, op);
    return left;
  }
  let left = parseRelational(p, first);
  const logic = p.operator();
  if (logic !== '&&' && logic !== '||') {
    if (left.kind === 'binary') refuseMixing(p, left.op);
    return left;
  }
  while (p.operator() === logic) left = combine(p, left, logic, () => parseRelational(p, parseUnary(p)));
  refuseMixing(p, logic);
  return left;
}

function refuseMixing(p: TokenCursor, op: string): void {
  const next = p.operator();
  if (BINARY.has(next)) {
    const token = p.peek;
    throw p.fault(
      'mixed-operators',
      `mixing "${op}" and "${next}" needs parentheses`,
      p.span(token),
      'Say which is meant first.',
    );
  }
}

function parseRelational(p: TokenCursor, first: Expr): Expr {
  const left = parseShift(p, first);
  const op = p.operator();
  if (!['<', '>', '<=', '>=', '==', '!='].includes(op)) return left;
  const result = combine(p, left, op as BinaryOp, () => parseShift(p, parseUnary(p)));
  const next = p.operator();
  if (['<', '>', '<=', '>=', '==', '!='].includes(next)) {
    throw p.fault(
      'mixed-operators',
      'comparisons do not chain',
      p.span(p.peek),
      'Join two comparisons by &&.',
    );
  }
  return result;
}

function parseShift(p: TokenCursor, first: Expr): Expr {
  const op = p.operator();
  if (op === '<<' || op === '>>') {
    const result = combine(p, first, op, () => parseUnary(p));
    const next = p.operator();
    if (ARITHMETIC.has(next) || next === '<<' || next === '>>') refuseMixing(p, op);
    return result;
  }
  let left = parseProduct(p, first);
  while (p.operator() === '+' || p.operator() === '-') {
    left = combine(p, left, p.operator() as BinaryOp, () => parseProduct(p, parseUnary(p)));
  }
  const next = p.operator();
  if (left !== first && (next === '<<' || next === '>>')) refuseMixing(p, '+');
  return left;
}

function parseProduct(p: TokenCursor, first: Expr): Expr {
  let left = first;
  while (['*', '/', '%'].includes(p.operator())) {
    left = combine(p, left, p.operator() as BinaryOp, () => parseUnary(p));
  }
  return left;
}

function combine(p: TokenCursor, left: Expr, op: BinaryOp, readRight: () => Expr): Expr {
  const opToken = p.peek;
  p.shift(op);
  const right = readRight();
  const span = { source: p.source, from: left.span.from, to: right.span.to };
  return {
    kind: 'binary',
    op,
    left,
    right,
    opSpan: { ...p.span(opToken), to: opToken.from + op.length },
    span,
  };
}

export function parseUnary(p: TokenCursor): Expr {
  const token = p.peek;
  if (token.kind === 'symbol' && ['-', '!', '~', '&', '*'].includes(token.text)) {
    p.next();
    p.enter();
    const of = parseUnary(p);
    p.depth--;
    return { kind: 'unary', op: token.text as '-', of, span: p.from(token) };
  }
  if (token.text === '--' || token.text === '++') {
    throw p.fault(
      'operator',
      `"${token.text}" cannot stand before a value`,
      p.span(token),
      'Write - -x, or increment in a statement of its own.',
    );
  }
  if (token.text === '&&') {
    // && before a value is two address-of signs, which never makes sense.
    throw p.fault('operator', 'the address of an address cannot be taken', p.span(token));
  }
  return parsePostfix(p, parsePrimary(p));
}

function parsePostfix(p: TokenCursor, start: Expr): Expr {
  let of = start;
  for (let links = 0; ; links++) {
    if (links > 1000) throw p.fault('nesting', 'an expression is nested too deeply', of.span);
    const token = p.peek;
    if (token.kind !== 'symbol') return of;
    if (token.text === '[') {
      p.next();
      const index = parseExpression(p);
      p.need(']');
      of = { kind: 'index', of, index, span: { ...of.span, to: p.lastTo } };
    } else if (token.text === '.') {
      p.next();
      const name = p.peek;
      if (name.kind !== 'name') p.expected('a member');
      p.refuseWord(name);
      p.next();
      of = {
        kind: 'member',
        of,
        member: name.text,
        memberSpan: p.span(name),
        span: { ...of.span, to: p.lastTo },
      };
    } else return of;
  }
}

function parsePrimary(p: TokenCursor): Expr {
  const token = p.peek;
  if (token.kind === 'int' || token.kind === 'float') {
    p.next();
    return { kind: 'literal', text: token.text, literal: token.kind, span: p.span(token) };
  }
  if (token.kind === 'symbol' && token.text === '(') {
    p.next();
    const of = parseExpression(p);
    p.need(')');
    return { kind: 'paren', of, span: p.from(token) };
  }
  if (token.kind === 'name') {
    if (token.text === 'true' || token.text === 'false') {
      p.next();
      return { kind: 'literal', text: token.text, literal: 'bool', span: p.span(token) };
    }
    const callee = parseName(p);
    if (!p.take('(')) return callee;
    const args: Expr[] = [];
    while (!p.take(')')) {
      args.push(parseExpression(p));
      if (!p.take(',')) {
        p.need(')');
        break;
      }
    }
    const call: CallExpr = { kind: 'call', callee, args, span: p.from(token) };
    return call;
  }
  return p.expected('a value');
}

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
