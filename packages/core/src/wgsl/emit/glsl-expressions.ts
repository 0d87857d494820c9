import { type CallExpr, type Expr, type GlobalVar } from '../parse/ast.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import { exprHasEffects } from '../check/effects.js';
import {
  BOOL,
  concrete,
  elementScalar,
  F32,
  I32,
  type Struct,
  type Type,
  U32,
  VOID,
} from '../types/types.js';
import { type GlslState } from './glsl-state.js';
import { heldIn, literalText, rowText, structOf, typeText, zeroText } from './glsl-types.js';
import { globalName } from './glsl-globals.js';
import { callFunctionText } from './glsl-functions.js';
import { baseOf, inRow, placeText } from './glsl-places.js';
import { bufferPlace, loadText } from './glsl-buffers.js';
import { builtinText } from './glsl-builtins.js';

export function exprText(glsl: GlslState, expr: Expr): string {
  if (expr.value !== undefined) return constantText(glsl, expr);
  const type = expr.type!;
  if (type.kind === 'ref') {
    const buffer = bufferPlace(glsl, expr);
    if (buffer) return loadText(glsl, buffer, type.of);
  }
  switch (expr.kind) {
    case 'paren':
      return exprText(glsl, expr.of);
    case 'name':
      return placeText(glsl, expr);
    case 'unary':
      if (expr.op === '*') return placeText(glsl, expr.of);
      if (expr.op === '!')
        return loaded(type) === BOOL ? `(!${exprText(glsl, expr.of)})` : `not(${exprText(glsl, expr.of)})`;
      return `(${expr.op}${exprText(glsl, expr.of)})`;
    case 'binary': {
      if ((expr.op === '&&' || expr.op === '||') && exprHasEffects(expr.right)) return lazyText(glsl, expr);
      const [left = '', right = ''] = orderedTexts(glsl, [expr.left, expr.right]);
      return operationText(
        glsl,
        expr.op,
        left,
        right,
        loaded(expr.left.type!),
        loaded(expr.right.type!),
        expr.right,
      );
    }
    case 'member': {
      const via = expr.via!;
      const of = baseText(glsl, expr.of);
      if (via.kind === 'swizzle') return `${of}.${via.components.map((k) => 'xyzw'[k]).join('')}`;
      return `${of}.${structOf(glsl, baseOf(expr.of) as Struct).members[via.index]}`;
    }
    case 'index':
      return `${baseText(glsl, expr.of)}[${exprText(glsl, expr.index)}]${inRow(expr.of)}`;
    case 'call':
      return callText(glsl, expr);
    default:
      return '';
  }
}

/**
 * Texts of expressions that are evaluated from left to right. GLSL leaves that order open, so where
 * one of them changes memory, it and what stands before it are evaluated ahead, each into a name.
 */
export function orderedTexts(
  glsl: GlslState,
  exprs: Expr[],
  write: (expr: Expr) => string = (e) => exprText(glsl, e),
): string[] {
  const last = exprs.findLastIndex(exprHasEffects);
  if (last < 0 || exprs.filter((e) => e.value === undefined).length < 2) return exprs.map(write);
  return exprs.map((expr, i) => {
    const type = loaded(expr.type!);
    const stays =
      i > last ||
      expr.value !== undefined ||
      type.kind === 'ptr' ||
      type.kind === 'texture' ||
      type.kind === 'sampler';
    const text = write(expr);
    if (stays || type === VOID) return text;
    return heldIn(glsl, 'held', type, text);
  });
}

/** `&&` and `||` whose right side changes memory: only evaluated when it counts. */
function lazyText(glsl: GlslState, expr: Expr & { kind: 'binary' }): string {
  const result = heldIn(glsl, 'held', BOOL, exprText(glsl, expr.left));
  glsl.line(`if (${expr.op === '&&' ? '' : '!'}${result}) {`);
  glsl.inner(() => glsl.line(`${result} = ${exprText(glsl, expr.right)};`));
  glsl.line('}');
  return result;
}

function baseText(glsl: GlslState, expr: Expr): string {
  const type = loaded(expr.type!);
  if (type.kind !== 'ptr') return exprText(glsl, expr);
  const buffer = bufferPlace(glsl, expr);
  return buffer ? loadText(glsl, buffer, type.of) : placeText(glsl, expr);
}

