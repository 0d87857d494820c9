import { type CallExpr } from '../parse/ast.js';
import { loaded } from '../check/check-context.js';
import { exprHasEffects } from '../check/effects.js';
import { glslScalar, glslVector } from './glsl-names.js';
import {
  BOOL,
  concrete,
  elementScalar,
  F32,
  I32,
  type Scalar,
  type Struct,
  type Type,
  U32,
} from '../types/types.js';
import { type GlslState } from './glsl-state.js';
import { heldIn, structOf, typeText } from './glsl-types.js';
import { bufferLengthText } from './glsl-globals.js';
import { arrayLengthText, bufferPlace } from './glsl-buffers.js';
import { orderedTexts } from './glsl-expressions.js';
import { textureText } from './glsl-textures.js';

export function builtinText(glsl: GlslState, name: string, expr: CallExpr): string {
  const { args } = expr;
  if (name.startsWith('texture')) return textureText(glsl, name, expr);
  if (name.startsWith('atomic')) throw glsl.refuse('WebGL2 has no atomics', expr.span);
  if (name === 'arrayLength') return arrayLengthText(glsl, expr);
  if (name === 'bufferLength') {
    const place = bufferPlace(glsl, args[0]!);
    if (!place) throw glsl.refuse('WebGL2 can only view buffers that it reads', expr.span);
    return bufferLengthText(glsl, place.root);
  }
  if (/^(subgroup|quad)/.test(name)) throw glsl.refuse('WebGL2 has no subgroups', expr.span);
  const texts = orderedTexts(glsl, args);
  const [a = '', b = '', d = ''] = texts;
  const types = args.map((arg) => loaded(arg.type!));
  const type = expr.type!;
  const of = types[0] ? elementScalar(types[0])! : F32;
  const help = (helper: string): string => `${glsl.helpers.use(helper)}(${texts.join(', ')})`;
  switch (name) {
    case 'all':
    case 'any':
      return types[0] === BOOL ? a : `${name}(${a})`;
    case 'select':
      // Both sides are evaluated, whichever is chosen.
      if (types[2] === BOOL && args.some(exprHasEffects)) {
        const [x, y] = [0, 1].map((i) => heldIn(glsl, 'held', concrete(types[i]!), texts[i]!));
        return `(${d} ? ${y} : ${x})`;
      }
      return types[2] === BOOL ? `(${d} ? ${b} : ${a})` : help('umber_select');
    case 'inverseSqrt':
      return `inversesqrt(${a})`;
    case 'round':
      return `roundEven(${a})`;
    case 'atan2':
      return `atan(${a}, ${b})`;
    case 'saturate':
      return `clamp(${a}, 0.0, 1.0)`;
    case 'fma':
      return `(${a} * ${b} + ${d})`;
    case 'abs':
      return of === U32 ? a : `abs(${a})`;
    case 'faceForward':
      return `faceforward(${a}, ${b}, ${d})`;
    case 'dot': {
      if (of === F32) return `dot(${a}, ${b})`;
      // Whole numbers have no dot of their own: multiplied, then summed by a function.
      const size = (types[0] as { size: number }).size;
      return `${intDotName(glsl, size, of)}(${a}, ${b})`;
    }
    case 'ldexp':
      return help('umber_ldexp');
    case 'quantizeToF16':
      return help('umber_quantize');
    case 'frexp':
    case 'modf':
      return splitText(glsl, name, a, type as Struct);
    case 'countOneBits':
    case 'countLeadingZeros':
    case 'countTrailingZeros':
    case 'firstLeadingBit':
    case 'firstTrailingBit':
    case 'reverseBits':
      return help(`umber_${name}`);
    case 'extractBits':
    case 'insertBits':
      return perComponent(glsl, name, texts, types[0]!);
    case 'bitcast':
      return bitcastText(glsl, a, types[0]!, type);
    case 'pack2x16float':
      return `packHalf2x16(${a})`;
    case 'unpack2x16float':
      return `unpackHalf2x16(${a})`;
    case 'pack2x16snorm':
      return `packSnorm2x16(${a})`;
    case 'pack2x16unorm':
      return `packUnorm2x16(${a})`;
    case 'unpack2x16snorm':
      return `unpackSnorm2x16(${a})`;
    case 'unpack2x16unorm':
      return `unpackUnorm2x16(${a})`;
    default:
  }
  if (/^(un)?pack4x|^dot4/.test(name)) return bytesText(glsl, name, a, b);
  if (name.startsWith('dpdx')) return `dFdx(${a})`;
  if (name.startsWith('dpdy')) {
    glsl.usesTarget = true;
    return `(dFdy(${a}) * -umber_target.z)`;
  }
  if (name.startsWith('fwidth')) return `fwidth(${a})`;
  return `${name}(${texts.join(', ')})`;
}

function intDotName(glsl: GlslState, size: number, of: Scalar): string {
  const key = `dot ${size} ${of.key}`;
  let name = glsl.loaders.get(key);
  if (!name) {
    name = glsl.names.fresh('umber_dot');
    glsl.loaders.set(key, name);
    const v = glslVector(size, of);
    glsl.loaderText.push(
      `${glslScalar(of)} ${name}(${v} a, ${v} b) { return ${[...'xyzw']
        .slice(0, size)
        .map((k) => `a.${k} * b.${k}`)
        .join(' + ')}; }`,
    );
  }
  return name;
}

