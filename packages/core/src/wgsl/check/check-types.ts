import type {
  Access,
  AddressSpace,
  Attribute,
  Expr,
  GlobalVar,
  IoAttributes,
  NameUse,
  StructDecl,
} from '../parse/ast.js';
import { STORAGE_FORMATS } from '../types/texture-builtins.js';
import type { CheckContext } from './check-context.js';
import { constantInteger, constantOf, convertTo, valueOf } from './check-expressions.js';
import {
  alignOf,
  arr,
  atomic,
  buffer,
  concrete,
  type Dimension,
  F16,
  F32,
  hasFixedFootprint,
  holdsAtomic,
  I32,
  isAbstract,
  isConstructible,
  isHostShareable,
  isPlain,
  makeStruct,
  mat,
  ptr,
  roundUp,
  type Scalar,
  SAMPLER,
  SAMPLER_COMPARISON,
  SCALARS,
  sizeOf,
  strideOf,
  type StructMember,
  texture,
  type Type,
  typeName,
  U32,
  vec,
} from '../types/types.js';

const SPACES: AddressSpace[] = ['function', 'private', 'workgroup', 'uniform', 'storage', 'immediate'];
const ACCESSES: Access[] = ['read', 'write', 'read_write'];
const SHORT: Record<string, Scalar> = { f: F32, h: F16, i: I32, u: U32 };

/** The type that an expression names, or a fault. */
export function typeOf(c: CheckContext, expr: Expr): Type {
  if (expr.kind !== 'name') throw c.fault('not-a-type', 'a type is expected here', expr.span);
  const found = namedType(c, expr);
  if (!found) {
    if (c.local(expr.name) || c.find(expr.name, expr.span)) {
      throw c.fault('not-a-type', `"${expr.name}" is not a type`, expr.span);
    }
    throw c.unknown('type', expr.name, expr.span, TYPE_NAMES);
  }
  return found;
}

const TYPE_NAMES = [
  ...Object.keys(SCALARS),
  'vec2f',
  'vec3f',
  'vec4f',
  'vec2i',
  'vec3i',
  'vec4i',
  'vec2u',
  'vec3u',
  'vec4u',
  'mat2x2f',
  'mat3x3f',
  'mat4x4f',
  'array',
  'ptr',
  'atomic',
  'sampler',
  'texture_2d',
];

/** The type that a name stands for, or undefined when it stands for something else. */
export function namedType(c: CheckContext, use: NameUse): Type | undefined {
  if (c.local(use.name)) return undefined;
  const decl = c.find(use.name, use.span);
  if (decl) {
    if (decl.kind !== 'struct' && decl.kind !== 'alias') return undefined;
    if (use.templates) throw c.fault('template', `"${use.name}" takes no template arguments`, use.span);
    c.resolve(decl, use.span);
    use.target = decl;
    c.refer(use.name, use.span, decl);
    return decl.type;
  }
  const type = predeclared(c, use);
  if (type && usesF16(type) && !c.features.has('f16')) {
    throw c.fault('feature', 'f16 must be enabled', use.span, 'Write "enable f16;" at the top.');
  }
  return type;
}

function usesF16(type: Type): boolean {
  return type === F16 || ((type.kind === 'vec' || type.kind === 'mat') && type.of === F16);
}

