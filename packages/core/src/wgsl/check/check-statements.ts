import type { Expr, FunctionDecl, Statement } from '../parse/ast.js';
import { BUILTINS } from '../types/builtins.js';
import { type CheckContext, loaded, unparenthesized } from './check-context.js';
import { checkExpr, concretize, constantInteger, convertTo, valueOf } from './check-expressions.js';
import { typeOf } from './check-types.js';
import { binaryTypes } from '../types/operators.js';
import type { Span } from '../parse/source.js';
import {
  BOOL,
  concrete,
  I32,
  isAbstract,
  isConstructible,
  isInteger,
  type Ptr,
  type Type,
  typeName,
  U32,
  VOID,
} from '../types/types.js';

/** How control may leave a statement (WGSL 9.7, "Statement Behavior"). */
interface Behavior {
  next: boolean;
  breaks: boolean;
  continues: boolean;
  returns: boolean;
}

const NEXT: Behavior = { next: true, breaks: false, continues: false, returns: false };

function join(a: Behavior, b: Behavior): Behavior {
  return {
    next: a.next || b.next,
    breaks: a.breaks || b.breaks,
    continues: a.continues || b.continues,
    returns: a.returns || b.returns,
  };
}

/** Checks a function's body against its types; its parameters are declared already. */
export function checkBody(c: CheckContext, decl: FunctionDecl): void {
  const behavior = sequence(c, decl.body);
  if (decl.returnType !== VOID && behavior.next && !c.fn?.isBroken) {
    throw c.fault(
      'no-return',
      `"${decl.name}" can end without giving a ${typeName(decl.returnType!)}`,
      decl.nameSpan,
      'Return a value on every way through it.',
    );
  }
}

function sequence(c: CheckContext, body: Statement[]): Behavior {
  let all: Behavior = { ...NEXT };
  for (const statement of body) {
    let behavior = NEXT;
    const isWell = c.attempt(() => (behavior = check(c, statement)));
    if (!isWell && 'nameSpan' in statement) c.breakName(statement.name);
    // What follows a jump is never reached, so it adds nothing.
    if (all.next) all = { ...join({ ...all, next: false }, behavior), next: behavior.next };
  }
  return all;
}

function block(c: CheckContext, body: Statement[]): Behavior {
  c.fn!.scopes.push(new Map());
  const behavior = sequence(c, body);
  c.fn!.scopes.pop();
  return behavior;
}

