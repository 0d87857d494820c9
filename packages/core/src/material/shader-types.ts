import type { GlslShader } from '../wgsl/emit/glsl-state.js';
import type { ReflectedResource, ShaderSetting } from '../wgsl/reflect.js';

/** An entry point that computes, with its module in WGSL. */
export interface ComputeShader {
  label?: string;
  wgsl: string;
  /** Name of the entry point. */
  entry: string;
  /** What the entry point binds. */
  resources: readonly ReflectedResource[];
}

/** A value a vertex or an instance brings along to a shader. */
export interface CustomInput {
  name: string;
  location: number;
  /** Floats, 1 to 4. */
  components: number;
}

/** Both stages of a shader in both languages, as the compiler gives them. */
export interface CompiledShader {
  /** Linked WGSL. */
  wgsl: string;
  /** Names of the entry points. */
  vertex: string;
  fragment: string;
  /** What it binds. */
  resources: readonly ReflectedResource[];
  /** What the fragment stage writes. */
  outputs: readonly { location: number; type: string }[];
  /** Names of the overrides, which pipelines give values to. */
  overrides: readonly string[];
  /** GLSL ES 3.00, by stage; undefined where WebGL2 cannot do what the shader asks. */
  glsl?: { vertex: GlslShader; fragment: GlslShader };
  /** Why there is no GLSL, with the place. */
  notInWebgl2?: string;
  /** In place of its texts: what sets them apart from the library's own. `wgsl` then only tells shaders apart. */
  packed?: PackedShader;
  /** Why there is no WGSL; `wgsl` then only tells shaders apart. */
  notInWebgpu?: string;
}

/** A shader by language: a number that tells what it was packed against, and parts of that with what is its own. */
export interface PackedShader {
  wgsl: readonly (string | number)[];
  glsl: readonly (string | number)[];
}

/** A material's shader for scenes with more around them than lights. */
export interface FullMaterial {
  mesh: CompiledShader;
  /** As a light sees it, for its shadow: depth alone. */
  shadow: CompiledShader;
  /** What its surfaces are, for effects that ask: which way they face, how they mirror, how they move. */
  surfaces: CompiledShader;
}

/** A texture that a material may be given. */
export interface TextureSetting {
  name: string;
  binding: number;
  samplerBinding?: number;
  /** Colour is stored sRGB-encoded, data as it is. */
  kind: 'color' | 'data';
  /** Of what has several pictures: they come from targets of that shape. Left out: one picture. */
  shape?: 'cube' | '2d-array';
  documentation: string;
}

/** A setting with what it begins with. */
export interface MaterialSetting extends ShaderSetting {
  default: number | number[];
  /** False where the shader gives no default: it begins at zero then. */
  hasDefault: boolean;
}

/** What effects of one's own may read besides the picture, by the names of their parts of the library. */
export type EffectInput =
  'effectSecond' | 'effectBefore' | 'effectDepth' | 'effectNormal' | 'effectVelocity' | 'effectThings';

/** A module of hooks or a graph as text, with the modules that it imports by the names of their files. */
export interface ShaderText {
  text: string;
  sources: Readonly<Record<string, string>>;
}

/** The shader of a material: what an author's hooks became, and what it can be given. */
export interface MaterialShader<S = unknown> extends CompiledShader {
  file: string;
  /** What it was compiled from, where that was done while the page runs: an editor opens it. Left out: what stands in `file`. */
  source?: ShaderText;
  /** Of an effect on pictures, and not of a material: which inputs it reads besides the picture. */
  effect?: { inputs: readonly EffectInput[] };
  /** In the order of the structure `Settings`, each with its default. */
  settings: readonly MaterialSetting[];
  /** Bytes of the structure `Settings`; 0 without one. */
  settingsBytes: number;
  /** Members of `InstanceSettings`. */
  instanceSettings: readonly (MaterialSetting & Omit<CustomInput, 'name'>)[];
  /** Members of `Attributes`: attributes that the geometry must have. */
  attributes: readonly CustomInput[];
  textures: readonly TextureSetting[];
  /** What lies behind a surface, if the shader asks for it. */
  readsBehind: readonly ('sceneDepth' | 'sceneColor')[];
  /** Bits of the layers that its hooks give a surface, as `FEATURE` has them. */
  layers: number;
  /** Whether its shape is found by marching; the geometry only says which pixels are asked. */
  isMarched: boolean;
  /**
   * How far its hooks move vertices at most, in the geometry's own space: metres, and a share of a vertex's distance from the
   * origin, while settings keep within the ranges that its text gives them. Left out: nothing is moved.
   */
  reach?: { fixed: number; share: number } | 'unknown';
  /** What is right by the language and seldom meant in its text, in words; said once while developing. */
  doubts?: readonly string[];
  /** Whether light reaches it; a final colour that does not ask for the lit one is shown as given. */
  isLit: boolean;
  /** Whether it asks what time it is, or may: then no frame is like the one before. */
  isTimed: boolean;
  /** Whether light may be added to what it describes later: it has no answer of its own to light, and marches nothing. */
  isGatherable: boolean;
  /**
   * The same shader with what scenes may have around them (environments, fog, other tone curves), loaded when a scene
   * has some of it. Left out: it is drawn without.
   */
  full?: () => Promise<FullMaterial>;
  /**
   * The lens's code that brings settings to the GPU. It comes with every compiled shader, so that pages without shader
   * materials do not carry it; a shader without it has none of its settings.
   */
  feeds?: object;
  /** Calls back when the file changed while serving; the object is the same, its contents are new. */
  onChange?(listener: (shader: MaterialShader<S>) => void): () => void;
  /** Only for types: what `settings` of a material with this shader holds. */
  readonly settingsType?: S;
}
