import { type Access, type AddressSpace, type Expr, type NameUse } from '../parse/ast.js';
import { STORAGE_FORMATS } from '../types/texture-builtins.js';
import type { CheckContext } from './check-context.js';
import {
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
  mat,
  ptr,
  type Scalar,
  SAMPLER,
  SAMPLER_COMPARISON,
  SCALARS,
  strideOf,
  texture,
  type Type,
  typeName,
  U32,
  vec,
} from '../types/types.js';
import { valueOf, constantInteger } from './check-expressions.js';

export const SPACES: AddressSpace[] = ['function', 'private', 'workgroup', 'uniform', 'storage', 'immediate'];
export const ACCESSES: Access[] = ['read', 'write', 'read_write'];
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

export function enumerant<T extends string>(
  c: CheckContext,
  expr: Expr,
  allowed: readonly T[],
  what: string,
): T {
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
