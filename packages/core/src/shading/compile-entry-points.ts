import { LensError } from '../errors/lens-error.js';
import type { CompiledShader, ComputeShader } from '../material/shader-types.js';
import { type CompileOptions, compileWgsl, type Shader } from '../wgsl/compile.js';
import { emitWgsl } from '../wgsl/emit/emit-wgsl.js';
import type { GlslShader } from '../wgsl/emit/glsl-state.js';
import { shortenGlsl } from '../wgsl/emit/shorten-glsl.js';
import { toGlsl } from '../wgsl/index.js';
import { reachedResources, reflect } from '../wgsl/reflect.js';

/** Short names of a shader's texts, so that another shader has the same for what they have in common. */
export interface ShortNames {
  wgsl: Map<string, string>;
  vertex: Map<string, string>;
  fragment: Map<string, string>;
}

export const shortNames = (): ShortNames => ({ wgsl: new Map(), vertex: new Map(), fragment: new Map() });

/** Both stages of a module, ready for any device. @param names are kept, and new ones are added */
export function compileEntryPoints(
  shader: Shader,
  vertex: string,
  fragment: string,
  minify: boolean,
  names = shortNames(),
): CompiledShader {
  const { entryPoints, overrides } = reflect(shader);
  const stage = (name: string, known: Map<string, string>): GlslShader => {
    const whole = toGlsl(shader, name);
    return minify ? shortenGlsl(whole, known) : whole;
  };
  const wgsl = emitWgsl(shader, { minify, names: names.wgsl });
  const compiled: CompiledShader = {
    wgsl,
    vertex,
    fragment,
    resources: reachedResources(shader, [vertex, fragment]),
    outputs: (entryPoints.find(({ name }) => name === fragment)?.outputs ?? []).flatMap(
      ({ location, type }) => (location === undefined ? [] : [{ location, type }]),
    ),
    // What no entry point needs was dropped.
    overrides: overrides.map(({ name }) => name).filter((name) => wgsl.includes(`override ${name}`)),
  };
  try {
    compiled.glsl = { vertex: stage(vertex, names.vertex), fragment: stage(fragment, names.fragment) };
  } catch (error) {
    if (!(error instanceof LensError) || error.code !== 'wgsl/webgl2') throw error;
    compiled.notInWebgl2 = error.toString();
  }
  return compiled;
}

/** A module with entry points of its own, compiled for any device. @throws LensError */
export function compileModule(
  text: string,
  entries: { vertex: string; fragment: string },
  options: CompileOptions & { minify?: boolean } = {},
): CompiledShader {
  return compileEntryPoints(
    compileWgsl(text, options),
    entries.vertex,
    entries.fragment,
    options.minify ?? true,
  );
}

/** A module with an entry point that computes, for a device that can. @throws LensError */
export function compileCompute(
  text: string,
  entry: string,
  options: CompileOptions & { minify?: boolean } = {},
): ComputeShader {
  const shader = compileWgsl(text, options);
  if (!reflect(shader).entryPoints.some(({ name, stage }) => name === entry && stage === 'compute'))
    throw new LensError(
      'shader/entry',
      `${options.file ?? 'the module'} has no entry point "${entry}" that computes`,
    );
  return {
    ...(options.file === undefined ? {} : { label: options.file }),
    wgsl: emitWgsl(shader, { minify: options.minify ?? true }),
    entry,
    resources: reachedResources(shader, [entry]),
  };
}
