import { LensError } from '../../errors/lens-error.js';
import { type Expr, type FunctionDecl, type GlobalVar } from '../parse/ast.js';
import { type CheckedModule } from '../check/check.js';
import { findingOf, WgslFault } from '../parse/source.js';
import { type Type, VOID } from '../types/types.js';
import { copyValue, type Value, zeroValue } from '../types/values.js';
import { type Run, runBlock } from './run-statements.js';
import { readExpr } from './run-expressions.js';
import { type Frame, type Lane, type Resources, type TraceStep } from './lane.js';

/** Rounds of loops that one invocation may take before it counts as endless. */
export const MOST_ROUNDS = 5_000_000;

/** Turns checked functions into JavaScript closures, each once; no text is ever run as code. */
export class Evaluator {
  private readonly calls = new Map<FunctionDecl, Call>();

  constructor(readonly checked: CheckedModule) {}

  lane(resources: Resources = {}, trace?: TraceStep[]): Lane {
    const memory = new Map<GlobalVar, Value>();
    const lane: Lane = {
      memory,
      resources,
      isDiscarded: false,
      fuel: MOST_ROUNDS,
      trace,
      asked: [],
      answers: [],
      depth: 0,
    };
    for (const global of this.checked.globals) {
      if (global.form === 'const') continue;
      if (global.space === 'handle') continue;
      const given = resources[global.name];
      if (given !== undefined) memory.set(global, given as Value);
      else
        memory.set(
          global,
          global.init
            ? copyValue(readExpr(this, global.init)({ locals: [], lane }))
            : zeroValue(global.type!),
        );
    }
    return lane;
  }

  function(decl: FunctionDecl): Call {
    let call = this.calls.get(decl);
    if (!call) {
      call = this.compile(decl);
      this.calls.set(decl, call);
    }
    return call;
  }

  private compile(decl: FunctionDecl): Call {
    // Compiled when first called, so that functions may stand in any order.
    let body: Run | undefined;
    return (args, lane) => {
      body ??= runBlock(this, decl.body);
      if (++lane.depth > 500)
        throw new LensError('wgsl/depth', 'functions are nested more than 500 calls deep');
      const frame: Frame & { result?: Value } = { locals: args.slice(), lane };
      if (lane.trace)
        decl.params.forEach((p, i) => this.note(lane, p.span, 'param', p.name, args[i]!, p.local!.type));
      body(frame);
      lane.depth--;
      const result = (frame as { result?: Value }).result;
      return result === undefined ? (decl.returnType === VOID ? 0 : zeroValue(decl.returnType!)) : result;
    };
  }

  note(
    lane: Lane,
    span: Expr['span'],
    kind: string,
    name: string,
    value: Value | undefined,
    type: Type,
  ): void {
    if (!lane.trace || lane.trace.length >= 100_000) return;
    const { file, line } = findingOf(new WgslFault('', '', span));
    const kept =
      value !== undefined && typeof value === 'object' && !Array.isArray(value) ? undefined : value;
    lane.trace.push({
      file,
      line,
      kind,
      name,
      value: kept === undefined ? undefined : copyValue(kept),
      type,
    });
  }
}

type Call = (args: Value[], lane: Lane) => Value;
