import { LensError } from '../../errors/lens-error.js';
import { type Expr, type Statement } from '../parse/ast.js';
import { loaded } from '../check/check-context.js';
import { exprHasEffects } from '../check/effects.js';
import { findingOf, WgslFault } from '../parse/source.js';
import { I32, VOID } from '../types/types.js';
import { copyValue, type Value, zeroValue } from '../types/values.js';
import { placeOf, writeTo } from './run-places.js';
import { operationOf, readExpr } from './run-expressions.js';
import { type Evaluator, MOST_ROUNDS } from './evaluate.js';
import { type Frame, type Lane } from './lane.js';

/** How a statement ended. */
const NORMAL = 0;
const BREAK = 1;
const CONTINUE = 2;
const RETURN = 3;
export type Run = (frame: Frame) => number;

export function runBlock(e: Evaluator, body: Statement[]): Run {
  const runs = body.map((statement) => runStatement(e, statement));
  return (frame) => {
    for (const run of runs) {
      const end = run(frame);
      if (end !== NORMAL) return end;
    }
    return NORMAL;
  };
}

function runStatement(e: Evaluator, statement: Statement): Run {
  switch (statement.kind) {
    case 'block':
      return runBlock(e, statement.body);
    case 'let':
    case 'const':
    case 'var': {
      const { local, init, kind, name, nameSpan } = statement;
      const { index, type } = local!; // set by the checker
      const read = init ? readExpr(e, init) : () => zeroValue(type);
      return (frame) => {
        const value = read(frame);
        frame.locals[index] = copyValue(value);
        if (frame.lane.trace) e.note(frame.lane, nameSpan, kind, name, value, type);
        return NORMAL;
      };
    }
    case 'assign':
      return runAssign(e, statement);
    case 'phony': {
      const read = readExpr(e, statement.value);
      return (frame) => (read(frame), NORMAL);
    }
    case 'step': {
      const place = placeOf(e, statement.target);
      const isSigned = loaded(statement.target.type!) === I32;
      return (frame) => {
        const { get, set } = place(frame);
        const next = (get() as number) + statement.by;
        set(isSigned ? next | 0 : next >>> 0);
        if (frame.lane.trace)
          e.note(
            frame.lane,
            statement.span,
            'step',
            textOf(statement.target),
            get(),
            loaded(statement.target.type!),
          );
        return NORMAL;
      };
    }
    case 'call': {
      const read = readExpr(e, statement.call);
      return (frame) => (read(frame), NORMAL);
    }
    case 'if': {
      const condition = readExpr(e, statement.condition);
      const then = runStatement(e, statement.then);
      const otherwise = statement.otherwise && runStatement(e, statement.otherwise);
      return (frame) => (condition(frame) ? then(frame) : otherwise ? otherwise(frame) : NORMAL);
    }
    case 'switch': {
      const on = readExpr(e, statement.on);
      const cases = statement.cases.map((one) => ({
        values: one.selectors.map((s) => s?.value),
        run: runStatement(e, one.body),
      }));
      return (frame) => {
        const value = on(frame);
        const chosen =
          cases.find((one) => one.values.includes(value as never)) ??
          cases.find((one) => one.values.includes(undefined));
        const end = chosen?.run(frame) ?? NORMAL;
        return end === BREAK ? NORMAL : end;
      };
    }
    case 'loop':
      return runLoop(e, statement);
    case 'for':
    case 'while': {
      const init = statement.kind === 'for' && statement.init ? runStatement(e, statement.init) : undefined;
      const condition = statement.condition && readExpr(e, statement.condition);
      const update =
        statement.kind === 'for' && statement.update ? runStatement(e, statement.update) : undefined;
      const body = runStatement(e, statement.body);
      return (frame) => {
        init?.(frame);
        while (!condition || condition(frame)) {
          burn(frame.lane, statement.span);
          const end = body(frame);
          if (end === BREAK) break;
          if (end === RETURN) return RETURN;
          update?.(frame);
        }
        return NORMAL;
      };
    }
    case 'break':
      return () => BREAK;
    case 'continue':
      return () => CONTINUE;
    case 'discard':
      return (frame) => {
        frame.lane.isDiscarded = true;
        if (frame.lane.trace) e.note(frame.lane, statement.span, 'discard', 'discard', undefined, VOID);
        return NORMAL;
      };
    case 'return': {
      const { value, span } = statement;
      if (!value) return () => RETURN;
      const read = readExpr(e, value);
      return (frame) => {
        const result = copyValue(read(frame));
        (frame as Frame & { result: Value }).result = result;
        if (frame.lane.trace) e.note(frame.lane, span, 'return', '', result, loaded(value.type!));
        return RETURN;
      };
    }
    default:
      return () => NORMAL;
  }
}

function runLoop(e: Evaluator, statement: Statement & { kind: 'loop' }): Run {
  const body = runBlock(e, statement.body);
  const continuing = statement.continuing && runBlock(e, statement.continuing.body);
  const breakIf = statement.continuing?.breakIf && readExpr(e, statement.continuing.breakIf);
  return (frame) => {
    for (;;) {
      burn(frame.lane, statement.span);
      const end = body(frame);
      if (end === BREAK) return NORMAL;
      if (end === RETURN) return RETURN;
      continuing?.(frame);
      if (breakIf?.(frame)) return NORMAL;
    }
  };
}

function runAssign(e: Evaluator, statement: Statement & { kind: 'assign' }): Run {
  const { target, op, value, span } = statement;
  const right = readExpr(e, value);
  const type = loaded(target.type!);
  const operate = op === '=' ? undefined : operationOf(op, type, loaded(value.type!));
  const told = (frame: Frame, result: Value): number => {
    if (frame.lane.trace) e.note(frame.lane, span, 'assign', textOf(target), result, type);
    return NORMAL;
  };
  if (exprHasEffects(value) || exprHasEffects(target)) {
    // The left side is found, and read, before the right side changes anything.
    const place = placeOf(e, target);
    return (frame) => {
      const { get, set } = place(frame);
      const before = operate ? copyValue(get()) : 0;
      const result = operate ? operate(before, right(frame)) : copyValue(right(frame));
      set(result);
      return told(frame, result);
    };
  }
  const write = writeTo(e, target);
  if (!operate) {
    return (frame) => {
      const result = right(frame);
      write(frame, copyValue(result));
      return told(frame, result);
    };
  }
  const left = readExpr(e, target);
  return (frame) => {
    const result = operate(left(frame), right(frame));
    write(frame, result);
    return told(frame, result);
  };
}

function burn(lane: Lane, span: Expr['span']): void {
  if (--lane.fuel > 0) return;
  const { file, line, column } = findingOf(new WgslFault('', '', span));
  throw new LensError('wgsl/too-long', `a loop went on for more than ${MOST_ROUNDS} rounds`, {
    where: { file, line, column },
  });
}

function textOf(expr: Expr): string {
  return expr.span.source.text.slice(expr.span.from, expr.span.to);
}
