/**
 * The WGSL compiler: checks, links, translates and runs.
 *
 * @module @umber-lens/core/wgsl
 */
import { LensError } from '../errors/lens-error.js';
import { findFunction, type Shader } from './compile.js';
import { emitGlsl } from './emit/emit-glsl.js';
import type { GlslShader } from './emit/glsl-state.js';
import { findingOf, WgslFault, wgslError } from './parse/source.js';

export { checkWgsl, type CompileOptions, compileWgsl, type Shader } from './compile.js';
export type { CpuSampler, CpuTexture } from './run/cpu-texture.js';
export { type GlslShader, STORAGE_ROW } from './emit/glsl-state.js';
export { type Displacement, displacementOf } from './bound/displacement.js';
export { doubtsIn } from './bound/doubts.js';
export { shortenGlsl } from './emit/shorten-glsl.js';
export { emitWgsl, type EmitWgslOptions } from './emit/emit-wgsl.js';
export type { TraceStep } from './run/lane.js';
export { type Outline, type OutlineName, type OutlinePlace, outlineWgsl } from './outline.js';
export {
  reflect,
  type ReflectedEntryPoint,
  type ReflectedIo,
  type ReflectedResource,
  type ReflectedStruct,
  type Reflection,
  type ShaderSetting,
} from './reflect.js';
export {
  type DrawnPicture,
  type DrawOptions,
  drawWgsl,
  type Quad,
  type RunOptions,
  runWgsl,
  toJson,
} from './run/run.js';
export { type Finding, formatFinding, wgslError } from './parse/source.js';

/**
 * GLSL ES 3.00 for one entry point of a shader.
 *
 * @param constants values of overrides, by name or id
 * @throws LensError `wgsl/no-function`, and `wgsl/webgl2` with the place of what WebGL2 cannot do
 */
export function toGlsl(
  shader: Shader,
  entry: string,
  constants: Record<string, number | boolean> = {},
): GlslShader {
  const fn = findFunction(shader, entry);
  if (!fn?.stage) {
    const names = shader.checked.entryPoints.map((e) => e.name);
    throw new LensError('wgsl/no-function', `there is no entry point "${entry}"`, {
      hint: names.length > 0 ? `There are ${names.join(', ')}.` : 'The module has none.',
      where: { file: shader.file },
    });
  }
  try {
    return emitGlsl(fn, constants);
  } catch (error) {
    throw error instanceof WgslFault ? wgslError([findingOf(error)]) : error;
  }
}
