import { LensError } from '../errors/lens-error.js';
import { FEATURE } from '../material/features.js';
import type {
  CompiledShader,
  CustomInput,
  FullMaterial,
  MaterialSetting,
  MaterialShader,
  TextureSetting,
} from '../material/shader-types.js';
import { displacementOf } from '../wgsl/bound/displacement.js';
import { doubtsIn } from '../wgsl/bound/doubts.js';
import { type CompileOptions, compileWgsl, type Shader } from '../wgsl/compile.js';
import { reflect, type ReflectedResource, type ShaderSetting } from '../wgsl/reflect.js';
import { compileEntryPoints, type ShortNames } from './compile-entry-points.js';
import { type HookOutline, HOOKS, outlineHooks } from './hook-outline.js';
import { LIBRARY } from './library.js';
import {
  type BareInput,
  effectStage,
  HOOKS_FILE,
  meshStages,
  type MeshStages,
  type Stage,
} from './mesh-stages.js';

/** Modules that every shader material knows without importing them, outermost last. */
export const PRELUDE = [
  'umber/frame.wgsl',
  'umber/surface.wgsl',
  'umber/vertex.wgsl',
  'umber/lights.wgsl',
  'umber/lighting.wgsl',
  'umber/material.wgsl',
  'umber/color.wgsl',
  'umber/behind.wgsl',
  'umber/ray.wgsl',
];

/** The same for effects on pictures. */
export const EFFECT_PRELUDE = ['umber/pixel.wgsl', 'umber/color.wgsl'];

/** What `#if` asks for in the variant for scenes with more around them. */
export const FULL_FEATURES = ['full', 'layers'];

export interface CompileHooksOptions {
  /** Name for messages. Default `material.wgsl`. */
  file?: string;
  /** Texts of modules that the material imports, by file name. */
  sources?: Record<string, string>;
  /** Named features that `#if` asks for. */
  features?: readonly string[];
  /** Short names and no spaces. Default true. */
  minify?: boolean;
}

/** The same with what scenes may have around them; see `MaterialShader.full`. */
export function compileFullHooks(
  text: string,
  options: CompileHooksOptions = {},
  names: { mesh?: ShortNames; shadow?: ShortNames; surfaces?: ShortNames } = {},
): FullMaterial {
  const full = { ...options, features: [...(options.features ?? []), ...FULL_FEATURES] };
  const outline = outlineHooks(text, options.file ?? 'material.wgsl', full);
  const compiled = (stage: Stage, known?: ShortNames): CompiledShader =>
    compileEntryPoints(
      compileStage(linkedHooks(stage, text, outline, full)),
      'meshVertex',
      'meshFragment',
      options.minify ?? true,
      known,
    );
  return {
    // It writes as many targets as a pipeline has.
    mesh: { ...compiled('full', names.mesh), outputs: [] },
    shadow: compiled('shadow', names.shadow),
    surfaces: { ...compiled('surfaces', names.surfaces), outputs: [] },
  };
}

/**
 * Compiles a module of hooks into the shader of a material, for both GPU interfaces.
 *
 * @throws LensError with the author's file, line and column
 */
export function compileHooks<S = Record<string, unknown>>(
  text: string,
  options: CompileHooksOptions = {},
  names?: ShortNames,
): MaterialShader<S> {
  const { file = 'material.wgsl' } = options;
  if (typeof (text as unknown) !== 'string')
    throw new LensError(
      'shader/text',
      `${file} was given ${text === undefined ? 'nothing' : `a ${typeof text}`} in place of a shader's text`,
      {
        hint: 'compileMaterialShader(text): the WGSL of a module of hooks.',
      },
    );
  const outline = outlineHooks(text, file, options);
  const shader = compileStage(linkedHooks('plain', text, outline, options));
  const isEffect = outline.hooks.effect !== undefined;
  const [vertex, fragment] = isEffect ? ['effectVertex', 'effectFragment'] : ['meshVertex', 'meshFragment'];
  const compiled = compileEntryPoints(shader, vertex!, fragment!, options.minify ?? true, names);
  const { settings, instanceSettings, structs } = reflect(shader);
  const ranges = (all: readonly ShaderSetting[]): Record<string, [number, number]> =>
    Object.fromEntries(all.flatMap(({ name, range }) => (range ? [[name, range]] : [])));
  const reach =
    outline.hooks.displace &&
    (displacementOf(shader, 'displace', {
      Settings: ranges(settings),
      InstanceSettings: ranges(instanceSettings),
    }) ??
      'unknown');
  const size = structs.find((s) => s.name === 'Settings')?.size ?? 0;
  const doubts = doubtsIn(shader, outline.file, Object.keys(HOOKS)).map(
    ({ line, column, message, hint }) => `${outline.file}:${line}:${column}: ${message}. ${hint}`,
  );
  return {
    ...compiled,
    file,
    settings: settings.map(withDefault),
    settingsBytes: Math.ceil(size / 16) * 16,
    instanceSettings: instanceSettings.map((setting) => ({
      ...withDefault(setting),
      ...inputNamed(outline.instanceSettings, setting.name),
    })),
    attributes: outline.attributes,
    textures: textureSettings(outline, compiled.resources),
    readsBehind: outline.features.filter(
      (f) => f === 'sceneDepth' || f === 'sceneColor',
    ) as MaterialShader['readsBehind'],
    layers: outline.layers.reduce((bits, name) => bits | FEATURE[name], 0),
    ...(reach ? { reach } : {}),
    ...(doubts.length > 0 ? { doubts } : {}),
    ...(isEffect ? { effect: { inputs: outline.features.filter((f) => f.startsWith('effect')) } } : {}),
    isMarched: outline.hooks.march !== undefined,
    isTimed: outline.isTimed,
    isGatherable: !outline.hooks.march && !outline.hooks.light && !outline.hooks.outputColor,
    isLit: outline.hooks.outputColor === undefined || outline.hooks.outputColor.includes('vec4f'),
  } as MaterialShader<S>;
}

