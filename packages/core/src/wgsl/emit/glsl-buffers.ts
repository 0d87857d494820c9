import { type CallExpr, type Expr, type GlobalVar } from '../parse/ast.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import { elementScalar, F32, I32, strideOf, type Struct, type Type, U32 } from '../types/types.js';
import { type GlslState, STORAGE_ROW, type Place } from './glsl-state.js';
import { typeText } from './glsl-types.js';
import { bufferLengthText, globalName } from './glsl-globals.js';
import { baseOf, pointerOf } from './glsl-places.js';
import { exprText } from './glsl-expressions.js';

/** Where a buffer is read, when an expression names a part of one. */
export function bufferPlace(glsl: GlslState, expr: Expr): Place | undefined {
  const target = unparenthesized(expr);
  switch (target.kind) {
    case 'name': {
      const decl = target.target;
      if (!decl) return undefined;
      if ('index' in decl) {
        const alias = glsl.instance?.aliases.get(decl);
        return alias?.kind === 'buffer' ? alias.place : undefined;
      }
      const global = decl as GlobalVar;
      return global.space === 'uniform' || global.space === 'storage'
        ? { root: global, offset: 0, dynamic: [], isWhole: true }
        : undefined;
    }
    case 'unary':
      return target.op === '*' || target.op === '&' ? bufferPlace(glsl, target.of) : undefined;
    case 'member': {
      const base = bufferPlace(glsl, target.of);
      if (!base) return undefined;
      const type = baseOf(target.of);
      if (type.kind === 'struct') {
        const { index } = target.via as { index: number };
        return { ...base, offset: base.offset + type.members[index]!.offset };
      }
      const components = (target.via as { components: number[] }).components;
      return components.length === 1 ? { ...base, offset: base.offset + components[0]! * 4 } : undefined;
    }
    case 'index': {
      const base = bufferPlace(glsl, target.of);
      if (!base) return undefined;
      const type = baseOf(target.of);
      const stride =
        type.kind === 'array' ? strideOf(type) : type.kind === 'mat' ? (type.rows === 2 ? 8 : 16) : 4;
      const fixed = target.index.value as number | undefined;
      if (fixed !== undefined) return { ...base, offset: base.offset + fixed * stride };
      const index =
        loaded(target.index.type!) === U32
          ? `int(${exprText(glsl, target.index)})`
          : exprText(glsl, target.index);
      const most = type.kind === 'array' && type.count !== undefined ? type.count - 1 : undefined;
      const bounded = most === undefined ? `max(${index}, 0)` : `clamp(${index}, 0, ${most})`;
      const dynamic = [...base.dynamic, `${bounded} * ${stride}`];
      return { ...base, dynamic, isWhole: base.isWhole && stride % 16 === 0 };
    }
    case 'call': {
      if (target.call?.kind !== 'builtin' || !/^buffer(Array)?View$/.test(target.call.name)) return undefined;
      const [pointer, offset, size] = target.args;
      const base = bufferPlace(glsl, pointer!);
      if (!base || !offset) return undefined;
      const fixed = offset.value as number | undefined;
      const place =
        fixed === undefined
          ? { ...base, dynamic: [...base.dynamic, `int(${exprText(glsl, offset)})`], isWhole: false }
          : { ...base, offset: base.offset + fixed };
      return size ? { ...place, end: `(${byteOffset(place)} + int(${exprText(glsl, size)}))` } : place;
    }
    default:
      return undefined;
  }
}

/** Reads a value out of a buffer, word by word, so that WGSL's layout holds whatever GLSL's is. */
export function loadText(glsl: GlslState, place: Place, type: Type): string {
  const { root } = place;
  const name = globalName(glsl, root);
  const isUniform = root.space === 'uniform';
  const texel = (at: string): string =>
    isUniform
      ? `${name}[${at}]`
      : `texelFetch(${name}, ivec2((${at}) & ${STORAGE_ROW - 1}, (${at}) >> ${Math.log2(STORAGE_ROW)}), 0)`;
  if (type.kind === 'scalar' || type.kind === 'vec') {
    const n = type.kind === 'vec' ? type.size : 1;
    const letters = 'xyzw';
    let words: string;
    if (place.isWhole) {
      const first = (place.offset >> 2) & 3;
      words = `${texel(texelNumber(place))}${n === 4 ? '' : `.${letters.slice(first, first + n)}`}`;
    } else {
      words = `${wordLoaderName(glsl, root, n, texel)}(${byteOffset(place)})`;
    }
    return fromWords(words, type);
  }
  return `${loaderName(glsl, root, type, place.isWhole)}(${byteOffset(place)})`;
}

