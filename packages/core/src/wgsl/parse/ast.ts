import type { Span } from './source.js';
import type { Type } from '../types/types.js';
import type { Value } from '../types/values.js';

export interface Attribute {
  name: string;
  args: Expr[];
  span: Span;
}

/** A name as used, with its template arguments: `array<f32, 4>`. */
export interface NameUse {
  kind: 'name';
  name: string;
  templates: Expr[] | undefined;
  span: Span;
  /** Set by the checker: what the name means here. */
  target?: Declaration | Local;
  type?: Type;
  value?: Value;
}

interface Typed {
  span: Span;
  /** Set by the checker. References (places in memory) are `ref` types. */
  type?: Type;
  /** The value, where it is known when the shader is made. */
  value?: Value;
}

export type Expr =
  | NameUse
  | (Typed & { kind: 'literal'; text: string; literal: 'int' | 'float' | 'bool' })
  | (Typed & { kind: 'paren'; of: Expr })
  | (Typed & { kind: 'unary'; op: '-' | '!' | '~' | '&' | '*'; of: Expr })
  | (Typed & { kind: 'binary'; op: BinaryOp; left: Expr; right: Expr; opSpan: Span })
  | (Typed & { kind: 'index'; of: Expr; index: Expr })
  | (Typed & { kind: 'member'; of: Expr; member: string; memberSpan: Span; via?: MemberAccess })
  | CallExpr;

export interface CallExpr extends Typed {
  kind: 'call';
  callee: NameUse;
  args: Expr[];
  /** Set by the checker: what is called. */
  call?: Callee;
}

export type Callee =
  | { kind: 'function'; function: FunctionDecl }
  | { kind: 'builtin'; name: string }
  /** Builds or converts a value of the call's own type. */
  | { kind: 'construct' };

export type MemberAccess =
  /** Member of a structure, by number. */
  | { kind: 'member'; index: number }
  /** Components of a vector, by number. */
  | { kind: 'swizzle'; components: number[] };

export type BinaryOp =
  | '+'
  | '-'
  | '*'
  | '/'
  | '%'
  | '&'
  | '|'
  | '^'
  | '<<'
  | '>>'
  | '&&'
  | '||'
  | '=='
  | '!='
  | '<'
  | '>'
  | '<='
  | '>=';

export type Statement =
  | { kind: 'block'; body: Statement[]; attributes: Attribute[]; span: Span }
  | {
      kind: 'let' | 'const';
      name: string;
      nameSpan: Span;
      typeExpr: Expr | undefined;
      init: Expr;
      span: Span;
      local?: Local;
    }
  | {
      kind: 'var';
      name: string;
      nameSpan: Span;
      templates: Expr[] | undefined;
      typeExpr: Expr | undefined;
      init: Expr | undefined;
      span: Span;
      local?: Local;
    }
  | { kind: 'assign'; target: Expr; op: BinaryOp | '='; value: Expr; span: Span }
  | { kind: 'phony'; value: Expr; span: Span }
  | { kind: 'step'; target: Expr; by: 1 | -1; span: Span }
  | { kind: 'call'; call: CallExpr; span: Span }
  | { kind: 'if'; condition: Expr; then: Statement; otherwise: Statement | undefined; span: Span }
  | { kind: 'switch'; on: Expr; cases: SwitchCase[]; span: Span }
  | {
      kind: 'loop';
      body: Statement[];
      continuing: { body: Statement[]; breakIf: Expr | undefined; span: Span } | undefined;
      span: Span;
    }
  | {
      kind: 'for';
      init: Statement | undefined;
      condition: Expr | undefined;
      update: Statement | undefined;
      body: Statement;
      span: Span;
    }
  | { kind: 'while'; condition: Expr; body: Statement; span: Span }
  | { kind: 'break' | 'continue' | 'discard'; span: Span }
  | { kind: 'return'; value: Expr | undefined; span: Span }
  | { kind: 'const_assert'; condition: Expr; span: Span }
  | { kind: 'empty'; span: Span };

export interface SwitchCase {
  /** undefined stands for `default`. */
  selectors: (Expr | undefined)[];
  body: Statement;
  span: Span;
}

/** A name inside a function: parameter, `let`, `const` or `var`. */
export interface Local {
  kind: 'param' | 'let' | 'const' | 'var';
  name: string;
  span: Span;
  /** Type of the value; for `var` that of what is stored. */
  type: Type;
  value?: Value;
  /** For parameters: which; for others: which of the function's locals. */
  index: number;
  /** Set when something reads or writes it through a pointer. */
  used?: boolean;
}

export interface Param {
  name: string;
  nameSpan: Span;
  span: Span;
  typeExpr: Expr;
  attributes: Attribute[];
  local?: Local;
  io?: IoAttributes;
}

/** What attributes say of an input or output of an entry point. */
export interface IoAttributes {
  builtin?: string;
  location?: number;
  secondSource?: number;
  interpolate?: string[];
  invariant?: boolean;
}

export interface FunctionDecl {
  /** A part of its body could not be read: what follows from that is not told. */
  isBroken?: boolean;
  kind: 'fn';
  name: string;
  nameSpan: Span;
  attributes: Attribute[];
  params: Param[];
  returnAttributes: Attribute[];
  returnExpr: Expr | undefined;
  body: Statement[];
  span: Span;
  bodySpan: Span;
  /** Set by the checker. */
  returnType?: Type;
  returnIo?: IoAttributes;
  stage?: 'vertex' | 'fragment' | 'compute';
  workgroupSize?: number[];
  locals?: Local[];
  calls?: Set<FunctionDecl>;
  /** Module-scope variables it names itself. */
  uses?: Set<GlobalVar>;
}

export interface StructMemberDecl {
  name: string;
  span: Span;
  attributes: Attribute[];
  typeExpr: Expr;
}

export interface StructDecl {
  kind: 'struct';
  name: string;
  nameSpan: Span;
  members: StructMemberDecl[];
  span: Span;
  type?: Type;
}

export interface AliasDecl {
  kind: 'alias';
  name: string;
  nameSpan: Span;
  typeExpr: Expr;
  span: Span;
  type?: Type;
}

export interface GlobalVar {
  kind: 'global';
  form: 'var' | 'const' | 'override';
  name: string;
  nameSpan: Span;
  attributes: Attribute[];
  templates: Expr[] | undefined;
  typeExpr: Expr | undefined;
  init: Expr | undefined;
  span: Span;
  /** Set by the checker. */
  type?: Type;
  value?: Value;
  space?: AddressSpace;
  access?: Access;
  group?: number;
  binding?: number;
  overrideId?: number;
}

export type AddressSpace =
  'function' | 'private' | 'workgroup' | 'uniform' | 'storage' | 'immediate' | 'handle';
export type Access = 'read' | 'write' | 'read_write';

export type Declaration = FunctionDecl | StructDecl | AliasDecl | GlobalVar;

export interface ConstAssert {
  kind: 'const_assert';
  condition: Expr;
  span: Span;
}

export interface Module {
  enables: { name: string; span: Span }[];
  requires: { name: string; span: Span }[];
  diagnostics: { severity: string; rule: string; span: Span }[];
  declarations: Declaration[];
  asserts: ConstAssert[];
  /** Names that stand where the text could not be read: nothing more is said of them. */
  broken: Set<string>;
}
