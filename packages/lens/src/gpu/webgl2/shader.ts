import { LensError, STORAGE_ROW } from '@umber-lens/core/engine';
import { checkCompiled } from '#checks';
import type { DeviceShader, GlslStage, RenderPipelineOptions, ShaderOptions } from '../device.js';

/** A GL program object. */
export type Program = ReturnType<WebGL2RenderingContext['createProgram']>;

export interface Webgl2Shader extends DeviceShader {
  readonly label: string;
  readonly glsl: NonNullable<ShaderOptions['glsl']>;
  readonly outputs: ShaderOptions['outputs'];
  /** Made so far, by the values of their constants. */
  readonly programs: Map<string, PendingProgram>;
}

/**
 * A program that is being compiled and linked. Drivers do that beside the script as long as nobody asks how it
 * went, so nobody does until it is drawn with.
 */
export interface PendingProgram {
  readonly program: Program;
  /** What the passes need to know. Waits, the first time. @throws LensError `shader/compile`, `shader/link` */
  linked(): LinkedProgram;
}

/** Another vertex stage in place of a shader's own. */
export interface VertexEdit {
  /** Equal for edits that do the same. */
  key: string;
  edit: (text: string) => string;
}

/** A linked program with what the passes need to know of it. */
export interface LinkedProgram {
  readonly program: Program;
  /** GLSL samplers in the order of their texture units. */
  readonly samplers: readonly {
    unit: number;
    texture: readonly [number, number];
    sampler: readonly [number, number] | undefined;
  }[];
  /** Storage buffers, which are textures here. */
  readonly storage: readonly {
    unit: number;
    binding: readonly [number, number];
    length: WebGLUniformLocation | null;
  }[];
  /** Turns the shader's clip space into the target's; null when the compiler dropped it. */
  readonly clip: WebGLUniformLocation | null;
  readonly target: WebGLUniformLocation | null;
}

/** Uniform blocks are bound at group * 8 + binding, so that a binding means the same in every program. */
export const BLOCKS_A_GROUP = 7;
/** Words in a row of the texture that holds a storage buffer. */
export const STORAGE_ROW_WORDS = STORAGE_ROW * 4;

/**
 * Added behind every vertex shader. x turns y over (textures are kept top row first), y and z map
 * depth 0..1 to -w..w where the hardware cannot be told to.
 */
const CLIP_EPILOGUE = `
uniform vec4 umber_clip;
void main(){umber_main();gl_PointSize=1.;gl_Position.yz=gl_Position.yz*umber_clip.xy-vec2(0,gl_Position.w*umber_clip.z);}`;

/** @throws LensError `shader/no-glsl` */
export function webgl2Shader(options: ShaderOptions): Omit<Webgl2Shader, 'dispose'> {
  const { label = 'shader', glsl, notInWebgl2 } = options;
  if (!glsl) {
    throw new LensError(
      'shader/no-glsl',
      `shader "${label}" has no GLSL, which WebGL2 needs${notInWebgl2 ? `: ${notInWebgl2}` : ''}`,
      {
        hint: 'Compile it for both interfaces, or open the lens with backend: "webgpu".',
      },
    );
  }
  return { kind: 'shader', label, glsl, outputs: options.outputs, programs: new Map() };
}

/** The program for these constants; made once. */
export function programOf(
  gl: WebGL2RenderingContext,
  shader: Webgl2Shader,
  constants: RenderPipelineOptions['constants'] = {},
  vertexEdit?: VertexEdit,
): PendingProgram {
  const values = Object.entries(constants)
    .map(([name, value]) => `${name}=${value}`)
    .sort()
    .join(' ');
  const key = `${vertexEdit?.key ?? ''} ${values}`;
  let found = shader.programs.get(key);
  if (!found) shader.programs.set(key, (found = begin(gl, shader, constants, vertexEdit)));
  return found;
}

