import { type CallExpr, type Expr } from '../parse/ast.js';
import { loaded } from '../check/check-context.js';
import { elementScalar, I32, isInteger, type TextureType, U32 } from '../types/types.js';
import { type GlslState } from './glsl-state.js';
import { combinedSampler } from './glsl-globals.js';
import { handleOf } from './glsl-functions.js';
import { exprText } from './glsl-expressions.js';

export function textureText(glsl: GlslState, name: string, expr: CallExpr): string {
  const at = expr.args.findIndex((arg) => loaded(arg.type!).kind === 'texture');
  const texture = handleOf(glsl, expr.args[at]!);
  const type = texture.type as TextureType;
  const isArrayed = type.dimension === '2d_array';
  const rest = expr.args.slice(at + 1);
  const text = (arg: Expr | undefined): string => (arg ? exprText(glsl, arg) : '0');
  const asInt = (arg: Expr | undefined): string =>
    arg && loaded(arg.type!) === U32 ? `int(${text(arg)})` : text(arg);
  const depth = (sampled: string): string => (type.form === 'depth' ? `${sampled}.x` : sampled);
  const n = type.dimension === '3d' || isArrayed ? 3 : 2;
  switch (name) {
    case 'textureDimensions': {
      const size = `textureSize(${combinedSampler(glsl, texture, undefined)}, ${asInt(rest[0])})`;
      return type.dimension === '3d' ? `uvec3(${size})` : isArrayed ? `uvec2(${size}.xy)` : `uvec2(${size})`;
    }
    case 'textureNumLayers':
      return `uint(textureSize(${combinedSampler(glsl, texture, undefined)}, 0).z)`;
    case 'textureLoad': {
      const whole = `ivec${isArrayed ? 2 : n}(${text(rest[0])})`;
      const coordinate = isArrayed ? `ivec3(${whole}, ${asInt(rest[1])})` : whole;
      return depth(
        `texelFetch(${combinedSampler(glsl, texture, undefined)}, ${coordinate}, ${asInt(rest[isArrayed ? 2 : 1])})`,
      );
    }
    case 'textureNumLevels':
    case 'textureGather':
    case 'textureGatherCompare':
      throw glsl.refuse(`WebGL2 has no ${name}`, expr.span);
    default:
  }
  const sampler = combinedSampler(glsl, texture, handleOf(glsl, rest[0]!));
  let next = 1;
  let coordinate = text(rest[next++]);
  if (isArrayed) coordinate = `vec3(${coordinate}, float(${text(rest[next++])}))`;
  const last = rest[rest.length - 1]!;
  const hasOffset = loaded(last.type!).kind === 'vec' && elementScalar(loaded(last.type!)) === I32;
  const offset = hasOffset ? `, ${text(last)}` : '';
  const suffix = hasOffset ? 'Offset' : '';
  if (name.startsWith('textureSampleCompare')) {
    const reference = text(rest[next]);
    const size = n === 3 || type.dimension === 'cube' ? 4 : 3;
    const full = `vec${size}(${coordinate}, ${reference})`;
    if (name === 'textureSampleCompareLevel' && size === 3)
      return `textureLod${suffix}(${sampler}, ${full}, 0.0${offset})`;
    if (name === 'textureSampleCompareLevel') {
      const zero = type.dimension === 'cube' ? 'vec3(0.0)' : 'vec2(0.0)';
      return `textureGrad${suffix}(${sampler}, ${full}, ${zero}, ${zero}${offset})`;
    }
    if (hasOffset && size === 4)
      throw glsl.refuse('WebGL2 has no offsets for comparisons in arrays', expr.span);
    return `texture${suffix}(${sampler}, ${full}${offset})`;
  }
  switch (name) {
    case 'textureSample':
      return depth(`texture${suffix}(${sampler}, ${coordinate}${offset})`);
    case 'textureSampleBias': {
      const bias = text(rest[next]);
      return depth(
        hasOffset
          ? `textureOffset(${sampler}, ${coordinate}${offset}, ${bias})`
          : `texture(${sampler}, ${coordinate}, ${bias})`,
      );
    }
    case 'textureSampleLevel': {
      const level = rest[next]!;
      return depth(
        `textureLod${suffix}(${sampler}, ${coordinate}, ${isInteger(loaded(level.type!)) ? `float(${text(level)})` : text(level)}${offset})`,
      );
    }
    case 'textureSampleBaseClampToEdge':
      return `textureLod(${sampler}, clamp(${coordinate}, 0.5 / vec2(textureSize(${sampler}, 0)), 1.0 - 0.5 / vec2(textureSize(${sampler}, 0))), 0.0)`;
    default:
      return depth(
        `textureGrad${suffix}(${sampler}, ${coordinate}, ${text(rest[next])}, ${text(rest[next + 1])}${offset})`,
      );
  }
}