function predeclared(c: CheckContext, use: NameUse): Type | undefined {
  const { name, templates, span } = use;
  const none = (): void => {
    if (templates) throw c.fault('template', `"${name}" takes no template arguments`, span);
  };
  const want = (least: number, most = least): Expr[] => {
    const n = templates?.length ?? 0;
    if (n < least || n > most) {
      throw c.fault(
        'template',
        `"${name}" takes ${least === most ? least : `${least} to ${most}`} template arguments, not ${n}`,
        span,
      );
    }
    return templates ?? [];
  };
  const scalar = SCALARS[name];
  if (scalar) {
    none();
    return scalar;
  }
  const short = /^(?:vec([234])|mat([234])x([234]))([fhiu])$/.exec(name);
  if (short && (short[1] || short[4] === 'f' || short[4] === 'h')) {
    none();
    const of = SHORT[short[4]!]!; // one of four letters
    return short[1] ? vec(Number(short[1]), of) : mat(Number(short[2]), Number(short[3]), of);
  }
  const long = /^(?:vec([234])|mat([234])x([234]))$/.exec(name);
  if (long) {
    if (!templates) return undefined;
    const [first] = want(1);
    const of = typeOf(c, first!);
    const fits = of.kind === 'scalar' && (long[1] ? true : of === F32 || of === F16);
    if (!fits) throw c.fault('template', `"${name}" cannot be made of ${typeName(of)}`, first!.span);
    return long[1] ? vec(Number(long[1]), of) : mat(Number(long[2]), Number(long[3]), of);
  }
  switch (name) {
    case 'array':
      return templates ? arrayType(c, want(1, 2)) : undefined;
    case 'buffer':
      return bufferType(c, want(0, 1)[0]);
    case 'atomic': {
      const [first] = want(1);
      const of = typeOf(c, first!);
      if (of !== I32 && of !== U32)
        throw c.fault('template', `atomic takes i32 or u32, not ${typeName(of)}`, first!.span);
      return atomic(of);
    }
    case 'ptr':
      return pointerType(c, want(2, 3));
    case 'sampler':
      none();
      return SAMPLER;
    case 'sampler_comparison':
      none();
      return SAMPLER_COMPARISON;
    case 'texture_external':
      none();
      return texture('external', '2d', F32);
    case 'texture_depth_multisampled_2d':
      none();
      return texture('depth_multisampled', '2d', F32);
    default:
  }
  const depth = /^texture_depth_(2d|2d_array|cube|cube_array)$/.exec(name);
  if (depth) {
    none();
    return texture('depth', depth[1] as Dimension, F32);
  }
  const sampled = /^texture_(?:(multisampled)_(2d)|(1d|2d|2d_array|3d|cube|cube_array))$/.exec(name);
  if (sampled) {
    const [first] = want(1);
    const of = typeOf(c, first!);
    if (of !== F32 && of !== I32 && of !== U32)
      throw c.fault('template', `a texture holds f32, i32 or u32, not ${typeName(of)}`, first!.span);
    return texture(sampled[1] ? 'multisampled' : 'sampled', (sampled[2] ?? sampled[3]) as Dimension, of);
  }
  const storage = /^texture_storage_(1d|2d|2d_array|3d)$/.exec(name);
  if (storage) {
    const [format, access] = want(2);
    const formatName = enumerant(c, format!, Object.keys(STORAGE_FORMATS), 'a texel format');
    return texture('storage', storage[1] as Dimension, STORAGE_FORMATS[formatName]!, {
      format: formatName,
      access: enumerant(c, access!, ACCESSES, 'an access mode'),
    });
  }
  return undefined;
}

function enumerant<T extends string>(c: CheckContext, expr: Expr, allowed: readonly T[], what: string): T {
  if (
    expr.kind === 'name' &&
    !expr.templates &&
    allowed.includes(expr.name as T) &&
    !c.local(expr.name) &&
    !c.find(expr.name, expr.span)
  ) {
    return expr.name as T;
  }
  throw c.fault(
    'template',
    `${what} is expected here`,
    expr.span,
    `One of ${allowed.slice(0, 8).join(', ')}${allowed.length > 8 ? ', ...' : ''}.`,
  );
}

function arrayType(c: CheckContext, templates: Expr[]): Type {
  const [elementExpr, countExpr] = templates;
  const of = typeOf(c, elementExpr!);
  if (!isPlain(of) || isAbstract(of))
    throw c.fault('array', `an array cannot hold ${typeName(of)}`, elementExpr!.span);
  if (!hasFixedFootprint(of))
    throw c.fault(
      'array',
      `an array cannot hold ${typeName(of)}, whose size is not fixed`,
      elementExpr!.span,
    );
  if (of.kind === 'array' && of.isOverrideSized)
    throw c.fault('array', 'an array cannot hold arrays sized by an override', elementExpr!.span);
  if (!countExpr) return arr(of, undefined);
  const type = valueOf(c, countExpr);
  if (countExpr.value === undefined) {
    if (!isOverrideExpression(countExpr))
      throw c.fault('array', 'the length of an array must be known when the shader is made', countExpr.span);
    if (concrete(type) !== I32 && type !== U32)
      throw c.fault('array', 'the length of an array is a whole number', countExpr.span);
    return {
      kind: 'array',
      key: `array<${of.key}, override ${countExpr.span.from}>`,
      of,
      count: undefined,
      isOverrideSized: true,
    };
  }
  const n = constantInteger(c, countExpr, 'the length of an array');
  if (n < 1)
    throw c.fault('array', `an array of ${n} elements cannot be`, countExpr.span, 'The length is 1 or more.');
  if (n * strideOf(arr(of, undefined) as never) > 2 ** 32)
    throw c.fault('array', 'the array is too large', countExpr.span);
  return arr(of, n);
}