/** Number of the texel that a place lies in, where what is found at run time moves it by whole texels. */
function texelNumber({ offset, dynamic }: Place): string {
  if (dynamic.length === 0) return String(offset >> 4);
  const base = `(${dynamic.join(' + ')}) >> 4`;
  return offset < 16 ? base : `(${base}) + ${offset >> 4}`;
}

export function byteOffset({ offset, dynamic }: Place): string {
  return dynamic.length === 0
    ? String(offset)
    : `(${[...dynamic, ...(offset ? [String(offset)] : [])].join(' + ')})`;
}

function fromWords(words: string, type: Type): string {
  const of = elementScalar(type)!;
  if (of === F32) return `uintBitsToFloat(${words})`;
  if (of === I32) return type.kind === 'vec' ? `ivec${type.size}(${words})` : `int(${words})`;
  return words;
}

/** A function that gives n words at a byte offset: vectors never straddle texels, except of two words. */
function wordLoaderName(glsl: GlslState, root: GlobalVar, n: number, texel: (at: string) => string): string {
  const key = `${root.name} words ${n}`;
  let name = glsl.loaders.get(key);
  if (!name) {
    name = glsl.names.fresh(`umber_words_${root.name}`);
    glsl.loaders.set(key, name);
    const type = n === 1 ? 'uint' : `uvec${n}`;
    const texelText = `uvec4 t = ${texel('at >> 4')};`;
    const rest =
      n === 1
        ? 'return t[(at >> 2) & 3];'
        : n === 2
          ? 'return (at & 8) == 0 ? t.xy : t.zw;'
          : `return t${n === 3 ? '.xyz' : ''};`;
    glsl.loaderText.push(`${type} ${name}(int at) { ${texelText} ${rest} }`);
  }
  return name;
}

/** A function that gives a matrix, an array or a structure at a byte offset. */
function loaderName(glsl: GlslState, root: GlobalVar, type: Type, isWhole: boolean): string {
  const key = `${root.name} ${type.key} ${isWhole}`;
  const known = glsl.loaders.get(key);
  if (known) return known;
  const name = glsl.names.fresh(`umber_load_${root.name}`);
  glsl.loaders.set(key, name);
  const at = (offset: number): Place => ({ root, offset, dynamic: ['at'], isWhole });
  const text = typeText(glsl, type);
  let body: string;
  if (type.kind === 'mat') {
    const stride = type.rows === 2 ? 8 : 16;
    const columns = Array.from({ length: type.columns }, (_, i) =>
      loadText(glsl, at(i * stride), type.column),
    );
    body = `return ${text}(${columns.join(', ')});`;
  } else if (type.kind === 'array') {
    const stride = strideOf(type);
    const place = {
      root,
      offset: 0,
      dynamic: ['at', `i * ${stride}`],
      isWhole: isWhole && stride % 16 === 0,
    };
    const element = loadText(glsl, place, type.of);
    body = `${text} list; for (int i = 0; i < ${type.count ?? 1}; i++) list[i]${type.of.kind === 'array' ? '.a' : ''} = ${element}; return list;`;
  } else {
    const struct = type as Struct;
    body = `return ${text}(${struct.members.map((m) => loadText(glsl, at(m.offset), m.type)).join(', ')});`;
  }
  glsl.loaderText.push(`${text} ${name}(int at) { ${body} }`);
  return name;
}

export function arrayLengthText(glsl: GlslState, expr: CallExpr): string {
  const alias = pointerOf(glsl, expr.args[0]!);
  if (alias.kind !== 'buffer')
    throw glsl.refuse('only arrays in storage have a length at run time', expr.span);
  const type = (loaded(expr.args[0]!.type!) as { of: Type }).of;
  const { place } = alias;
  const all = bufferLengthText(glsl, place.root);
  const end = place.end ? `min(${all}, uint(${place.end}))` : all;
  return `((${end} - uint(${byteOffset(place)})) / ${strideOf(type as never)}u)`;
}
