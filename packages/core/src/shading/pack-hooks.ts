import type { CompiledShader, FullMaterial, MaterialShader } from '../material/shader-types.js';
import type { ShortNames } from './compile-entry-points.js';
import { compileFullHooks, compileHooks, type CompileHooksOptions } from './compile-hooks.js';
import { outlineHooks } from './hook-outline.js';
import { ownFullMesh, ownMesh, type OwnShader, ownShadow, ownSurfaces } from './own-shaders.js';
import { packShader } from './packed-shader.js';

let mesh: OwnShader | undefined;
let fullMesh: OwnShader | undefined;
let shadow: OwnShader | undefined;
let surfaces: OwnShader | undefined;

/**
 * As `compileHooks`, for pages that are built: of its texts it holds what sets them apart from the library's own, which
 * pages carry anyway. `full` is the caller's to add. @throws LensError
 */
export function packHooks<S = Record<string, unknown>>(
  text: string,
  options: CompileHooksOptions = {},
): MaterialShader<S> {
  const { hooks } = outlineHooks(text, options.file ?? 'material.wgsl', options);
  if (hooks.effect) {
    const { doubts, ...effect } = compileHooks<S>(text, options);
    void doubts;
    return effect as MaterialShader<S>;
  }
  mesh ??= ownMesh();
  const whole = compileHooks<S>(text, options, copied(mesh));
  const { wgsl, vertex, fragment, resources, outputs, overrides, glsl, notInWebgl2, doubts, ...rest } = whole;
  // Builds say nothing.
  void doubts;
  const shader: CompiledShader = {
    ...{ wgsl, vertex, fragment, resources, outputs, overrides },
    ...(glsl ? { glsl } : {}),
    ...(notInWebgl2 === undefined ? {} : { notInWebgl2 }),
  };
  return { ...rest, ...packShader(shader, mesh.shader) };
}

/** Names that a module adds are its alone. */
const copied = ({ names: { wgsl, vertex, fragment } }: OwnShader): ShortNames => ({
  wgsl: new Map(wgsl),
  vertex: new Map(vertex),
  fragment: new Map(fragment),
});

/** The same of `compileFullHooks`. @throws LensError */
export function packFullHooks(text: string, options: CompileHooksOptions = {}): FullMaterial {
  fullMesh ??= ownFullMesh();
  shadow ??= ownShadow();
  surfaces ??= ownSurfaces();
  const full = compileFullHooks(text, options, {
    mesh: copied(fullMesh),
    shadow: copied(shadow),
    surfaces: copied(surfaces),
  });
  return {
    mesh: packShader(full.mesh, fullMesh.shader),
    shadow: packShader(full.shadow, shadow.shader),
    surfaces: packShader(full.surfaces, surfaces.shader),
  };
}
