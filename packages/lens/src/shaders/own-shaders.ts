import { type CompiledShader, compileWgsl, type CompileOptions } from '@umber-lens/core/engine';
import { compileEntryPoints, FULL_FEATURES, type ShortNames, shortNames } from './compile-material.js';
import { meshModule, shadowModule } from './mesh-module.js';

/** A shader of the library's own that materials' shaders resemble, with the short names in it. */
export interface OwnShader {
  shader: CompiledShader;
  names: ShortNames;
}

type Library = Readonly<Record<string, string>>;

/** What materials without a shader are drawn with, compiled as pages carry it. */
export const ownMesh = (library: Library): OwnShader =>
  compiled(meshModule(), { file: 'mesh (entry points)', sources: library });

/** The same with what scenes may have around them. */
export function ownFullMesh(library: Library): OwnShader {
  const { shader, names } = compiled(meshModule(undefined, true), {
    file: 'full mesh (entry points)',
    sources: library,
    features: FULL_FEATURES,
  });
  // It writes as many targets as a pipeline has.
  return { shader: { ...shader, outputs: [] }, names };
}

/** The same as a light sees it. */
export const ownShadow = (library: Library): OwnShader =>
  compiled(shadowModule(), { file: 'shadow (entry points)', sources: library, features: FULL_FEATURES });

function compiled(text: string, options: CompileOptions): OwnShader {
  const names = shortNames();
  return {
    shader: compileEntryPoints(compileWgsl(text, options), 'meshVertex', 'meshFragment', true, names),
    names,
  };
}