/** Untyped memory, which bufferView gives types to; sized in bytes or by what is bound. */
function bufferType(c: CheckContext, sizeExpr: Expr | undefined): Type {
  if (!sizeExpr) return buffer(undefined);
  const type = valueOf(c, sizeExpr);
  if (sizeExpr.value === undefined && isOverrideExpression(sizeExpr) && (type === I32 || type === U32))
    return {
      kind: 'buffer',
      key: `buffer<override ${sizeExpr.span.from}>`,
      size: undefined,
      isOverrideSized: true,
    };
  const size = constantInteger(c, sizeExpr, 'the size of a buffer');
  if (size < 1 || size % 4 !== 0)
    throw c.fault(
      'buffer',
      `a buffer of ${size} bytes cannot be`,
      sizeExpr.span,
      'The size is a multiple of 4.',
    );
  return buffer(size);
}

/** Whether an expression is known once overrides are. */
export function isOverrideExpression(expr: Expr): boolean {
  if (expr.value !== undefined) return true;
  switch (expr.kind) {
    case 'name':
      return expr.target?.kind === 'global' && expr.target.form === 'override';
    case 'paren':
    case 'unary':
      return isOverrideExpression(expr.of);
    case 'binary':
      return isOverrideExpression(expr.left) && isOverrideExpression(expr.right);
    case 'call':
      return expr.call?.kind !== 'function' && expr.args.every(isOverrideExpression);
    case 'member':
      return isOverrideExpression(expr.of);
    case 'index':
      return isOverrideExpression(expr.of) && isOverrideExpression(expr.index);
    default:
      return false;
  }
}

function pointerType(c: CheckContext, templates: Expr[]): Type {
  const space = enumerant(c, templates[0]!, SPACES, 'an address space');
  const of = typeOf(c, templates[1]!);
  if (!isPlain(of) && of.kind !== 'buffer')
    throw c.fault('pointer', `a pointer cannot point to ${typeName(of)}`, templates[1]!.span);
  if (templates[2] && space !== 'storage')
    throw c.fault('pointer', 'only pointers to storage have an access mode', templates[2].span);
  const access = templates[2] ? enumerant(c, templates[2], ACCESSES, 'an access mode') : defaultAccess(space);
  if (access === 'write') throw c.fault('pointer', 'storage cannot be write-only', templates[2]!.span);
  const problem = spaceProblem(space, of, access);
  if (problem) throw c.fault('pointer', problem, templates[1]!.span);
  return ptr(space, of, access);
}

export function defaultAccess(space: AddressSpace): Access {
  return ['storage', 'uniform', 'immediate', 'handle'].includes(space) ? 'read' : 'read_write';
}

/** Why a type cannot be stored in an address space, or undefined where it can. */
export function spaceProblem(space: AddressSpace, type: Type, access: Access): string | undefined {
  const name = typeName(type);
  if (type.kind === 'buffer') {
    if (!['storage', 'uniform', 'workgroup'].includes(space)) return `${space} variables cannot hold buffers`;
    return space === 'storage' || hasFixedFootprint(type)
      ? undefined
      : `${space} variables cannot hold a buffer whose size is not fixed`;
  }
  switch (space) {
    case 'function':
    case 'private':
      return isConstructible(type) ? undefined : `${space} variables cannot hold ${name}`;
    case 'workgroup':
      return isPlain(type) && hasFixedFootprint(type) ? undefined : `workgroup variables cannot hold ${name}`;
    case 'uniform':
    case 'immediate':
      if (!isHostShareable(type)) return `${space} variables cannot hold ${name}`;
      return isConstructible(type)
        ? undefined
        : `${space} variables cannot hold ${name}, whose size is not fixed`;
    case 'storage':
      if (!isHostShareable(type)) return `storage buffers cannot hold ${name}`;
      return holdsAtomic(type) && access !== 'read_write'
        ? 'atomics need storage with read_write access'
        : undefined;
    default:
      return type.kind === 'texture' || type.kind === 'sampler'
        ? undefined
        : `a variable of type ${name} needs an address space`;
  }
}

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

