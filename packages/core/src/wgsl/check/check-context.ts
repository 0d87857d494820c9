import type { Declaration, Expr, FunctionDecl, GlobalVar, Local, Module } from '../parse/ast.js';
import { BUILTINS } from '../types/builtins.js';
import { nearest } from '../../errors/near-names.js';
import { type Source, type Span, WgslFault } from '../parse/source.js';
import type { Type } from '../types/types.js';

/** A function's inside, while it is checked. */
export interface FunctionContext {
  decl: FunctionDecl;
  /** Names by block, the innermost last. */
  scopes: Map<string, Local>[];
  locals: Local[];
  calls: Set<FunctionDecl>;
  uses: Set<GlobalVar>;
  /** Where it calls functions that only some stages have. */
  staged: { name: string; stages: string[]; span: Span }[];
  /** Whether a fault was found in it. */
  isBroken: boolean;
  /** What surrounds the statement at hand. */
  surroundings: ('loop' | 'switch' | 'continuing')[];
}

/** A name where it is used, and what it means there. */
export interface Reference {
  owner: Declaration | undefined;
  source: Source;
  from: number;
  to: number;
  target: Declaration | Local;
}

/** Stands for a local whose declaration has a fault. */
const BROKEN = {} as Local;

/** What all parts of the checker share. */
export class CheckContext {
  /** Names of the module by the text they are used in: imports differ from file to file. */
  readonly scopes = new Map<Source, Map<string, Declaration>>();
  /** Every use of a name of the module or a function, in the order of checking. */
  readonly references: Reference[] = [];
  /** The declaration at hand. */
  owner: Declaration | undefined;
  readonly state = new Map<Declaration, 'open' | 'done'>();
  readonly features = new Set<string>();
  /** The function at hand; undefined at module scope. */
  fn: FunctionContext | undefined;
  /** Checks a declaration now, if it was not yet: they may be named in any order. */
  resolve!: (decl: Declaration, at: Span) => void;
  readonly order: Declaration[] = [];

  /** Notes a fault after which checking goes on. */
  report!: (fault: WgslFault) => void;

  constructor(readonly module: Module) {}

  /**
   * Does a part of the checking whose faults do not keep the rest from being checked.
   *
   * @returns whether all was well
   */
  attempt(act: () => void): boolean {
    const { fn } = this;
    const scopes = fn?.scopes.length ?? 0;
    const surroundings = fn?.surroundings.length ?? 0;
    try {
      act();
      return true;
    } catch (error) {
      if (!(error instanceof WgslFault)) throw error;
      this.report(error);
      if (fn) {
        fn.isBroken = true;
        fn.scopes.length = scopes;
        fn.surroundings.length = surroundings;
      }
      return false;
    }
  }

  /**
   * Does several parts of one expression, so that a fault in one does not hide those in the others: all but the last are
   * reported, and the last is thrown, since the whole has no type then.
   */
  each<T>(parts: readonly (() => T)[]): T[] {
    const done: T[] = [];
    let last: WgslFault | undefined;
    for (const part of parts) {
      try {
        done.push(part());
      } catch (error) {
        if (!(error instanceof WgslFault)) throw error;
        if (last) this.report(last);
        last = error;
      }
    }
    if (last) throw last;
    return done;
  }

  /** Makes a name of this block known that could not be declared: its uses say nothing more. */
  breakName(name: string): void {
    const scopes = this.fn!.scopes; // only called inside functions
    scopes[scopes.length - 1]!.set(name, BROKEN);
  }

  /** What a name of the module means at a place. */
  find(name: string, span: Span): Declaration | undefined {
    return this.scopes.get(span.source)?.get(name);
  }

  refer(name: string, span: Span, target: Declaration | Local): void {
    this.references.push({
      owner: this.owner,
      source: span.source,
      from: span.from,
      to: span.from + name.length,
      target,
    });
  }

  fault(code: string, message: string, span: Span, hint = ''): WgslFault {
    return new WgslFault(code, message, span, hint);
  }

  local(name: string): Local | undefined {
    const scopes = this.fn?.scopes;
    if (!scopes) return undefined;
    for (let i = scopes.length - 1; i >= 0; i--) {
      const found = scopes[i]!.get(name);
      if (found === BROKEN) throw this.fault('cascade', '', this.fn!.decl.nameSpan);
      if (found) return found;
    }
    return undefined;
  }

  declareLocal(local: Omit<Local, 'index'>): Local {
    const fn = this.fn!; // only called inside functions
    const scope = fn.scopes[fn.scopes.length - 1]!;
    if (scope.has(local.name)) {
      throw this.fault('redeclared', `"${local.name}" is declared twice in one block`, local.span);
    }
    const made: Local = { ...local, index: fn.locals.length };
    fn.locals.push(made);
    if (local.kind !== 'param') this.refer(local.name, local.span, made);
    scope.set(local.name, made);
    return made;
  }

  unknown(what: string, name: string, span: Span, extra: Iterable<string> = []): WgslFault {
    if (this.module.broken.has(name)) return this.fault('cascade', '', span);
    const names = new Set<string>([...(this.scopes.get(span.source)?.keys() ?? []), ...extra]);
    for (const scope of this.fn?.scopes ?? []) for (const key of scope.keys()) names.add(key);
    const near = nearest(name, names) ?? (what === 'function' ? nearest(name, BUILTINS.keys()) : undefined);
    return this.fault(
      'unknown-name',
      `there is no ${what} "${name}"`,
      span,
      near ? `Did you mean "${near}"?` : '',
    );
  }
}

/** What an expression is when its value is taken: references give what they refer to. */
export function loaded(type: Type): Type {
  return type.kind === 'ref' ? type.of : type;
}

export function unparenthesized(expr: Expr): Expr {
  let at = expr;
  while (at.kind === 'paren') at = at.of;
  return at;
}