function perComponent(glsl: GlslState, name: string, texts: string[], type: Type): string {
  const helper = glsl.helpers.use(`umber_${name}`);
  if (type.kind !== 'vec') return `${helper}(${texts.join(', ')})`;
  const key = `${name} ${type.key}`;
  let wrapper = glsl.loaders.get(key);
  if (!wrapper) {
    wrapper = glsl.names.fresh(`umber_${name}V`);
    glsl.loaders.set(key, wrapper);
    const text = typeText(glsl, type);
    const isInsert = name === 'insertBits';
    const parts = [...'xyzw']
      .slice(0, type.size)
      .map((k) => `${helper}(v.${k}, ${isInsert ? `w.${k}, ` : ''}o, n)`);
    glsl.loaderText.push(
      `${text} ${wrapper}(${text} v, ${isInsert ? `${text} w, ` : ''}uint o, uint n) { return ${text}(${parts.join(', ')}); }`,
    );
  }
  return `${wrapper}(${texts.join(', ')})`;
}

function bytesText(glsl: GlslState, name: string, a: string, b: string): string {
  glsl.helpers.use('umber_bytes');
  switch (name) {
    case 'pack4x8snorm':
      return `umber_word(uvec4(ivec4(floor(0.5 + 127.0 * clamp(${a}, -1.0, 1.0)))))`;
    case 'pack4x8unorm':
      return `umber_word(uvec4(floor(0.5 + 255.0 * clamp(${a}, 0.0, 1.0))))`;
    case 'pack4xI8':
      return `umber_word(uvec4(${a}))`;
    case 'pack4xU8':
      return `umber_word(${a})`;
    case 'pack4xI8Clamp':
      return `umber_word(uvec4(clamp(${a}, -128, 127)))`;
    case 'pack4xU8Clamp':
      return `umber_word(min(${a}, uvec4(255u)))`;
    case 'unpack4x8snorm':
      return `max(vec4(umber_signedBytes(${a})) / 127.0, -1.0)`;
    case 'unpack4x8unorm':
      return `(vec4(umber_bytes(${a})) / 255.0)`;
    case 'unpack4xI8':
      return `umber_signedBytes(${a})`;
    case 'unpack4xU8':
      return `umber_bytes(${a})`;
    case 'dot4U8Packed':
      return `${intDotName(glsl, 4, U32)}(umber_bytes(${a}), umber_bytes(${b}))`;
    default:
      return `${intDotName(glsl, 4, I32)}(umber_signedBytes(${a}), umber_signedBytes(${b}))`;
  }
}

/** frexp and modf give structures. */
function splitText(glsl: GlslState, name: string, a: string, type: Struct): string {
  const key = `${name} ${type.key}`;
  let helper = glsl.loaders.get(key);
  if (!helper) {
    helper = glsl.names.fresh(`umber_${name}`);
    glsl.loaders.set(key, helper);
    const struct = structOf(glsl, type).name;
    const of = type.members[0]!.type;
    const text = typeText(glsl, of);
    if (name === 'modf') {
      glsl.loaderText.push(
        `${struct} ${helper}(${text} x) { ${text} w = trunc(x); return ${struct}(x - w, w); }`,
      );
    } else {
      const scalar = glsl.names.fresh('umber_exponent');
      // Exact for normal numbers: the exponent's bits; numbers below are scaled up first.
      glsl.loaderText.push(
        `int ${scalar}(float x) { if (x == 0.0) return 0; float m = abs(x); int low = 0; if (m < 1.17549435e-38) { m *= 16777216.0; low = -24; } return int((floatBitsToUint(m) >> 23) & 255u) - 126 + low; }`,
      );
      const n = of.kind === 'vec' ? of.size : 1;
      const exponent =
        n === 1
          ? `${scalar}(x)`
          : `ivec${n}(${[...'xyzw']
              .slice(0, n)
              .map((k) => `${scalar}(x.${k})`)
              .join(', ')})`;
      const down =
        n === 1
          ? 'exp2(float(-(e / 2))) * exp2(float(-(e - e / 2)))'
          : `exp2(vec${n}(-(e / 2))) * exp2(vec${n}(-(e - e / 2)))`;
      glsl.loaderText.push(
        `${struct} ${helper}(${text} x) { ${n === 1 ? 'int' : `ivec${n}`} e = ${exponent}; return ${struct}(x * ${down}, e); }`,
      );
    }
  }
  return `${helper}(${a})`;
}

function bitcastText(glsl: GlslState, a: string, from: Type, to: Type): string {
  const [x, y] = [elementScalar(from)!, elementScalar(to)!];
  if (x === y) return a;
  if (x === F32) return y === I32 ? `floatBitsToInt(${a})` : `floatBitsToUint(${a})`;
  if (y === F32) return x === I32 ? `intBitsToFloat(${a})` : `uintBitsToFloat(${a})`;
  return `${typeText(glsl, to)}(${a})`;
}
