import { type BinaryOp, type Expr, type Statement, type SwitchCase } from './ast.js';
import { type Token } from './scan.js';
import { WgslFault } from './source.js';
import { type TokenCursor } from './token-cursor.js';
import { parseExpression, parseTemplates, parseType, parseUnary } from './parse-expressions.js';
import { noAttributes } from './parse.js';
import { checkControlAttributes, parseAttributes } from './parse-attributes.js';

export function parseBlock(p: TokenCursor): Statement[] {
  p.need('{');
  p.enter();
  const body: Statement[] = [];
  readStatements(p, body);
  p.depth--;
  return body;
}

/** Statements up to the closing brace. After a fault of form it goes on behind the statement that has it. */
function readStatements(p: TokenCursor, body: Statement[], take?: () => boolean): void {
  while (!p.take('}')) {
    if (p.peek.kind === 'end' || (OUTER.has(p.peek.text) && p.beginsLine())) throw unclosed(p);
    const { at, depth } = p;
    try {
      if (take?.()) return;
      body.push(parseStatement(p));
    } catch (error) {
      // A block that is never closed is for the module to go on after.
      if (error instanceof UnclosedFault) throw error;
      p.recover(error, at, STATEMENTS);
      p.depth = depth;
    }
  }
}

/** Words that begin a declaration of the module and no statement. */
const OUTER = new Set(['fn', 'struct', 'alias', 'override', 'enable', 'requires']);
const STATEMENTS = new Set([
  'let',
  'var',
  'const',
  'if',
  'for',
  'while',
  'loop',
  'switch',
  'return',
  'break',
  'continue',
  'discard',
  ...OUTER,
]);

/** A block that is not closed: what comes next belongs to the module again. */
class UnclosedFault extends WgslFault {}

function unclosed(p: TokenCursor): WgslFault {
  if (p.peek.fault) return p.peek.fault;
  const found = p.peek.kind === 'end' ? 'the text ends' : `there is "${p.peek.text}"`;
  return new UnclosedFault('expected', `"}" is expected here, but ${found}`, p.span(p.peek));
}

function parseStatement(p: TokenCursor): Statement {
  const start = p.peek;
  if (p.take(';')) return { kind: 'empty', span: p.from(start) };
  const attributes = parseAttributes(p);
  checkControlAttributes(attributes);
  const word = p.peek;
  const takesAttributes = ['if', 'switch', 'loop', 'for', 'while'].includes(word.text) || word.text === '{';
  if (attributes.length > 0 && !takesAttributes) noAttributes(p, attributes);
  if (word.text === '{' && word.kind === 'symbol') {
    const body = parseBlock(p);
    return { kind: 'block', body, attributes, span: p.from(start) };
  }
  if (word.kind === 'name') {
    switch (word.text) {
      case 'if':
        return parseIf(p, start);
      case 'switch':
        return parseSwitch(p, start);
      case 'loop':
        return parseLoop(p, start);
      case 'for':
        return parseFor(p, start);
      case 'while': {
        p.next();
        const condition = parseExpression(p);
        return { kind: 'while', condition, body: parseBlockStatement(p), span: p.from(start) };
      }
      case 'break':
      case 'continue':
      case 'discard': {
        p.next();
        if (word.text === 'break' && p.peek.text === 'if') {
          throw p.fault('break-if', '"break if" may only end a continuing block', p.span(p.peek));
        }
        p.need(';');
        return { kind: word.text, span: p.from(start) };
      }
      case 'return': {
        p.next();
        const value = p.peek.text === ';' ? undefined : parseExpression(p);
        p.need(';');
        return { kind: 'return', value, span: p.from(start) };
      }
      case 'const_assert': {
        p.next();
        const condition = parseExpression(p);
        p.need(';');
        return { kind: 'const_assert', condition, span: p.from(start) };
      }
      default:
    }
  }
  const simple = parseSimple(p);
  p.need(';');
  return simple;
}

function parseBlockStatement(p: TokenCursor): Statement {
  const start = p.peek;
  const attributes = parseAttributes(p);
  checkControlAttributes(attributes);
  const body = parseBlock(p);
  return { kind: 'block', body, attributes, span: p.from(start) };
}

function parseIf(p: TokenCursor, start: Token): Statement {
  p.next();
  p.enter();
  const condition = parseExpression(p);
  const then = parseBlockStatement(p);
  let otherwise: Statement | undefined;
  if (p.takeWord('else')) {
    const elseStart = p.peek;
    otherwise = p.peek.text === 'if' ? parseIf(p, elseStart) : parseBlockStatement(p);
  }
  p.depth--;
  return { kind: 'if', condition, then, otherwise, span: p.from(start) };
}

