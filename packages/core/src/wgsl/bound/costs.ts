import type { Expr, FunctionDecl, Statement } from '../parse/ast.js';
import type { Type } from '../types/types.js';

/** What a stretch of a shader computes each time it runs. */
export interface ShaderCost {
  /** Operations on single numbers: `a + b` of two vec3f are three. Curves and roots count four, as GPUs have a quarter as many units for them. */
  operations: number;
  textureReads: number;
  /** Whether loops are in it whose turns are not known: they count `TURNS`. */
  isLeast: boolean;
}

export const noCost = (): ShaderCost => ({ operations: 0, textureReads: 0, isLeast: false });

/** Adds a cost to another, so often. */
export function addCost(to: ShaderCost, cost: ShaderCost, times = 1): void {
  to.operations += cost.operations * times;
  to.textureReads += cost.textureReads * times;
  to.isLeast ||= cost.isLeast;
}

/** How often a loop of unknown length counts. */
const TURNS = 8;

/** What GPUs compute in units of their own. */
const CURVES: ReadonlySet<string> = new Set(
  'sin cos tan asin acos atan atan2 sinh cosh tanh asinh acosh atanh exp exp2 log log2 pow sqrt inverseSqrt'.split(
    ' ',
  ),
);
/** Operations to a number of what they take, where that is not one. */
const TO_A_NUMBER: Readonly<Record<string, number>> = {
  ...{ dot: 2, length: 2, distance: 3, normalize: 3, reflect: 4, refract: 8, faceForward: 3, cross: 3 },
  ...{ mix: 3, fma: 2, clamp: 2, smoothstep: 7, step: 1, saturate: 1, sign: 2, fract: 2, transpose: 0 },
};
const FREE: ReadonlySet<string> = new Set(['bitcast', 'arrayLength', 'select']);

/** Adds up what shaders compute: functions once each, however often they are asked about. */
export class CostBook {
  private readonly functions = new Map<FunctionDecl, ShaderCost>();

  ofFunction(fn: FunctionDecl): ShaderCost {
    const known = this.functions.get(fn);
    if (known) return known;
    const cost = noCost();
    // WGSL has no recursion.
    this.functions.set(fn, cost);
    this.statements(fn.body, cost, 1);
    return cost;
  }

  ofExpression(expr: Expr): ShaderCost {
    const cost = noCost();
    this.expression(expr, cost, 1);
    return cost;
  }

  private statements(list: readonly Statement[], cost: ShaderCost, times: number): void {
    for (const one of list) this.statement(one, cost, times);
  }

  private statement(one: Statement, cost: ShaderCost, times: number): void {
    const add = (expr: Expr | undefined, by = times): void => {
      if (expr) this.expression(expr, cost, by);
    };
    switch (one.kind) {
      case 'block':
        return this.statements(one.body, cost, times);
      case 'let':
      case 'var':
        return add(one.init);
      case 'assign':
        add(one.target);
        if (one.op !== '=') cost.operations += numbersIn(one.target.type) * times;
        return add(one.value);
      case 'phony':
        return add(one.value);
      case 'step':
        cost.operations += times;
        return;
      case 'call':
        return add(one.call);
      case 'if':
        add(one.condition);
        this.statement(one.then, cost, times);
        if (one.otherwise) this.statement(one.otherwise, cost, times);
        return;
      case 'switch':
        add(one.on);
        for (const { body } of one.cases) this.statement(body, cost, times);
        return;
      case 'return':
        return add(one.value);
      case 'loop': {
        const turns = this.turns(undefined, cost) * times;
        this.statements(one.body, cost, turns);
        if (one.continuing) {
          this.statements(one.continuing.body, cost, turns);
          add(one.continuing.breakIf, turns);
        }
        return;
      }
      case 'while': {
        const turns = this.turns(undefined, cost) * times;
        add(one.condition, turns);
        return this.statement(one.body, cost, turns);
      }
      case 'for': {
        const turns = this.turns(one, cost) * times;
        if (one.init) this.statement(one.init, cost, times);
        add(one.condition, turns);
        if (one.update) this.statement(one.update, cost, turns);
        return this.statement(one.body, cost, turns);
      }
      default:
        return;
    }
  }

  /** How often a loop runs: `for (var i = 0; i < 5; i++)` five times. */
  private turns(loop: (Statement & { kind: 'for' }) | undefined, cost: ShaderCost): number {
    const { condition, init, update } = loop ?? {};
    const from = init?.kind === 'var' ? numberOf(init.init) : undefined;
    const to = condition?.kind === 'binary' ? numberOf(condition.right) : undefined;
    const isCounted = condition?.kind === 'binary' && (condition.op === '<' || condition.op === '<=');
    if (isCounted && from !== undefined && to !== undefined && update?.kind === 'step' && update.by === 1)
      return Math.max(0, to - from + (condition.op === '<=' ? 1 : 0));
    cost.isLeast = true;
    return TURNS;
  }

  private expression(expr: Expr, cost: ShaderCost, times: number): void {
    // What is known when the shader is made costs nothing.
    if (expr.value !== undefined) return;
    switch (expr.kind) {
      case 'paren':
        return this.expression(expr.of, cost, times);
      case 'unary':
        if (expr.op !== '&' && expr.op !== '*') cost.operations += numbersIn(expr.type) * times;
        return this.expression(expr.of, cost, times);
      case 'binary': {
        const product = Math.max(numbersIn(expr.left.type), numbersIn(expr.right.type));
        const isMatrix = isMat(expr.left.type) || isMat(expr.right.type);
        const own = isMatrix && expr.op === '*' ? 2 * product : numbersIn(expr.type);
        cost.operations += own * times;
        this.expression(expr.left, cost, times);
        return this.expression(expr.right, cost, times);
      }
      case 'index':
        this.expression(expr.of, cost, times);
        return this.expression(expr.index, cost, times);
      case 'member':
        return this.expression(expr.of, cost, times);
      case 'call': {
        for (const arg of expr.args) this.expression(arg, cost, times);
        const { call } = expr;
        if (call?.kind === 'function') addCost(cost, this.ofFunction(call.function), times);
        else if (call?.kind === 'builtin') builtin(call.name, expr.args, expr.type, cost, times);
      }
    }
  }
}

function builtin(
  name: string,
  args: readonly Expr[],
  type: Type | undefined,
  cost: ShaderCost,
  times: number,
): void {
  if (/^texture(Sample|Load|Gather)/.test(name)) {
    cost.textureReads += times;
    return;
  }
  if (FREE.has(name) || /^(texture|pack|unpack)/.test(name)) return;
  const numbers = Math.max(numbersIn(type), numbersIn(args[0]?.type));
  const root = name === 'length' || name === 'distance' || name === 'normalize' ? 4 : 0;
  const each = CURVES.has(name) ? 4 : (TO_A_NUMBER[name] ?? 1);
  cost.operations += (each * numbers + root) * times;
}

/** Of a type, the numbers that it holds. */
function numbersIn(type: Type | undefined): number {
  switch (type?.kind) {
    case 'vec':
      return type.size;
    case 'mat':
      return type.columns * type.rows;
    case 'ref':
    case 'ptr':
      return numbersIn(type.of);
    default:
      return 1;
  }
}

const isMat = (type: Type | undefined): boolean =>
  type?.kind === 'mat' || (type?.kind === 'ref' && type.of.kind === 'mat');

function numberOf(expr: Expr | undefined): number | undefined {
  const value = expr?.value as unknown;
  return typeof value === 'number' ? value : undefined;
}