function check(c: CheckContext, statement: Statement): Behavior {
  switch (statement.kind) {
    case 'empty':
      return NEXT;
    case 'block':
      return block(c, statement.body);
    case 'let':
    case 'const':
    case 'var':
      declaration(c, statement);
      return NEXT;
    case 'assign':
      assignment(c, statement);
      return NEXT;
    case 'phony': {
      const type = valueOf(c, statement.value);
      if (isAbstract(type)) concretize(c, statement.value);
      else if (!isConstructible(type) && !['ptr', 'texture', 'sampler'].includes(type.kind)) {
        throw c.fault('value', `a value of type ${typeName(type)} cannot be assigned`, statement.value.span);
      }
      return NEXT;
    }
    case 'step': {
      const place = writable(c, statement.target);
      if (place.of !== I32 && place.of !== U32) {
        throw c.fault(
          'type',
          `only i32 and u32 can be stepped, not ${typeName(place.of)}`,
          statement.target.span,
        );
      }
      return NEXT;
    }
    case 'call': {
      const type = checkExpr(c, statement.call);
      const { call, callee } = statement.call;
      const isDropped =
        type !== VOID &&
        (call?.kind === 'construct' || (call?.kind === 'builtin' && !BUILTINS.get(call.name)?.mayDrop));
      if (isDropped) {
        throw c.fault(
          'dropped-value',
          `the value of ${callee.name} is not used`,
          statement.span,
          `Write "_ = ${callee.name}(...);" if that is meant.`,
        );
      }
      if (
        call?.kind === 'function' &&
        type !== VOID &&
        call.function.attributes.some((a) => a.name === 'must_use')
      ) {
        throw c.fault('dropped-value', `the value of "${callee.name}" must be used`, statement.span);
      }
      return NEXT;
    }
    case 'if': {
      c.attempt(() => condition(c, statement.condition));
      const then = check(c, statement.then);
      return join(then, statement.otherwise ? check(c, statement.otherwise) : NEXT);
    }
    case 'switch':
      return switchStatement(c, statement);
    case 'loop':
      return loop(c, statement);
    case 'for':
    case 'while':
      return headedLoop(c, statement);
    case 'break': {
      const around = c.fn!.surroundings;
      const last = around[around.length - 1];
      if (last === undefined)
        throw c.fault('break', '"break" must be inside a loop or a switch', statement.span);
      if (last === 'continuing')
        throw c.fault(
          'break',
          '"break" cannot leave a continuing block',
          statement.span,
          'End the block with "break if condition;".',
        );
      return { next: false, breaks: true, continues: false, returns: false };
    }
    case 'continue': {
      const around = c.fn!.surroundings.filter((s) => s !== 'switch');
      const last = around[around.length - 1];
      if (last === undefined) throw c.fault('continue', '"continue" must be inside a loop', statement.span);
      if (last === 'continuing')
        throw c.fault('continue', '"continue" cannot stand in a continuing block', statement.span);
      return { next: false, breaks: false, continues: true, returns: false };
    }
    case 'discard':
      c.fn!.staged.push({ name: 'discard', stages: ['fragment'], span: statement.span });
      return NEXT;
    case 'return': {
      if (c.fn!.surroundings.includes('continuing'))
        throw c.fault('return', '"return" cannot stand in a continuing block', statement.span);
      const wanted = c.fn!.decl.returnType!;
      if (statement.value) {
        if (wanted === VOID) {
          checkExpr(c, statement.value);
          throw c.fault('return', `"${c.fn!.decl.name}" gives no value`, statement.value.span);
        }
        valueOf(c, statement.value);
        convertTo(c, statement.value, wanted, `the value of "${c.fn!.decl.name}"`);
      } else if (wanted !== VOID) {
        throw c.fault('return', `"${c.fn!.decl.name}" must give a ${typeName(wanted)}`, statement.span);
      }
      return { next: false, breaks: false, continues: false, returns: true };
    }
    case 'const_assert':
      constAssert(c, statement.condition, statement.span);
      return NEXT;
  }
}

export function constAssert(c: CheckContext, expr: Expr, span: Span): void {
  const type = valueOf(c, expr);
  if (type !== BOOL)
    throw c.fault('type', `const_assert takes a bool, not ${typeName(concrete(type))}`, expr.span);
  if (expr.value === undefined)
    throw c.fault('not-constant', 'const_assert takes what is known when the shader is made', expr.span);
  if (expr.value === false) throw c.fault('assert', 'this const_assert does not hold', span);
}

function declaration(c: CheckContext, statement: Statement & { kind: 'let' | 'const' | 'var' }): void {
  const { name, nameSpan, kind, typeExpr, init } = statement;
  let type = typeExpr && typeOf(c, typeExpr);
  if (kind === 'var' && statement.templates) {
    const [space, ...rest] = statement.templates;
    if (rest.length > 0 || space?.kind !== 'name' || space.name !== 'function') {
      throw c.fault('space', 'variables inside functions are in the function address space', space!.span);
    }
  }
  if (init) {
    valueOf(c, init);
    if (kind !== 'const') type ??= concrete(loaded(init.type!));
    if (type) convertTo(c, init, type, `"${name}"`);
    type ??= loaded(init.type!);
  }
  if (!type) throw c.fault('type', `"${name}" needs a type or a value`, nameSpan);
  const fits = isConstructible(type) || (kind === 'let' && ['ptr', 'texture', 'sampler'].includes(type.kind));
  if (!fits)
    throw c.fault('type', `"${name}" cannot be of type ${typeName(type)}`, typeExpr?.span ?? nameSpan);
  if (kind === 'const' && init!.value === undefined) {
    throw c.fault(
      'not-constant',
      'a const must be known when the shader is made',
      init!.span,
      'Use let for values of the running program.',
    );
  }
  const value = kind === 'const' ? init!.value : undefined;
  statement.local = c.declareLocal({
    kind,
    name,
    span: nameSpan,
    type,
    ...(value === undefined ? {} : { value }),
  });
}

