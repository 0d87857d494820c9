import type { CompiledShader } from '../material/shader-types.js';
import { type CompileOptions, compileWgsl } from '../wgsl/compile.js';
import { compileEntryPoints, type ShortNames, shortNames } from './compile-entry-points.js';
import { FULL_FEATURES } from './compile-hooks.js';
import { LIBRARY } from './library.js';
import { meshModule, shadowModule } from './mesh-module.js';

/** A shader of the library's own that materials' shaders resemble, with the short names in it. */
export interface OwnShader {
  shader: CompiledShader;
  names: ShortNames;
}

/** What materials without a shader are drawn with, compiled as pages carry it. */
export const ownMesh = (): OwnShader => compiled(meshModule(), { file: 'mesh (entry points)' });

/** The same with what scenes may have around them. */
export function ownFullMesh(): OwnShader {
  const { shader, names } = compiled(meshModule(undefined, true), {
    file: 'full mesh (entry points)',
    features: FULL_FEATURES,
  });
  // It writes as many targets as a pipeline has.
  return { shader: { ...shader, outputs: [] }, names };
}

/** The same as a light sees it. */
export const ownShadow = (): OwnShader =>
  compiled(shadowModule(), { file: 'shadow (entry points)', features: FULL_FEATURES });

function compiled(text: string, options: Omit<CompileOptions, 'sources'>): OwnShader {
  const names = shortNames();
  return {
    shader: compileEntryPoints(
      compileWgsl(text, { ...options, sources: LIBRARY }),
      'meshVertex',
      'meshFragment',
      true,
      names,
    ),
    names,
  };
}