function constantText(glsl: GlslState, expr: Expr): string {
  const type = concrete(loaded(expr.type!));
  const inner = unparenthesized(expr);
  // Large constants are named once instead of repeated.
  if (inner.kind === 'name' && (type.kind === 'array' || type.kind === 'struct')) {
    const decl = inner.target;
    if (decl && 'index' in decl && glsl.locals.has(decl)) return glsl.locals.get(decl)!;
    if (decl && !('index' in decl)) return globalName(glsl, decl as GlobalVar);
  }
  return literalText(glsl, expr.value!, type);
}

export function operationText(
  glsl: GlslState,
  op: string,
  a: string,
  b: string,
  left: Type,
  right: Type,
  rightExpr: Expr,
): string {
  const of = elementScalar(left)!;
  const isVector = left.kind === 'vec' || right.kind === 'vec';
  const shape = left.kind === 'vec' ? left : right;
  switch (op) {
    case '/':
    case '%': {
      if (of === F32 && op === '/') break;
      if (op === '/' || of !== F32) {
        const divisor = rightExpr.value;
        const isPlain =
          divisor !== undefined &&
          (Array.isArray(divisor) ? divisor : [divisor]).every((v) => v !== 0 && v !== -1);
        if (isPlain && (op === '/' || of === U32)) break;
      }
      // Helpers take operands of one shape.
      const widen = (text: string, type: Type): string =>
        isVector && type.kind === 'scalar' ? `${typeText(glsl, shape)}(${text})` : text;
      return `${glsl.helpers.use(op === '/' ? 'umber_div' : 'umber_mod')}(${widen(a, left)}, ${widen(b, right)})`;
    }
    case '<<':
    case '>>':
      return `(${a} ${op} (${b} & 31u))`;
    case '&':
    case '|':
      if (of === BOOL)
        return isVector
          ? `${typeText(glsl, shape)}(${typeText(glsl, shape).replace('b', 'i')}(${a}) ${op} ${typeText(glsl, shape).replace('b', 'i')}(${b}))`
          : `bool(int(${a}) ${op} int(${b}))`;
      break;
    case '==':
    case '!=':
    case '<':
    case '<=':
    case '>':
    case '>=':
      if (isVector) {
        const name = {
          '==': 'equal',
          '!=': 'notEqual',
          '<': 'lessThan',
          '<=': 'lessThanEqual',
          '>': 'greaterThan',
          '>=': 'greaterThanEqual',
        }[op];
        return `${name}(${a}, ${b})`;
      }
      break;
    default:
  }
  return `(${a} ${op} ${b})`;
}

function callText(glsl: GlslState, expr: CallExpr): string {
  const call = expr.call!;
  if (call.kind === 'construct') return constructText(glsl, expr);
  if (call.kind === 'function') return callFunctionText(glsl, expr, call.function);
  return builtinText(glsl, call.name, expr);
}

function constructText(glsl: GlslState, expr: CallExpr): string {
  const type = expr.type!;
  const text = typeText(glsl, type);
  if (expr.args.length === 0) return zeroText(glsl, type);
  const args = orderedTexts(glsl, expr.args);
  const from = expr.args.map((arg) => loaded(arg.type!));
  if (type.kind === 'scalar' || type.kind === 'vec') {
    const to = elementScalar(type)!;
    const converted = args.map((arg, i) => {
      const given = from[i]!; // one each
      const source = elementScalar(given)!;
      const sizes = [given.kind === 'vec' ? given.size : 1];
      if (source === F32 && to === I32) return `${glsl.helpers.use('umber_toInt', sizes)}(${arg})`;
      if (source === F32 && to === U32) return `${glsl.helpers.use('umber_toUint', sizes)}(${arg})`;
      return arg;
    });
    return `${text}(${converted.join(', ')})`;
  }
  const rows = type.kind === 'array' && type.of.kind === 'array' ? rowText(glsl, type.of) : '';
  return `${text}(${args.map((arg) => (rows ? `${rows}(${arg})` : arg)).join(', ')})`;
}