/** The place that a left side names, which must be writable. */
function writable(c: CheckContext, target: Expr): Ptr {
  const type = checkExpr(c, target);
  const inner = unparenthesized(target);
  if (type.kind !== 'ref') {
    const isLet = inner.kind === 'name' && inner.target && 'index' in inner.target;
    throw c.fault(
      'assign',
      'this cannot be assigned to',
      target.span,
      isLet ? 'Declare it with var to change it.' : '',
    );
  }
  if (type.access === 'read')
    throw c.fault(
      'access',
      `${type.space === 'uniform' ? 'uniforms' : 'this memory'} can only be read`,
      target.span,
    );
  return type;
}

function assignment(c: CheckContext, statement: Statement & { kind: 'assign' }): void {
  const { target, op, value } = statement;
  const parts = [() => writable(c, target), () => valueOf(c, value)] as const;
  const [place, type] = c.each<Ptr | Type>(parts) as [Ptr, Type];
  if (place.of.kind === 'atomic') throw c.fault('atomic', 'an atomic is written by atomicStore', target.span);
  if (!isConstructible(place.of))
    throw c.fault('assign', `a value of type ${typeName(place.of)} cannot be assigned`, target.span);
  const inner = unparenthesized(target);
  if (inner.kind === 'member' && inner.via?.kind === 'swizzle' && inner.via.components.length > 1) {
    const { components } = inner.via;
    if (new Set(components).size !== components.length)
      throw c.fault('assign', `"${inner.member}" names a component twice`, inner.memberSpan);
  }
  if (op === '=') {
    convertTo(c, value, place.of, 'the left side');
    return;
  }
  const types = binaryTypes(op, place.of, type);
  if (!types || types.result !== place.of) {
    throw c.fault(
      'operator',
      `there is no "${op}=" for ${typeName(place.of)} and ${typeName(concrete(type))}`,
      statement.span,
    );
  }
  convertTo(c, value, concrete(types.right), 'the right side');
  const constant = value.value;
  if (constant !== undefined && isInteger(types.left.kind === 'vec' ? types.left.of : types.left)) {
    const values = (Array.isArray(constant) ? constant : [constant]) as number[];
    if ((op === '/' || op === '%') && values.includes(0))
      throw c.fault('constant', 'division by zero', value.span);
    if ((op === '<<' || op === '>>') && values.some((v) => v >= 32))
      throw c.fault('constant', 'shifting by 32 or more leaves nothing', value.span);
  }
}

function condition(c: CheckContext, expr: Expr): void {
  const type = valueOf(c, expr);
  if (type !== BOOL) {
    throw c.fault(
      'type',
      `a condition is a bool, and this is ${typeName(concrete(type))}`,
      expr.span,
      isInteger(type) ? 'Compare it: x != 0.' : '',
    );
  }
}

function switchStatement(c: CheckContext, statement: Statement & { kind: 'switch' }): Behavior {
  c.attempt(() => switchHead(c, statement));
  c.fn!.surroundings.push('switch');
  let all: Behavior = { next: false, breaks: false, continues: false, returns: false };
  for (const one of statement.cases) all = join(all, check(c, one.body));
  c.fn!.surroundings.pop();
  return { ...all, next: all.next || all.breaks, breaks: false };
}

