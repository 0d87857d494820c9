import { type GlobalVar } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import { concrete, isConstructible, typeName } from '../types/types.js';
import {
  SPACES,
  ACCESSES,
  typeOf,
  enumerant,
  isOverrideExpression,
  defaultAccess,
  spaceProblem,
} from './check-types.js';
import { valueOf, convertTo, constantOf } from './check-expressions.js';
import { attributeNumber } from './check-attributes.js';

/** Checks a variable, constant or override of the module. */
export function checkGlobal(c: CheckContext, decl: GlobalVar): void {
  if (decl.form === 'const') {
    const type = decl.typeExpr && typeOf(c, decl.typeExpr);
    if (type && !isConstructible(type))
      throw c.fault('const', `a const cannot be of type ${typeName(type)}`, decl.typeExpr!.span);
    const init = decl.init!; // the parser demands it
    valueOf(c, init);
    if (type) convertTo(c, init, type, `"${decl.name}"`);
    decl.value = constantOf(c, init, 'a const');
    decl.type = init.type!;
    return;
  }
  if (decl.form === 'override') {
    checkOverride(c, decl);
    return;
  }
  checkVariable(c, decl);
}

function checkOverride(c: CheckContext, decl: GlobalVar): void {
  for (const attribute of decl.attributes) {
    if (attribute.name !== 'id')
      throw c.fault('attribute-place', `@${attribute.name} cannot stand here`, attribute.span);
    const id = attributeNumber(c, attribute);
    if (id > 65535) throw c.fault('attribute', `@id(${id}) is above 65535`, attribute.span);
    decl.overrideId = id;
  }
  let type = decl.typeExpr && typeOf(c, decl.typeExpr);
  if (decl.init) {
    valueOf(c, decl.init);
    type ??= concrete(decl.init.type!);
    convertTo(c, decl.init, type, `"${decl.name}"`);
    if (!isOverrideExpression(decl.init))
      throw c.fault(
        'override',
        "an override's value must be known when the pipeline is made",
        decl.init.span,
      );
  }
  if (!type) throw c.fault('override', `"${decl.name}" needs a type or a value`, decl.nameSpan);
  if (type.kind !== 'scalar')
    throw c.fault('override', `an override is a scalar, not ${typeName(type)}`, decl.nameSpan);
  decl.type = type;
}

function checkVariable(c: CheckContext, decl: GlobalVar): void {
  const [spaceExpr, accessExpr, ...rest] = decl.templates ?? [];
  if (rest.length > 0)
    throw c.fault('template', 'var takes an address space and an access mode', rest[0]!.span);
  let type = decl.typeExpr && typeOf(c, decl.typeExpr);
  const space = spaceExpr ? enumerant(c, spaceExpr, SPACES, 'an address space') : 'handle';
  if (space === 'function')
    throw c.fault(
      'space',
      'variables of the module cannot be in the function address space',
      spaceExpr!.span,
    );
  if (accessExpr && space !== 'storage')
    throw c.fault('space', 'only storage has an access mode', accessExpr.span);
  const access = accessExpr ? enumerant(c, accessExpr, ACCESSES, 'an access mode') : defaultAccess(space);
  if (access === 'write')
    throw c.fault('space', 'storage cannot be write-only', accessExpr!.span, 'Use read_write.');
  if (decl.init) {
    if (space !== 'private')
      throw c.fault(
        'initializer',
        `a ${space === 'handle' ? 'resource' : space} variable cannot have a value to start with`,
        decl.init.span,
      );
    valueOf(c, decl.init);
    type ??= concrete(decl.init.type!);
    convertTo(c, decl.init, type, `"${decl.name}"`);
    if (!isOverrideExpression(decl.init)) {
      throw c.fault(
        'initializer',
        'the value a variable of the module starts with must be known when the shader is made',
        decl.init.span,
      );
    }
  }
  if (!type) throw c.fault('type', `"${decl.name}" needs a type`, decl.nameSpan);
  const problem = spaceProblem(space, type, access);
  if (problem) {
    const hint =
      space === 'handle' ? 'Write var<private>, var<uniform>, var<storage> or var<workgroup>.' : '';
    throw c.fault('space', problem, decl.typeExpr?.span ?? decl.nameSpan, hint);
  }
  Object.assign(decl, { type, space, access });
  const isResource = space === 'handle' || space === 'uniform' || space === 'storage';
  for (const attribute of decl.attributes) {
    if (attribute.name !== 'group' && attribute.name !== 'binding')
      throw c.fault('attribute-place', `@${attribute.name} cannot stand here`, attribute.span);
    if (!isResource)
      throw c.fault(
        'attribute-place',
        `@${attribute.name} is for resources, not for ${space} variables`,
        attribute.span,
      );
    if (decl[attribute.name] !== undefined)
      throw c.fault('attribute', `@${attribute.name} is given twice`, attribute.span);
    decl[attribute.name] = attributeNumber(c, attribute);
  }
  if (isResource && (decl.group === undefined) !== (decl.binding === undefined)) {
    throw c.fault(
      'binding',
      `"${decl.name}" has only one of @group and @binding`,
      decl.nameSpan,
      'Give both, or leave both to the linker.',
    );
  }
}
