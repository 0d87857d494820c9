import type { Expr, FunctionDecl, Statement } from '../parse/ast.js';
import { unparenthesized } from './check-context.js';

/** Whether calling a function changes memory that its caller can see. */
export function hasEffects(fn: FunctionDecl): boolean {
  let known = verdicts.get(fn);
  if (known === undefined) {
    // Functions do not call themselves, so this ends.
    known = fn.body.some(statementHasEffects);
    verdicts.set(fn, known);
  }
  return known;
}

const verdicts = new WeakMap<FunctionDecl, boolean>();

/** Whether evaluating an expression changes memory. */
export function exprHasEffects(expr: Expr | undefined): boolean {
  if (!expr || expr.value !== undefined) return false;
  switch (expr.kind) {
    case 'paren':
    case 'unary':
    case 'member':
      return exprHasEffects(expr.of);
    case 'binary':
      return exprHasEffects(expr.left) || exprHasEffects(expr.right);
    case 'index':
      return exprHasEffects(expr.of) || exprHasEffects(expr.index);
    case 'call':
      if (expr.call?.kind === 'function' && hasEffects(expr.call.function)) return true;
      if (expr.call?.kind === 'builtin' && /^atomic(?!Load)|^textureStore/.test(expr.call.name)) return true;
      return expr.args.some(exprHasEffects);
    default:
      return false;
  }
}

export function statementHasEffects(statement: Statement): boolean {
  switch (statement.kind) {
    case 'block':
      return statement.body.some(statementHasEffects);
    case 'let':
    case 'const':
    case 'var':
      return exprHasEffects(statement.init);
    case 'assign':
      return !isOwn(statement.target) || exprHasEffects(statement.value) || exprHasEffects(statement.target);
    case 'step':
      return !isOwn(statement.target);
    case 'phony':
      return exprHasEffects(statement.value);
    case 'call':
      return exprHasEffects(statement.call);
    case 'if':
      return (
        exprHasEffects(statement.condition) ||
        statementHasEffects(statement.then) ||
        (statement.otherwise !== undefined && statementHasEffects(statement.otherwise))
      );
    case 'switch':
      return exprHasEffects(statement.on) || statement.cases.some((one) => statementHasEffects(one.body));
    case 'loop':
      return (
        statement.body.some(statementHasEffects) ||
        (statement.continuing?.body.some(statementHasEffects) ?? false) ||
        exprHasEffects(statement.continuing?.breakIf)
      );
    case 'for':
    case 'while':
      return (
        exprHasEffects(statement.condition) ||
        statementHasEffects(statement.body) ||
        (statement.kind === 'for' &&
          [statement.init, statement.update].some((s) => s !== undefined && statementHasEffects(s)))
      );
    case 'return':
      return exprHasEffects(statement.value);
    case 'discard':
      return true;
    default:
      return false;
  }
}

/** Whether a left side is a variable of the function's own. */
function isOwn(expr: Expr): boolean {
  const target = unparenthesized(expr);
  if (target.kind === 'name')
    return target.target !== undefined && 'index' in target.target && target.target.kind === 'var';
  return (target.kind === 'member' || target.kind === 'index') && isOwn(target.of);
}
