import { type Expr, type GlobalVar } from '../parse/ast.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import { type Struct, type Type } from '../types/types.js';
import { type GlslState, type Alias } from './glsl-state.js';
import { structOf, typeText } from './glsl-types.js';
import { globalName } from './glsl-globals.js';
import { bufferPlace } from './glsl-buffers.js';
import { exprText } from './glsl-expressions.js';

/** The GLSL text of a place that can be written. */
export function placeText(glsl: GlslState, expr: Expr): string {
  const target = unparenthesized(expr);
  switch (target.kind) {
    case 'name': {
      const decl = target.target!;
      if ('index' in decl) {
        const alias = glsl.instance.aliases.get(decl);
        if (alias?.kind === 'place') return alias.text;
        return glsl.locals.get(decl)!;
      }
      return globalName(glsl, decl as GlobalVar);
    }
    case 'unary':
      return placeText(glsl, target.of);
    case 'member': {
      const via = target.via!;
      const of = placeText(glsl, target.of);
      if (via.kind === 'swizzle') return `${of}.${via.components.map((k) => 'xyzw'[k]).join('')}`;
      return `${of}.${structOf(glsl, baseOf(target.of) as Struct).members[via.index]}`;
    }
    case 'index':
      return `${placeText(glsl, target.of)}[${exprText(glsl, target.index)}]${inRow(target.of)}`;
    default:
      return exprText(glsl, target);
  }
}

export function pointerOf(glsl: GlslState, expr: Expr): Alias {
  const target = unparenthesized(expr);
  if (target.kind === 'name') {
    const known = 'index' in target.target! ? glsl.instance.aliases.get(target.target) : undefined;
    if (known) return known;
  }
  const isView = target.kind === 'call';
  if (!isView && (target.kind !== 'unary' || target.op !== '&'))
    throw glsl.refuse('this pointer cannot be followed in WebGL2', expr.span);
  const buffer = bufferPlace(glsl, isView ? target : target.of);
  if (isView && !buffer) throw glsl.refuse('WebGL2 can only view buffers that it reads', expr.span);
  if (buffer) {
    if (buffer.dynamic.length > 0) {
      const fresh = glsl.names.fresh('offset');
      glsl.line(`int ${fresh} = ${buffer.dynamic.join(' + ')};`);
      return { kind: 'buffer', place: { ...buffer, dynamic: [fresh] } };
    }
    return { kind: 'buffer', place: buffer };
  }
  return { kind: 'place', text: fixedPlace(glsl, (target as { of: Expr }).of) };
}

/** Like `place`, but with indices evaluated now. */
export function fixedPlace(glsl: GlslState, expr: Expr): string {
  const target = unparenthesized(expr);
  if (target.kind === 'index') {
    const of = fixedPlace(glsl, target.of);
    if (target.index.value !== undefined) return `${of}[${exprText(glsl, target.index)}]${inRow(target.of)}`;
    const fresh = glsl.names.fresh('at');
    glsl.line(`${typeText(glsl, loaded(target.index.type!))} ${fresh} = ${exprText(glsl, target.index)};`);
    return `${of}[${fresh}]${inRow(target.of)}`;
  }
  if (target.kind === 'member' && target.via!.kind === 'member') {
    return `${fixedPlace(glsl, target.of)}.${structOf(glsl, baseOf(target.of) as Struct).members[target.via!.index]}`;
  }
  return placeText(glsl, target);
}

/** The type behind references and pointers. */
export function baseOf(expr: Expr): Type {
  const type = loaded(expr.type!);
  return type.kind === 'ptr' ? type.of : type;
}

/** Inner arrays are wrapped: an element of an array of arrays is reached through its member. */
export function inRow(base: Expr): string {
  const type = baseOf(base);
  return type.kind === 'array' && type.of.kind === 'array' ? '.a' : '';
}
