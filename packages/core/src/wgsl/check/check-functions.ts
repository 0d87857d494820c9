import type { CheckContext } from './check-context.js';
import { type FunctionContext } from './check-context.js';
import { concrete, I32, isConstructible, typeName, U32, VOID } from '../types/types.js';
import { type FunctionDecl } from '../parse/ast.js';
import { checkAliases } from './aliases.js';
import { checkBody } from './check-statements.js';
import { typeOf, isOverrideExpression } from './check-types.js';
import { valueOf } from './check-expressions.js';
import { ioAttributes, attributeNumber } from './check-attributes.js';
import { checkEntryPoint } from './check-entry-points.js';

export function checkFunction(c: CheckContext, decl: FunctionDecl): void {
  functionAttributes(c, decl);
  const fn: FunctionContext = {
    decl,
    scopes: [new Map()],
    locals: [],
    calls: new Set(),
    uses: new Set(),
    staged: [],
    surroundings: [],
    isBroken: decl.isBroken === true,
  };
  for (const param of decl.params) {
    const type = typeOf(c, param.typeExpr);
    if (!isConstructible(type) && !['ptr', 'texture', 'sampler'].includes(type.kind)) {
      throw c.fault('param', `a parameter cannot be of type ${typeName(type)}`, param.typeExpr.span);
    }
    param.io = ioAttributes(c, param.attributes, []);
    if (!decl.stage && param.attributes.length > 0)
      throw c.fault(
        'attribute-place',
        `@${param.attributes[0]!.name} is for entry points`,
        param.attributes[0]!.span,
      );
    c.fn = fn;
    param.local = c.declareLocal({ kind: 'param', name: param.name, span: param.nameSpan, type });
    c.refer(param.name, param.nameSpan, param.local);
    c.fn = undefined;
  }
  decl.returnType = decl.returnExpr ? typeOf(c, decl.returnExpr) : VOID;
  if (decl.returnType !== VOID && !isConstructible(decl.returnType)) {
    throw c.fault('return', `a function cannot give a ${typeName(decl.returnType)}`, decl.returnExpr!.span);
  }
  decl.returnIo = ioAttributes(c, decl.returnAttributes, []);
  if (!decl.stage && decl.returnAttributes.length > 0)
    throw c.fault(
      'attribute-place',
      `@${decl.returnAttributes[0]!.name} is for entry points`,
      decl.returnAttributes[0]!.span,
    );
  c.fn = fn;
  checkBody(c, decl);
  Object.assign(decl, { locals: fn.locals, calls: fn.calls, uses: fn.uses });
  if (fn.isBroken) decl.isBroken = true;
  else checkAliases(c, decl);
  stagedIn.set(decl, fn.staged);
  // What depends on the whole body waits until it has no fault.
  if (decl.stage && !fn.isBroken) checkEntryPoint(c, decl);
}

/** Functions that only some stages have, met in a function or below it. */
export const stagedIn = new WeakMap<FunctionDecl, FunctionContext['staged']>();

function functionAttributes(c: CheckContext, decl: FunctionDecl): void {
  const seen = new Set<string>();
  for (const attribute of decl.attributes) {
    const { name, args, span } = attribute;
    if (seen.has(name) && name !== 'diagnostic') throw c.fault('attribute', `@${name} is given twice`, span);
    seen.add(name);
    switch (name) {
      case 'vertex':
      case 'fragment':
      case 'compute':
        if (args.length > 0) throw c.fault('attribute', `@${name} takes nothing`, span);
        if (decl.stage) throw c.fault('attribute', 'a function has one stage', span);
        decl.stage = name;
        break;
      case 'workgroup_size': {
        if (args.length < 1 || args.length > 3)
          throw c.fault('attribute', '@workgroup_size takes one to three numbers', span);
        decl.workgroupSize = args.map((arg, i) => {
          const type = concrete(valueOf(c, arg));
          if (type !== I32 && type !== U32)
            throw c.fault('type', 'a workgroup size is a whole number', arg.span);
          if (arg.value === undefined) {
            if (!isOverrideExpression(arg))
              throw c.fault(
                'not-constant',
                'a workgroup size must be known when the pipeline is made',
                arg.span,
              );
            return 1;
          }
          const n = attributeNumber(c, attribute, i);
          if (n < 1) throw c.fault('attribute', 'a workgroup size is 1 or more', arg.span);
          return n;
        });
        break;
      }
      case 'must_use':
        if (!decl.returnExpr)
          throw c.fault('attribute', '@must_use is for functions that give a value', span);
        break;
      case 'diagnostic':
        break;
      default:
        throw c.fault('attribute-place', `@${name} cannot stand before a function`, span);
    }
  }
  if (decl.workgroupSize && decl.stage !== 'compute')
    throw c.fault('attribute', '@workgroup_size is for compute entry points', decl.nameSpan);
  if (decl.stage === 'compute' && !decl.workgroupSize)
    throw c.fault('attribute', 'a compute entry point needs @workgroup_size', decl.nameSpan);
}
