import { nearest } from '../../errors/near-names.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import type { Shader } from '../compile.js';
import type { CallExpr, Expr, FunctionDecl, Statement } from '../parse/ast.js';
import { type Finding, findingOf, WgslFault } from '../parse/source.js';
import { mayBeNegative } from './displacement.js';
import { statementsIn } from './statements.js';

/** Which space a member of the library's structures is in. */
const SPACES: Readonly<Record<string, string>> = {
  viewNormal: 'of the camera',
  viewPosition: 'of the camera',
  objectNormal: 'of the object',
  objectPosition: 'of the object',
  normal: 'of the world',
  toCamera: 'of the world',
  position: 'of the world',
  direction: 'of the world',
};

/**
 * What is right by the language and seldom meant, in the functions of one file: warnings.
 *
 * @param hooks names of the functions that the library calls
 */
export function doubtsIn(shader: Shader, file: string, hooks: readonly string[]): Finding[] {
  const { checked } = shader;
  const own = checked.functions.filter((fn) => fn.nameSpan.source.file === file);
  const found: Finding[] = [];
  const tell = (code: string, message: string, span: Expr['span'], hint: string): void =>
    void found.push({ ...findingOf(new WgslFault(code, message, span, hint)), severity: 'warning' });
  const called = new Set(checked.functions.flatMap((fn) => [...(fn.calls ?? [])]));
  for (const fn of own) {
    const near = hooks.includes(fn.name) || called.has(fn) ? undefined : nearest(fn.name, hooks);
    if (near !== undefined)
      tell('near-hook', `nobody calls "${fn.name}"`, fn.nameSpan, `Did you mean the hook "${near}"?`);
    const negative = mayBeNegative(fn);
    eachExpr(fn, (expr) => {
      if (expr.kind !== 'call') return;
      if (negative.has(expr))
        tell(
          'negative-pow',
          'the base of pow may be negative here, which gives no number',
          expr.span,
          'Keep it above 0: saturate(...), max(..., 0) or abs(...).',
        );
      doubtDot(expr, tell);
    });
    if (fn.returnType?.kind === 'struct' && fn.returnType.name === 'Surface') eachAssigned(fn, tell);
  }
  return found;
}

type Tell = (code: string, message: string, span: Expr['span'], hint: string) => void;

function doubtDot(expr: CallExpr, tell: Tell): void {
  if (expr.call?.kind !== 'builtin' || expr.call.name !== 'dot') return;
  const [a, b] = expr.args.map(spaceOf);
  if (a === undefined || b === undefined || a === b) return;
  tell(
    'mixed-spaces',
    `this dot product takes one vector ${a} and one ${b}`,
    expr.span,
    'Take both in one space: normal, toCamera and light directions are of the world.',
  );
}

function spaceOf(expr: Expr): string | undefined {
  const at = unparenthesized(expr);
  if (at.kind === 'unary') return spaceOf(at.of);
  if (at.kind === 'call' && at.call?.kind === 'builtin' && at.call.name === 'normalize')
    return spaceOf(at.args[0]!); // it takes one
  if (at.kind !== 'member') return undefined;
  const of = loaded(at.of.type!);
  return of.kind === 'struct' && ['Fragment', 'Light'].includes(of.name) ? SPACES[at.member] : undefined;
}

/** Normals that are given back as sums or products. */
function eachAssigned(fn: FunctionDecl, tell: Tell): void {
  const visit = (statement: Statement): void => {
    if (statement.kind === 'assign') {
      const target = unparenthesized(statement.target);
      const value = unparenthesized(statement.value);
      const isNormal =
        target.kind === 'member' && target.member === 'normal' && loaded(target.of.type!).kind === 'struct';
      const isSum =
        statement.op !== '=' ||
        (value.kind === 'binary' && ['+', '-', '*'].includes(value.op)) ||
        (value.kind === 'call' && value.call?.kind === 'builtin' && value.call.name === 'mix');
      if (isNormal && isSum)
        tell(
          'unnormalized',
          'the normal that is given back may not be of length 1',
          statement.span,
          'Write normalize(...) around it.',
        );
    }
    statementsIn(statement).forEach(visit);
  };
  fn.body.forEach(visit);
}

function eachExpr(fn: FunctionDecl, act: (expr: Expr) => void): void {
  const inExpr = (expr: Expr): void => {
    act(expr);
    switch (expr.kind) {
      case 'paren':
      case 'unary':
      case 'member':
        return inExpr(expr.of);
      case 'index':
        inExpr(expr.of);
        return inExpr(expr.index);
      case 'binary':
        inExpr(expr.left);
        return inExpr(expr.right);
      case 'call':
        return expr.args.forEach(inExpr);
      default:
    }
  };
  const inStatement = (statement: Statement): void => {
    exprsIn(statement).forEach(inExpr);
    statementsIn(statement).forEach(inStatement);
  };
  fn.body.forEach(inStatement);
}

function exprsIn(statement: Statement): Expr[] {
  switch (statement.kind) {
    case 'let':
    case 'const':
    case 'var':
      return statement.init ? [statement.init] : [];
    case 'assign':
      return [statement.target, statement.value];
    case 'phony':
      return [statement.value];
    case 'call':
      return [statement.call];
    case 'if':
    case 'while':
      return [statement.condition];
    case 'for':
      return statement.condition ? [statement.condition] : [];
    case 'switch':
      return [statement.on];
    case 'return':
      return statement.value ? [statement.value] : [];
    default:
      return [];
  }
}
