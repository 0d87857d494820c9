import { type Expr, type Statement } from '../parse/ast.js';
import { loaded } from '../check/check-context.js';
import { isOverrideExpression } from '../check/check-types.js';
import { exprHasEffects, statementHasEffects } from '../check/effects.js';
import { elementScalar, I32, isInteger, U32 } from '../types/types.js';
import { type GlslState } from './glsl-state.js';
import { heldIn, literalText, typeText, zeroText } from './glsl-types.js';
import { handleOf } from './glsl-functions.js';
import { fixedPlace, placeText, pointerOf } from './glsl-places.js';
import { exprText, operationText } from './glsl-expressions.js';

function writeBody(glsl: GlslState, statement: Statement): void {
  if (statement.kind === 'block') for (const inner of statement.body) writeStatement(glsl, inner);
  else writeStatement(glsl, statement);
}

export function writeStatement(glsl: GlslState, statement: Statement): void {
  switch (statement.kind) {
    case 'block':
      glsl.line('{');
      glsl.inner(() => writeBody(glsl, statement));
      glsl.line('}');
      return;
    case 'let':
    case 'const':
    case 'var':
      writeDeclaration(glsl, statement);
      return;
    case 'assign':
    case 'step':
      glsl.line(`${simpleText(glsl, statement)};`);
      return;
    case 'phony':
      if (
        statement.value.type!.kind !== 'texture' &&
        statement.value.type!.kind !== 'sampler' &&
        hasCall(statement.value)
      )
        glsl.line(`${exprText(glsl, statement.value)};`);
      return;
    case 'call': {
      const { call } = statement.call;
      if (call?.kind === 'builtin' && call.name.endsWith('Barrier')) return;
      glsl.line(`${exprText(glsl, statement.call)};`);
      return;
    }
    case 'if': {
      const { condition } = statement;
      // Drivers leave out what stands behind a constant alone, and not behind `constant && more`.
      if (
        !statement.otherwise &&
        condition.kind === 'binary' &&
        condition.op === '&&' &&
        isOverrideExpression(condition.left)
      ) {
        glsl.line(`if (${exprText(glsl, condition.left)}) {`);
        glsl.inner(() => writeStatement(glsl, { ...statement, condition: condition.right }));
        glsl.line('}');
        return;
      }
      glsl.line(`if (${exprText(glsl, condition)}) {`);
      glsl.inner(() => writeBody(glsl, statement.then));
      if (statement.otherwise) {
        glsl.line('} else {');
        glsl.inner(() => writeBody(glsl, statement.otherwise!));
      }
      glsl.line('}');
      return;
    }
    case 'switch':
      writeSwitch(glsl, statement);
      return;
    case 'loop':
      writeLoop(glsl, statement);
      return;
    case 'while':
      if (exprHasEffects(statement.condition)) {
        glsl.line('while (true) {');
        glsl.inner(() => glsl.line(`if (!(${exprText(glsl, statement.condition)})) break;`));
      } else glsl.line(`while (${exprText(glsl, statement.condition)}) {`);
      glsl.inner(() => writeBody(glsl, statement.body));
      glsl.line('}');
      return;
    case 'for':
      writeFor(glsl, statement);
      return;
    case 'break':
    case 'continue':
      glsl.line(`${statement.kind};`);
      return;
    case 'discard':
      glsl.line('discard;');
      return;
    case 'return':
      glsl.line(statement.value ? `return ${exprText(glsl, statement.value)};` : 'return;');
      return;
    default:
  }
}

function writeDeclaration(glsl: GlslState, statement: Statement & { kind: 'let' | 'const' | 'var' }): void {
  const { local, init, name } = statement;
  const type = local!.type;
  if (type.kind === 'ptr') {
    glsl.instance.aliases.set(local!, pointerOf(glsl, init!));
    return;
  }
  if (type.kind === 'texture' || type.kind === 'sampler') {
    glsl.instance.aliases.set(local!, { kind: 'handle', global: handleOf(glsl, init!) });
    return;
  }
  // Constants are written where they are used, unless that would repeat much.
  if (statement.kind === 'const' && type.kind !== 'array' && type.kind !== 'struct') return;
  const value = init ? exprText(glsl, init) : zeroText(glsl, type);
  const fresh = glsl.names.fresh(name);
  glsl.locals.set(local!, fresh);
  glsl.line(`${statement.kind === 'const' ? 'const ' : ''}${typeText(glsl, type)} ${fresh} = ${value};`);
}

/** Assignments and steps, which may also stand in the head of a for. */
function simpleText(glsl: GlslState, statement: Statement & { kind: 'assign' | 'step' }): string {
  if (statement.kind === 'step') {
    const type = loaded(statement.target.type!);
    const left = exprHasEffects(statement.target)
      ? fixedPlace(glsl, statement.target)
      : placeText(glsl, statement.target);
    return `${left} ${statement.by > 0 ? '+=' : '-='} ${type === U32 ? '1u' : '1'}`;
  }
  const { target, op, value } = statement;
  const isHeld = exprHasEffects(value) || exprHasEffects(target);
  const left = isHeld ? fixedPlace(glsl, target) : placeText(glsl, target);
  if (op === '=') return `${left} = ${exprText(glsl, value)}`;
  if (isHeld) {
    const type = loaded(target.type!);
    const before = heldIn(glsl, 'held', type, left);
    return `${left} = ${operationText(glsl, op, before, exprText(glsl, value), type, loaded(value.type!), value)}`;
  }
  const type = loaded(target.type!);
  const plain = ['+', '-', '*'].includes(op) || (op === '/' && !isInteger(elementScalar(type)!));
  if (plain) return `${left} ${op}= ${exprText(glsl, value)}`;
  return `${left} = ${operationText(glsl, op, left, exprText(glsl, value), type, loaded(value.type!), value)}`;
}