function parseSwitch(p: TokenCursor, start: Token): Statement {
  p.next();
  const on = parseExpression(p);
  checkControlAttributes(parseAttributes(p));
  p.need('{');
  const cases: SwitchCase[] = [];
  while (!p.take('}')) {
    const caseStart = p.peek;
    const selectors: (Expr | undefined)[] = [];
    if (p.takeWord('default')) {
      selectors.push(undefined);
    } else if (p.takeWord('case')) {
      do {
        if (p.peek.text === ':' || p.peek.text === '{' || p.peek.text === '@') break;
        selectors.push(p.takeWord('default') ? undefined : parseExpression(p));
      } while (p.take(','));
      if (selectors.length === 0) p.expected('a value to compare with');
    } else {
      p.expected('case or default');
    }
    p.take(':');
    cases.push({ selectors, body: parseBlockStatement(p), span: p.from(caseStart) });
  }
  return { kind: 'switch', on, cases, span: p.from(start) };
}

function parseLoop(p: TokenCursor, start: Token): Statement {
  p.next();
  checkControlAttributes(parseAttributes(p));
  p.need('{');
  p.enter();
  const body: Statement[] = [];
  let continuing: (Statement & { kind: 'loop' })['continuing'];
  readStatements(p, body, () => {
    const at = p.peek;
    if (!p.takeWord('continuing')) return false;
    continuing = parseContinuing(p, at);
    p.need('}');
    return true;
  });
  p.depth--;
  return { kind: 'loop', body, continuing, span: p.from(start) };
}

function parseContinuing(
  p: TokenCursor,
  start: Token,
): NonNullable<(Statement & { kind: 'loop' })['continuing']> {
  checkControlAttributes(parseAttributes(p));
  p.need('{');
  const body: Statement[] = [];
  let breakIf: Expr | undefined;
  while (!p.take('}')) {
    if (p.peek.text === 'break' && p.tokens[p.at + 1]?.text === 'if') {
      p.next();
      p.next();
      breakIf = parseExpression(p);
      p.need(';');
      p.need('}');
      break;
    }
    body.push(parseStatement(p));
  }
  return { body, breakIf, span: p.from(start) };
}

function parseFor(p: TokenCursor, start: Token): Statement {
  p.next();
  p.need('(');
  const init = p.peek.text === ';' ? undefined : parseSimple(p);
  p.need(';');
  const condition = p.peek.text === ';' ? undefined : parseExpression(p);
  p.need(';');
  const update = p.peek.text === ')' ? undefined : parseSimple(p);
  if (update && ['var', 'let', 'const'].includes(update.kind)) {
    throw p.fault('for-update', 'the last part of a for may not declare a name', update.span);
  }
  p.need(')');
  return { kind: 'for', init, condition, update, body: parseBlockStatement(p), span: p.from(start) };
}

/** Declarations, assignments, increments and calls: what may also stand in the head of a for. */
function parseSimple(p: TokenCursor): Statement {
  const start = p.peek;
  if (start.kind === 'name') {
    if (start.text === 'var') {
      p.next();
      const templates = parseTemplates(p);
      const [name, nameSpan] = p.newName();
      const typeExpr = p.take(':') ? parseType(p) : undefined;
      const init = p.take('=') ? parseExpression(p) : undefined;
      return { kind: 'var', name, nameSpan, templates, typeExpr, init, span: p.from(start) };
    }
    if (start.text === 'let' || start.text === 'const') {
      p.next();
      const [name, nameSpan] = p.newName();
      const typeExpr = p.take(':') ? parseType(p) : undefined;
      p.need('=');
      return {
        kind: start.text,
        name,
        nameSpan,
        typeExpr,
        init: parseExpression(p),
        span: p.from(start),
      };
    }
    if (start.text === '_') {
      p.next();
      p.need('=');
      return { kind: 'phony', value: parseExpression(p), span: p.from(start) };
    }
  }
  const target = parseUnary(p);
  const op = p.operator();
  if (op === '++' || op === '--') {
    p.shift(op);
    return { kind: 'step', target, by: op === '++' ? 1 : -1, span: p.from(start) };
  }
  if (ASSIGNMENTS.has(op)) {
    p.shift(op);
    const value = parseExpression(p);
    return {
      kind: 'assign',
      target,
      op: op === '=' ? '=' : (op.slice(0, -1) as BinaryOp),
      value,
      span: p.from(start),
    };
  }
  if (target.kind === 'call') return { kind: 'call', call: target, span: p.from(start) };
  return p.expected('an assignment, an increment or a call');
}

const ASSIGNMENTS = new Set(['=', '+=', '-=', '*=', '/=', '%=', '&=', '|=', '^=', '<<=', '>>=']);
