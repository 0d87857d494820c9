import { concrete, type Scalar, type Type, typeName } from '../types/types.js';
import type { Value } from '../types/values.js';

/** Words that GLSL ES 3.00 keeps, and built-in functions that a name would hide. */
export const KEPT: ReadonlySet<string> = new Set(
  `attribute const uniform varying buffer shared coherent volatile restrict readonly writeonly atomic_uint layout centroid flat smooth noperspective patch sample break continue do for while switch case default if else subroutine in out inout float int void bool true false invariant precise discard return lowp mediump highp precision struct common partition active asm class union enum typedef template this resource goto inline noinline public static extern external interface long short double half fixed unsigned superp input output hvec2 hvec3 hvec4 dvec2 dvec3 dvec4 fvec2 fvec3 fvec4 filter sizeof cast namespace using mat2 mat3 mat4 vec2 vec3 vec4 ivec2 ivec3 ivec4 uvec2 uvec3 uvec4 bvec2 bvec3 bvec4 uint main sampler2D sampler3D samplerCube sampler2DShadow samplerCubeShadow sampler2DArray sampler2DArrayShadow isampler2D isampler3D isamplerCube isampler2DArray usampler2D usampler3D usamplerCube usampler2DArray image2D
  radians degrees sin cos tan asin acos atan sinh cosh tanh asinh acosh atanh pow exp log exp2 log2 sqrt inversesqrt abs sign floor trunc round roundEven ceil fract mod modf min max clamp mix step smoothstep isnan isinf floatBitsToInt floatBitsToUint intBitsToFloat uintBitsToFloat packSnorm2x16 unpackSnorm2x16 packUnorm2x16 unpackUnorm2x16 packHalf2x16 unpackHalf2x16 length distance dot cross normalize faceforward reflect refract matrixCompMult outerProduct transpose determinant inverse lessThan lessThanEqual greaterThan greaterThanEqual equal notEqual any all not textureSize texture textureProj textureLod textureOffset texelFetch texelFetchOffset textureGrad dFdx dFdy fwidth`.split(
    /\s+/,
  ),
);

/** Gives every declaration a name of its own that GLSL accepts, as near to the author's as can be. */
export class GlslNames {
  private readonly taken = new Set<string>();

  fresh(name: string): string {
    const base = name
      .replace(/[^A-Za-z0-9_]/g, 'x')
      .replace(/_+/g, '_')
      .replace(/^(gl_|_)/, 'x$1');
    let candidate = KEPT.has(base) ? `${base}_` : base;
    candidate = candidate.replace(/__+/g, '_');
    for (let i = 1; this.taken.has(candidate); i++) candidate = `${base.replace(/_$/, '')}_${i}`;
    this.taken.add(candidate);
    return candidate;
  }
}

export function glslScalar(of: Scalar): string {
  return {
    bool: 'bool',
    i32: 'int',
    u32: 'uint',
    f32: 'float',
    f16: 'float',
    'abstract-int': 'int',
    'abstract-float': 'float',
  }[of.scalar];
}

export function glslVector(size: number, of: Scalar): string {
  return `${{ bool: 'b', i32: 'i', u32: 'u', f32: '', f16: '', 'abstract-int': 'i', 'abstract-float': '' }[of.scalar]}vec${size}`;
}

/** A constant as GLSL writes it. `typeText` names types, `rowText` the structures that wrap inner arrays. */
export function glslLiteral(
  value: Value,
  type: Type,
  typeText: (type: Type) => string,
  rowText: (type: Type) => string,
): string {
  const inner = (v: Value, t: Type): string => glslLiteral(v, t, typeText, rowText);
  switch (type.kind) {
    case 'scalar': {
      const kind = glslScalar(concrete(type) as Scalar);
      if (kind === 'bool') return String(value);
      const x = value as number;
      if (kind === 'uint') return `${x}u`;
      if (kind === 'int') return x === -2147483648 ? '(-2147483647 - 1)' : x < 0 ? `(${x})` : String(x);
      return glslFloat(x);
    }
    case 'vec': {
      const list = value as Value[];
      const parts = list.map((x) => inner(x, type.of));
      const isSplat = parts.every((part) => part === parts[0]);
      return `${typeText(type)}(${isSplat ? parts[0] : parts.join(', ')})`;
    }
    case 'mat':
      return `${typeText(type)}(${(value as Value[]).map((column) => inner(column, type.column)).join(', ')})`;
    case 'array':
      return `${typeText(type)}(${(value as Value[]).map((x) => (type.of.kind === 'array' ? `${rowText(type.of)}(${inner(x, type.of)})` : inner(x, type.of))).join(', ')})`;
    case 'struct':
      return `${typeText(type)}(${type.members.map((m, i) => inner((value as Value[])[i]!, m.type)).join(', ')})`;
    default:
      throw new Error(`no literal of ${typeName(type)}`);
  }
}

function glslFloat(x: number): string {
  if (Object.is(x, -0)) return '(-0.0)';
  const single = Math.fround(x);
  let digits = 1;
  // Nine give every f32 back, and mostly fewer do.
  while (digits < 9 && Math.fround(Number(x.toPrecision(digits))) !== single) digits++;
  const shortest = String(Number(x.toPrecision(digits)));
  const text = /[.e]/.test(shortest) ? shortest : `${shortest}.0`;
  return x < 0 ? `(${text})` : text;
}