/** The value of a switch, and what it is compared with. */
function switchHead(c: CheckContext, statement: Statement & { kind: 'switch' }): void {
  const { on, cases } = statement;
  let type = valueOf(c, on);
  if (!isInteger(type))
    throw c.fault('type', `a switch works on i32 or u32, not ${typeName(concrete(type))}`, on.span);
  const selectors = cases.flatMap((one) => one.selectors).filter((s) => s !== undefined);
  const types = [type, ...selectors.map((s) => valueOf(c, s))];
  type = types.find((t) => t === U32 || t === I32) ?? I32;
  convertTo(c, on, type, 'the value of the switch');
  const seen = new Set<number>();
  let defaults = 0;
  for (const one of cases) {
    for (const selector of one.selectors) {
      if (!selector) {
        if (++defaults > 1) throw c.fault('switch', 'a switch has one default', one.span);
        continue;
      }
      convertTo(c, selector, type, 'a case');
      const value = constantInteger(c, selector, 'a case');
      if (seen.has(value)) throw c.fault('switch', `${value} is a case already`, selector.span);
      seen.add(value);
    }
  }
  if (defaults === 0)
    throw c.fault('switch', 'a switch needs a default', statement.span, 'Add "default: {}".');
}

function loop(c: CheckContext, statement: Statement & { kind: 'loop' }): Behavior {
  const fn = c.fn!;
  fn.surroundings.push('loop');
  fn.scopes.push(new Map());
  const behavior = sequence(c, statement.body);
  let canBreak = behavior.breaks;
  if (statement.continuing) {
    refuseSkippedDeclarations(c, statement);
    fn.surroundings[fn.surroundings.length - 1] = 'continuing';
    fn.scopes.push(new Map());
    sequence(c, statement.continuing.body);
    if (statement.continuing.breakIf) {
      condition(c, statement.continuing.breakIf);
      canBreak = true;
    }
    fn.scopes.pop();
  }
  fn.scopes.pop();
  fn.surroundings.pop();
  if (!canBreak && !behavior.returns && !fn.isBroken)
    throw c.fault(
      'endless',
      'this loop never ends',
      statement.span,
      'Leave it by break, break if or return.',
    );
  return { next: canBreak, breaks: false, continues: false, returns: behavior.returns };
}

/** A continue may not jump over a declaration that the continuing block uses. */
function refuseSkippedDeclarations(c: CheckContext, statement: Statement & { kind: 'loop' }): void {
  const firstContinue = statement.body.findIndex((s) => holdsContinue(s));
  if (firstContinue < 0) return;
  const skipped = new Set<string>();
  for (const later of statement.body.slice(firstContinue + 1)) {
    if (later.kind === 'let' || later.kind === 'const' || later.kind === 'var') skipped.add(later.name);
  }
  if (skipped.size === 0) return;
  const text = statement.continuing!.span;
  const used = [...skipped].find((name) =>
    new RegExp(`\\b${name}\\b`).test(text.source.text.slice(text.from, text.to)),
  );
  if (used !== undefined)
    throw c.fault('continue', `a "continue" jumps over "${used}", which the continuing block uses`, text);
}

function holdsContinue(statement: Statement): boolean {
  switch (statement.kind) {
    case 'continue':
      return true;
    case 'block':
      return statement.body.some(holdsContinue);
    case 'if':
      return (
        holdsContinue(statement.then) ||
        (statement.otherwise !== undefined && holdsContinue(statement.otherwise))
      );
    case 'switch':
      return statement.cases.some((one) => holdsContinue(one.body));
    default:
      return false;
  }
}

function headedLoop(c: CheckContext, statement: Statement & { kind: 'for' | 'while' }): Behavior {
  const fn = c.fn!;
  fn.scopes.push(new Map());
  if (statement.kind === 'for' && statement.init) sequence(c, [statement.init]);
  const test = statement.condition;
  if (test) c.attempt(() => condition(c, test));
  if (statement.kind === 'for' && statement.update) sequence(c, [statement.update]);
  fn.surroundings.push('loop');
  const behavior = check(c, statement.body);
  fn.surroundings.pop();
  fn.scopes.pop();
  const canEnd = statement.condition !== undefined || behavior.breaks;
  if (!canEnd && !behavior.returns && !fn.isBroken)
    throw c.fault(
      'endless',
      'this loop never ends',
      statement.span,
      'Give it a condition, or leave it by break or return.',
    );
  return { next: canEnd, breaks: false, continues: false, returns: behavior.returns };
}