/** A stage's text, and what the compiler is told, so that it meets the library and an author's module. */
export interface LinkedStage {
  text: string;
  options: CompileOptions;
}

/** Meshes with an author's hooks. */
export const linkedHooks = (
  stage: Stage,
  text: string,
  outline: HookOutline,
  options: CompileHooksOptions,
): LinkedStage =>
  linkedWith(
    LIBRARY,
    outline.hooks.effect ? effectStage(outline) : meshStages(stage, outline),
    text,
    outline,
    options,
  );

/** The same as pages draw them that have nothing of the library. @param library its texts, those of bare stages in place of others */
export const linkedBare = (
  library: Readonly<Record<string, string>>,
  brought: readonly BareInput[],
  text: string,
  outline: HookOutline,
  options: CompileHooksOptions,
): LinkedStage => linkedWith(library, meshStages('bare', outline, brought), text, outline, options);

function linkedWith(
  library: Readonly<Record<string, string>>,
  { root, hooks, features: asked }: MeshStages,
  text: string,
  { file, features, hooks: { effect } }: HookOutline,
  options: CompileHooksOptions,
): LinkedStage {
  return {
    text: library[root]!, // a file of the library
    options: {
      file: `${file} (entry points)`,
      sources: { ...library, ...options.sources, [file]: text, [HOOKS_FILE]: hooks },
      features: [...features, ...(options.features ?? []), ...asked],
      prelude: effect ? EFFECT_PRELUDE : PRELUDE,
      group: 2,
    },
  };
}

/** Meshes without hooks. @param features of the library */
export function linkedMesh(stage: Stage, file: string, features: readonly string[] = []): LinkedStage {
  const { root, hooks, features: asked } = meshStages(stage);
  return {
    text: LIBRARY[root]!, // a file of the library
    options: {
      file,
      sources: { ...LIBRARY, [HOOKS_FILE]: hooks },
      features: [...features, ...asked],
    },
  };
}

export const compileStage = ({ text, options }: LinkedStage): Shader => compileWgsl(text, options);

const inputNamed = (
  inputs: readonly CustomInput[],
  name: string,
): { location: number; components: number } => {
  const { location, components } = inputs.find((input) => input.name === name)!; // both lists are of one structure
  return { location, components };
};

/** A setting without a default in its comment begins at zero. */
function withDefault(setting: ShaderSetting): MaterialSetting {
  const size = Number(/^vec([234])/.exec(setting.type)?.[1] ?? 0);
  const matrix = /^mat(\d)x(\d)/.exec(setting.type);
  const zeros = matrix ? Number(matrix[1]) * Number(matrix[2]) : size;
  const given = setting.default;
  const value =
    typeof given === 'boolean'
      ? Number(given)
      : (given ?? (zeros > 0 ? new Array<number>(zeros).fill(0) : 0));
  return { ...setting, default: value, hasDefault: given !== undefined };
}

/** Textures that an author declares are settings; a sampler named after one is bound with it. */
function textureSettings(outline: HookOutline, resources: readonly ReflectedResource[]): TextureSetting[] {
  const bindingOf = (name: string): number | undefined =>
    resources.find((r) => r.name === name && r.group === 2)?.binding;
  return outline.variables.flatMap(({ name, type, comment }): TextureSetting[] => {
    const binding = bindingOf(name);
    if (!type.startsWith('texture') || binding === undefined) return [];
    const sampler = bindingOf(`${name}Sampler`);
    const [, kind = '', documentation = ''] = /^(color|data)?\b\s*(.*)$/.exec(comment) ?? [];
    return [
      {
        name,
        binding,
        ...(sampler === undefined ? {} : { samplerBinding: sampler }),
        kind: kind === 'data' ? 'data' : 'color',
        ...(type.startsWith('texture_cube') ? { shape: 'cube' as const } : {}),
        ...(type.startsWith('texture_2d_array') ? { shape: '2d-array' as const } : {}),
        documentation,
      },
    ];
  });
}
