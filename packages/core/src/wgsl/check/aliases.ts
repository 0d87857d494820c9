import type { CallExpr, Expr, FunctionDecl, GlobalVar, Local, Statement } from '../parse/ast.js';
import { type CheckContext, unparenthesized } from './check-context.js';

/**
 * Refuses calls that hand over one variable under two names, one of them written to (WGSL 11.6, "Alias
 * Analysis"): two pointers with one root, or a pointer to a module-scope variable that the callee itself uses.
 * Functions must come after those that they call.
 */
export function checkAliases(c: CheckContext, decl: FunctionDecl): void {
  const walk = new AliasWalk(c);
  decl.body.forEach((statement) => walk.statement(statement));
  accesses.set(decl, walk.access);
}

/** The variable that a pointer or a place goes back to. */
type Root = Local | GlobalVar;

interface Access {
  reads: Set<Root>;
  writes: Set<Root>;
}

/** Parameters and module-scope variables that a function and what it calls read and write. */
const accesses = new WeakMap<FunctionDecl, Access>();

class AliasWalk {
  readonly access: Access = { reads: new Set(), writes: new Set() };
  /** Roots of pointers that were given a name by `let`. */
  private readonly named = new Map<Local, Root>();

  constructor(private readonly c: CheckContext) {}

  statement(s: Statement): void {
    switch (s.kind) {
      case 'block':
        return s.body.forEach((one) => this.statement(one));
      case 'let':
      case 'var':
      case 'const': {
        if (!s.init) return;
        this.value(s.init);
        const root = s.init.type?.kind === 'ptr' ? this.root(s.init) : undefined;
        if (root && s.local) this.named.set(s.local, root);
        return;
      }
      case 'assign':
        this.value(s.value);
        if (s.op !== '=') this.value(s.target);
        else this.place(s.target);
        return this.writes(s.target);
      case 'step':
        this.value(s.target);
        return this.writes(s.target);
      case 'phony':
        return this.value(s.value);
      case 'call':
        return this.value(s.call);
      case 'if':
        this.value(s.condition);
        this.statement(s.then);
        if (s.otherwise) this.statement(s.otherwise);
        return;
      case 'switch':
        this.value(s.on);
        return s.cases.forEach((one) => this.statement(one.body));
      case 'loop':
        s.body.forEach((one) => this.statement(one));
        s.continuing?.body.forEach((one) => this.statement(one));
        if (s.continuing?.breakIf) this.value(s.continuing.breakIf);
        return;
      case 'for':
        if (s.init) this.statement(s.init);
        if (s.condition) this.value(s.condition);
        if (s.update) this.statement(s.update);
        return this.statement(s.body);
      case 'while':
        this.value(s.condition);
        return this.statement(s.body);
      case 'return':
        if (s.value) this.value(s.value);
    }
  }

  /** An expression whose value is taken: a place is read. */
  private value(expr: Expr): void {
    this.place(expr);
    if (expr.type?.kind === 'ref') this.note(this.access.reads, this.root(expr));
  }

  /** An expression that is only named: what is computed on the way is read, the place itself is not. */
  private place(expr: Expr): void {
    switch (expr.kind) {
      case 'paren':
        return this.place(expr.of);
      case 'member':
      case 'unary':
        // A place inside a place reads nothing; a part of a value reads that value.
        return expr.type?.kind === 'ref' || expr.type?.kind === 'ptr'
          ? this.place(expr.of)
          : this.value(expr.of);
      case 'index':
        this.value(expr.index);
        return expr.type?.kind === 'ref' ? this.place(expr.of) : this.value(expr.of);
      case 'binary':
        this.value(expr.left);
        return this.value(expr.right);
      case 'call':
        expr.args.forEach((arg) => this.value(arg));
        return this.call(expr);
    }
  }

  private call(expr: CallExpr): void {
    const { call, args } = expr;
    if (call?.kind === 'builtin') return this.builtin(call.name, args);
    if (call?.kind !== 'function') return;
    const callee = accesses.get(call.function);
    if (!callee) return;
    const { reads, writes } = callee;
    const handed = { reads: new Map<Root, Expr>(), writes: new Map<Root, Expr>() };
    args.forEach((arg, i) => {
      const param = call.function.params[i]?.local;
      const root = arg.type?.kind === 'ptr' ? this.root(arg) : undefined;
      if (!root || !param) return;
      const isRead = reads.has(param);
      const isWritten = writes.has(param);
      const clash = isWritten
        ? (handed.writes.get(root) ?? handed.reads.get(root))
        : isRead
          ? handed.writes.get(root)
          : undefined;
      if (clash) this.refuse(arg, root, `another argument of "${call.function.name}" points to it too`);
      if ((isWritten && (reads.has(root) || writes.has(root))) || (isRead && writes.has(root)))
        this.refuse(arg, root, `"${call.function.name}" uses it by its own name too`);
      if (isWritten) handed.writes.set(root, arg);
      if (isRead) handed.reads.set(root, arg);
    });
    for (const root of reads) if (root.kind === 'global') this.access.reads.add(root);
    for (const root of writes) if (root.kind === 'global') this.access.writes.add(root);
    for (const root of handed.reads.keys()) this.note(this.access.reads, root);
    for (const root of handed.writes.keys()) this.note(this.access.writes, root);
  }

  private builtin(name: string, args: Expr[]): void {
    const pointer = args[0]?.type?.kind === 'ptr' ? this.root(args[0]) : undefined;
    if (!pointer) return;
    if (name.startsWith('atomic') && name !== 'atomicLoad') this.note(this.access.writes, pointer);
    if (name !== 'atomicStore' && name !== 'arrayLength') this.note(this.access.reads, pointer);
  }

  private refuse(arg: Expr, root: Root, why: string): never {
    throw this.c.fault(
      'alias',
      `"${root.name}" is written through a pointer while ${why}`,
      arg.span,
      'Copy the value into a variable of its own first.',
    );
  }

  private writes(target: Expr): void {
    this.note(this.access.writes, this.root(target));
  }

  /** Only what a caller can see matters to it. */
  private note(set: Set<Root>, root: Root | undefined): void {
    if (root && (root.kind === 'global' || root.kind === 'param')) set.add(root);
  }

  private root(expr: Expr): Root | undefined {
    const at = unparenthesized(expr);
    switch (at.kind) {
      case 'name': {
        const { target } = at;
        if (!target || target.kind === 'fn' || target.kind === 'struct' || target.kind === 'alias')
          return undefined;
        return target.kind === 'let' ? this.named.get(target) : target;
      }
      case 'unary':
      case 'member':
      case 'index':
        return this.root(at.of);
      case 'call':
        // A view into a buffer is a part of it.
        return at.call?.kind === 'builtin' && at.args[0] ? this.root(at.args[0]) : undefined;
      default:
        return undefined;
    }
  }
}
