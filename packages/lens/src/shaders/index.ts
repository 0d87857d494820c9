/**
 * Compiles hooks and modules of WGSL while a page runs.
 *
 * @module umber-lens/shaders
 */
import {
  checkWgsl,
  type CompiledShader,
  compileWgsl,
  doubtsIn,
  type FullMaterial,
  type Finding,
  LensError,
  type MaterialShader,
  outlineWgsl,
  type Shader,
} from '@umber-lens/core/engine';
import { SHADER_FEEDS } from './shader-feeds.js';
import {
  compileFullHooks,
  compileHooks,
  type CompileMaterialShaderOptions,
  linkOptions,
  type ShortNames,
} from './compile-material.js';
import { LIBRARY } from '../wgsl/library.js';
import { ownFullMesh, ownMesh, type OwnShader, ownShadow } from './own-shaders.js';
import { packShader } from './packed-shader.js';
import { HOOKS, outlineHooks } from './hook-outline.js';
import { meshModule } from './mesh-module.js';

export type { CompiledShader, MaterialShader, TextureSetting } from '@umber-lens/core/engine';
export {
  compileCompute,
  type CompileMaterialShaderOptions,
  compileModule,
  PRELUDE,
} from './compile-material.js';
export { LIBRARY } from '../wgsl/library.js';
export { type HookName, HOOKS } from './hook-outline.js';
export { type ImportedShader, materialTypes, settingsOf, settingsTypes, typesPath } from './module-types.js';

/**
 * Compiles a module of hooks (`displace`, `surface`, `light`, `outputColor`) into the shader of a material, for
 * both GPU interfaces. Pages that import their `.wgsl` files through the Vite plugin have this done when they
 * are built, and carry no compiler.
 *
 * @throws LensError with the author's file, line and column; the message shows the line
 */
export function compileMaterialShader<S = Record<string, unknown>>(
  text: string,
  options: CompileMaterialShaderOptions = {},
): MaterialShader<S> {
  let full: Promise<FullMaterial> | undefined;
  return {
    ...compileHooks<S>(text, LIBRARY, options),
    feeds: SHADER_FEEDS,
    full: () => (full ??= Promise.resolve().then(() => compileFullMaterial(text, options))),
  };
}

/** The variant of a module of hooks for scenes with more around them than lights: `full` of its shader. @throws LensError */
export function compileFullMaterial(text: string, options: CompileMaterialShaderOptions = {}): FullMaterial {
  return compileFullHooks(text, LIBRARY, options);
}

let mesh: OwnShader | undefined;
let fullMesh: OwnShader | undefined;
let shadow: OwnShader | undefined;

/**
 * As `compileMaterialShader`, for pages that are built: of its texts it holds what sets them apart from the library's own, which
 * pages carry anyway. `feeds` and `full` are the caller's to add. @throws LensError
 */
export function packMaterial<S = Record<string, unknown>>(
  text: string,
  options: CompileMaterialShaderOptions = {},
): MaterialShader<S> {
  mesh ??= ownMesh(LIBRARY);
  const whole = compileHooks<S>(text, LIBRARY, options, copied(mesh));
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

/** The same of `compileFullMaterial`. @throws LensError */
export function packFullMaterial(text: string, options: CompileMaterialShaderOptions = {}): FullMaterial {
  fullMesh ??= ownFullMesh(LIBRARY);
  shadow ??= ownShadow(LIBRARY);
  const full = compileFullHooks(text, LIBRARY, options, { mesh: copied(fullMesh), shadow: copied(shadow) });
  return { mesh: packShader(full.mesh, fullMesh.shader), shadow: packShader(full.shadow, shadow.shader) };
}

/** Whether a module is one of hooks: it defines some and has no entry points. */
export function holdsHooks(text: string, file?: string): boolean {
  if (/@(vertex|fragment|compute)\b/.test(text)) return false;
  try {
    return outlineWgsl(text, file).functions.some(({ name }) => name in HOOKS);
  } catch {
    return false; // what is wrong with it is told by the check
  }
}

/**
 * The module of hooks linked with the library and its entry points `meshVertex` and `meshFragment`, for
 * translating it and for running its functions on the CPU.
 *
 * @throws LensError
 */
export function linkMaterial(text: string, options: CompileMaterialShaderOptions = {}): Shader {
  const outline = outlineHooks(text, options.file ?? 'material.wgsl', options);
  return compileWgsl(meshModule(outline), linkOptions(text, outline, LIBRARY, options));
}

/** Everything that is wrong with a module of hooks; empty when it compiles. */
export function checkMaterial(text: string, options: CompileMaterialShaderOptions = {}): Finding[] {
  try {
    const outline = outlineHooks(text, options.file ?? 'material.wgsl', options);
    const linked = linkOptions(text, outline, LIBRARY, options);
    const faults = checkWgsl(meshModule(outline), linked);
    if (faults.length > 0) return faults;
    // What is right by the language, and seldom meant.
    return doubtsIn(compileWgsl(meshModule(outline), linked), outline.file, Object.keys(HOOKS));
  } catch (error) {
    if (!(error instanceof LensError)) throw error;
    const { code, summary: message, hint, where } = error;
    const { file = 'material.wgsl', line = 1, column = 1 } = where;
    const lineText = text.split('\n')[line - 1] ?? '';
    return [{ file, line, column, severity: 'error', code, message, hint, lineText, length: 1 }];
  }
}
