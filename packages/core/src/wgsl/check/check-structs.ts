import { type Attribute, type StructDecl } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import {
  alignOf,
  hasFixedFootprint,
  isPlain,
  makeStruct,
  roundUp,
  sizeOf,
  type StructMember,
  type Type,
  typeName,
} from '../types/types.js';
import { typeOf } from './check-types.js';
import { ioAttributes, attributeNumber } from './check-attributes.js';

/** Checks a structure and lays it out (WGSL 14.4). */
export function checkStruct(c: CheckContext, decl: StructDecl): void {
  if (decl.members.length === 0)
    throw c.fault('struct', `structure "${decl.name}" has no members`, decl.nameSpan);
  const names = new Set<string>();
  const members: StructMember[] = [];
  let end = 0;
  decl.members.forEach((member, i) => {
    if (names.has(member.name))
      throw c.fault('redeclared', `"${decl.name}" has two members "${member.name}"`, member.span);
    names.add(member.name);
    const type = typeOf(c, member.typeExpr);
    if (!isPlain(type))
      throw c.fault('struct', `a member cannot be of type ${typeName(type)}`, member.typeExpr.span);
    const isOpen = type.kind === 'array' && type.count === undefined;
    if (isOpen && type.isOverrideSized)
      throw c.fault('struct', 'a member cannot be an array sized by an override', member.typeExpr.span);
    if (isOpen && i < decl.members.length - 1) {
      throw c.fault('struct', 'only the last member may be an array sized at run time', member.typeExpr.span);
    }
    if (!isOpen && !hasFixedFootprint(type))
      throw c.fault(
        'struct',
        `a member cannot be of type ${typeName(type)}, whose size is not fixed`,
        member.typeExpr.span,
      );
    const { align, size } = memberLayout(c, member.attributes, type);
    const offset = roundUp(align, end);
    end = offset + size;
    members.push({
      name: member.name,
      type,
      offset,
      align,
      size,
      io: ioAttributes(c, member.attributes, ['align', 'size']),
    });
  });
  decl.type = makeStruct(decl.name, decl, members);
}

function memberLayout(c: CheckContext, attributes: Attribute[], type: Type): { align: number; size: number } {
  let align = alignOf(type);
  let size = sizeOf(type);
  for (const attribute of attributes) {
    if (attribute.name === 'align') {
      const given = attributeNumber(c, attribute);
      if (given < 1 || (given & (given - 1)) !== 0)
        throw c.fault('layout', `@align(${given}) is not a power of two`, attribute.span);
      if (given % align !== 0)
        throw c.fault(
          'layout',
          `@align(${given}) is not a multiple of the type's own alignment of ${align}`,
          attribute.span,
        );
      align = given;
    } else if (attribute.name === 'size') {
      const given = attributeNumber(c, attribute);
      if (type.kind === 'array' && type.count === undefined)
        throw c.fault('layout', 'an array sized at run time cannot have @size', attribute.span);
      if (given < size)
        throw c.fault(
          'layout',
          `@size(${given}) is less than the type's own size of ${size}`,
          attribute.span,
        );
      size = given;
    }
  }
  return { align, size };
}