function writeSwitch(glsl: GlslState, statement: Statement & { kind: 'switch' }): void {
  const isSigned = loaded(statement.on.type!) === I32;
  glsl.line(`switch (${exprText(glsl, statement.on)}) {`);
  glsl.inner(() => {
    for (const one of statement.cases) {
      for (const selector of one.selectors) {
        glsl.line(
          selector ? `case ${literalText(glsl, selector.value!, isSigned ? I32 : U32)}:` : 'default:',
        );
      }
      glsl.line('{');
      glsl.inner(() => writeBody(glsl, one.body));
      glsl.inner(() => glsl.line('break;'));
      glsl.line('}');
    }
  });
  glsl.line('}');
}

function writeLoop(glsl: GlslState, statement: Statement & { kind: 'loop' }): void {
  const { continuing } = statement;
  if (!continuing) {
    glsl.line('while (true) {');
    glsl.inner(() => statement.body.forEach((inner) => writeStatement(glsl, inner)));
    glsl.line('}');
    return;
  }
  // The continuing block runs at the start of every round but the first, so that continue reaches
  // it. Names it shares with the body are declared outside of both.
  const first = glsl.names.fresh('first_round');
  const hoisted = hoistVariables(glsl, statement.body);
  glsl.line('{');
  glsl.inner(() => {
    for (const text of hoisted) glsl.line(text);
    glsl.line(`bool ${first} = true;`);
    glsl.line('while (true) {');
    glsl.inner(() => {
      glsl.line(`if (!${first}) {`);
      const body: string[] = [];
      // The body is written before the block that uses its names, and put after it.
      const outer = glsl.lines;
      glsl.lines = body;
      statement.body.forEach((inner) => writeHoisted(glsl, inner));
      glsl.lines = outer;
      glsl.inner(() => {
        continuing.body.forEach((inner) => writeStatement(glsl, inner));
        if (continuing.breakIf) glsl.line(`if (${exprText(glsl, continuing.breakIf)}) break;`);
      });
      glsl.line('}');
      glsl.line(`${first} = false;`);
      glsl.lines.push(...body);
    });
    glsl.line('}');
  });
  glsl.line('}');
}

/** Declares the variables of a loop's body ahead of it. */
function hoistVariables(glsl: GlslState, body: Statement[]): string[] {
  const lines: string[] = [];
  for (const statement of body) {
    if (statement.kind !== 'let' && statement.kind !== 'var') continue;
    const { local, name } = statement;
    const type = local!.type;
    if (type.kind === 'ptr' || type.kind === 'texture' || type.kind === 'sampler') continue;
    const fresh = glsl.names.fresh(name);
    glsl.locals.set(local!, fresh);
    lines.push(`${typeText(glsl, type)} ${fresh} = ${zeroText(glsl, type)};`);
  }
  return lines;
}

function writeHoisted(glsl: GlslState, statement: Statement): void {
  if ((statement.kind === 'let' || statement.kind === 'var') && glsl.locals.has(statement.local!)) {
    const type = statement.local!.type;
    glsl.line(
      `${glsl.locals.get(statement.local!)} = ${statement.init ? exprText(glsl, statement.init) : zeroText(glsl, type)};`,
    );
    return;
  }
  writeStatement(glsl, statement);
}

function writeFor(glsl: GlslState, statement: Statement & { kind: 'for' }): void {
  glsl.line('{');
  glsl.inner(() => {
    if (statement.init) writeStatement(glsl, statement.init);
    if (exprHasEffects(statement.condition) || (statement.update && needsLines(statement.update))) {
      writeOrderedFor(glsl, statement);
      return;
    }
    const condition = statement.condition ? exprText(glsl, statement.condition) : 'true';
    const { update } = statement;
    const step = !update
      ? ''
      : update.kind === 'assign' || update.kind === 'step'
        ? simpleText(glsl, update)
        : update.kind === 'call'
          ? exprText(glsl, update.call)
          : '';
    glsl.line(`for (; ${condition}; ${step}) {`);
    glsl.inner(() => writeBody(glsl, statement.body));
    glsl.line('}');
  });
  glsl.line('}');
}

/** A for whose head needs statements of its own: the update runs at the start of every later round. */
function writeOrderedFor(glsl: GlslState, statement: Statement & { kind: 'for' }): void {
  const first = glsl.names.fresh('first_round');
  glsl.line(`bool ${first} = true;`);
  glsl.line('while (true) {');
  glsl.inner(() => {
    if (statement.update) {
      glsl.line(`if (!${first}) {`);
      glsl.inner(() => writeStatement(glsl, statement.update!));
      glsl.line('}');
      glsl.line(`${first} = false;`);
    }
    if (statement.condition) glsl.line(`if (!(${exprText(glsl, statement.condition)})) break;`);
    writeBody(glsl, statement.body);
  });
  glsl.line('}');
}

/** Whether a statement cannot be written as a single expression. */
function needsLines(statement: Statement): boolean {
  return statement.kind === 'assign'
    ? exprHasEffects(statement.value) || exprHasEffects(statement.target)
    : statement.kind === 'step'
      ? exprHasEffects(statement.target)
      : statementHasEffects(statement);
}

function hasCall(expr: Expr): boolean {
  switch (expr.kind) {
    case 'call':
      return true;
    case 'paren':
    case 'unary':
    case 'member':
      return hasCall(expr.of);
    case 'binary':
      return hasCall(expr.left) || hasCall(expr.right);
    case 'index':
      return hasCall(expr.of) || hasCall(expr.index);
    default:
      return false;
  }
}