function begin(
  gl: WebGL2RenderingContext,
  shader: Webgl2Shader,
  constants: NonNullable<RenderPipelineOptions['constants']>,
  vertexEdit: VertexEdit | undefined,
): PendingProgram {
  const { glsl } = shader;
  const given = textOf(glsl.vertex, constants);
  const vertexText =
    (vertexEdit?.edit(given) ?? given).replace(/\bvoid\s+main\s*\(\s*(void)?\s*\)/, 'void umber_main()') +
    CLIP_EPILOGUE;
  const fragmentText = textOf(glsl.fragment, constants);
  const stages = [
    compile(gl, gl.VERTEX_SHADER, vertexText, `${shader.label} (vertex)`),
    compile(gl, gl.FRAGMENT_SHADER, fragmentText, `${shader.label} (fragment)`),
  ];
  const program = gl.createProgram();
  for (const { handle } of stages) gl.attachShader(program, handle);
  gl.linkProgram(program);
  let linked: LinkedProgram | undefined;
  return { program, linked: () => (linked ??= finish(gl, shader, program, stages)) };
}

function finish(
  gl: WebGL2RenderingContext,
  { label, glsl }: Webgl2Shader,
  program: Program,
  stages: readonly Stage[],
): LinkedProgram {
  if (!gl.getProgramParameter(program, gl.LINK_STATUS) && !gl.isContextLost()) {
    // Asked for only now, so that a driver may compile both stages at once.
    for (const stage of stages) checkCompiled(gl, stage);
    throw new LensError(
      'shader/link',
      `shader "${label}" does not link: ${gl.getProgramInfoLog(program)?.trim() ?? ''}`,
    );
  }
  for (const { handle } of stages) gl.deleteShader(handle);
  for (const [name, [group, binding]] of Object.entries({ ...glsl.vertex.blocks, ...glsl.fragment.blocks })) {
    const index = gl.getUniformBlockIndex(program, name);
    // A block that no stage reads is no fault: its binding is simply not needed.
    if (index !== gl.INVALID_INDEX) gl.uniformBlockBinding(program, index, group * BLOCKS_A_GROUP + binding);
  }
  return { program, ...bindUnits(gl, program, glsl) };
}

/** Gives every sampler of the program a texture unit. */
function bindUnits(
  gl: WebGL2RenderingContext,
  program: Program,
  { vertex, fragment }: Webgl2Shader['glsl'],
): Omit<LinkedProgram, 'program'> {
  gl.useProgram(program);
  let units = 0;
  const unitOf = (name: string): number | undefined => {
    const location = gl.getUniformLocation(program, name);
    if (!location) return undefined;
    gl.uniform1i(location, units);
    return units++;
  };
  const samplers = Object.entries({ ...vertex.samplers, ...fragment.samplers }).flatMap(
    ([name, { texture, sampler }]) => {
      const unit = unitOf(name);
      return unit === undefined ? [] : [{ unit, texture, sampler }];
    },
  );
  const storage = Object.entries({ ...vertex.storage, ...fragment.storage }).flatMap(
    ([name, { binding, lengthUniform }]) => {
      const unit = unitOf(name);
      const length = gl.getUniformLocation(program, lengthUniform);
      return unit === undefined ? [] : [{ unit, binding, length }];
    },
  );
  return {
    samplers,
    storage,
    clip: gl.getUniformLocation(program, 'umber_clip'),
    target: gl.getUniformLocation(program, 'umber_target'),
  };
}

/** The stage's text with its constants defined behind the version line. */
function textOf(
  { text, overrides = {} }: GlslStage,
  constants: NonNullable<RenderPipelineOptions['constants']>,
): string {
  const defines = Object.entries(constants).flatMap(([name, value]) =>
    overrides[name] === undefined ? [] : [`#define ${overrides[name]} ${value}\n`],
  );
  if (defines.length === 0) return text;
  const end = text.indexOf('\n') + 1;
  return text.slice(0, end) + defines.join('') + text.slice(end);
}

/** A stage that was compiled. */
export interface Stage {
  handle: WebGLShader;
  text: string;
  label: string;
}

function compile(gl: WebGL2RenderingContext, type: number, text: string, label: string): Stage {
  const handle = gl.createShader(type);
  if (!handle) throw new LensError('device/lost', 'the graphics context is lost');
  gl.shaderSource(handle, text);
  gl.compileShader(handle);
  return { handle, text, label };
}