export function attributeNumber(c: CheckContext, attribute: Attribute, at = 0): number {
  const expr = attribute.args[at];
  if (!expr || attribute.args.length > (attribute.name === 'workgroup_size' ? 3 : 1)) {
    throw c.fault('attribute', `@${attribute.name} takes one whole number`, attribute.span);
  }
  valueOf(c, expr);
  const n = constantInteger(c, expr, `@${attribute.name}`);
  if (n < 0) throw c.fault('attribute', `@${attribute.name} cannot be ${n}`, expr.span);
  return n;
}

export const BUILTIN_INPUTS = [
  'vertex_index',
  'instance_index',
  'position',
  'front_facing',
  'frag_depth',
  'sample_index',
  'sample_mask',
  'local_invocation_id',
  'local_invocation_index',
  'global_invocation_id',
  'workgroup_id',
  'num_workgroups',
  'clip_distances',
  'subgroup_invocation_id',
  'subgroup_size',
  'primitive_index',
  'subgroup_id',
  'num_subgroups',
  'global_invocation_index',
  'workgroup_index',
];

/** Built-in values that must be enabled. */
const BUILTIN_FEATURES: Record<string, string> = {
  subgroup_invocation_id: 'subgroups',
  subgroup_size: 'subgroups',
  subgroup_id: 'subgroups',
  num_subgroups: 'subgroups',
  primitive_index: 'primitive_index',
  clip_distances: 'clip_distances',
};

/** Reads @location, @builtin, @interpolate, @invariant and @blend_src; other names are refused. */
export function ioAttributes(c: CheckContext, attributes: Attribute[], alsoAllowed: string[]): IoAttributes {
  const io: IoAttributes = {};
  const seen = new Set<string>();
  for (const attribute of attributes) {
    const { name, args, span } = attribute;
    if (seen.has(name)) throw c.fault('attribute', `@${name} is given twice`, span);
    seen.add(name);
    switch (name) {
      case 'location':
        io.location = attributeNumber(c, attribute);
        break;
      case 'blend_src':
        if (!c.features.has('dual_source_blending'))
          throw c.fault('feature', '@blend_src needs "enable dual_source_blending;"', span);
        io.blendSrc = attributeNumber(c, attribute);
        if (io.blendSrc > 1) throw c.fault('attribute', '@blend_src is 0 or 1', span);
        break;
      case 'builtin': {
        const [arg] = args;
        if (args.length !== 1 || arg?.kind !== 'name' || !BUILTIN_INPUTS.includes(arg.name)) {
          throw c.fault('attribute', '@builtin takes the name of a built-in value', span);
        }
        const feature = BUILTIN_FEATURES[arg.name];
        if (feature && !c.features.has(feature))
          throw c.fault(
            'feature',
            `@builtin(${arg.name}) needs the feature "${feature}"`,
            span,
            `Write "enable ${feature};" at the top.`,
          );
        io.builtin = arg.name;
        break;
      }
      case 'interpolate': {
        const words = args.map((arg) => (arg.kind === 'name' ? arg.name : ''));
        const [kind, sampling] = words;
        const fits =
          (words.length === 1 || words.length === 2) &&
          ['flat', 'linear', 'perspective'].includes(kind!) &&
          (sampling === undefined ||
            (kind === 'flat' ? ['first', 'either'] : ['center', 'centroid', 'sample']).includes(sampling));
        if (!fits)
          throw c.fault(
            'attribute',
            '@interpolate takes flat, linear or perspective, and how it is sampled',
            span,
          );
        io.interpolate = words;
        break;
      }
      case 'invariant':
        if (args.length > 0) throw c.fault('attribute', '@invariant takes nothing', span);
        io.invariant = true;
        break;
      default:
        if (!alsoAllowed.includes(name)) throw c.fault('attribute-place', `@${name} cannot stand here`, span);
    }
  }
  if (io.interpolate && io.location === undefined) {
    throw c.fault(
      'attribute',
      '@interpolate needs a @location beside it',
      attributes.find((a) => a.name === 'interpolate')!.span,
    );
  }
  if (io.invariant && io.builtin !== 'position') {
    throw c.fault(
      'attribute',
      '@invariant needs @builtin(position) beside it',
      attributes.find((a) => a.name === 'invariant')!.span,
    );
  }
  if (io.builtin !== undefined && io.location !== undefined) {
    throw c.fault('attribute', 'a value is either a built-in or has a location', attributes[0]!.span);
  }
  return io;
}

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
