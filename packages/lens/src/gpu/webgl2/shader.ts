import { LensError } from '@umber-lens/core';
import type { DeviceShader, ShaderOptions } from '../device.js';

/** A GL program object. */
export type Program = ReturnType<WebGL2RenderingContext['createProgram']>;

/** A linked program with what the passes need to know of it. */
export interface Webgl2Shader extends DeviceShader {
  readonly program: Program;
  /** GLSL samplers in the order of their texture units. */
  readonly samplers: readonly {
    unit: number;
    texture: readonly [number, number];
    sampler: readonly [number, number] | undefined;
  }[];
  /** Turns the shader's clip space into the target's; null when the compiler dropped it. */
  readonly clip: WebGLUniformLocation | null;
  readonly target: WebGLUniformLocation | null;
}

/** Uniform blocks are bound at group * 8 + binding, so that a binding means the same in every program. */
export const BLOCKS_A_GROUP = 8;

/**
 * Added behind every vertex shader. x turns y over (textures are kept top row first), y and z map
 * depth 0..1 to -w..w where the hardware cannot be told to.
 */
const CLIP_EPILOGUE = `
uniform vec4 umber_clip;
void main() {
  umber_main();
  gl_Position.y *= umber_clip.x;
  gl_Position.z = gl_Position.z * umber_clip.y - gl_Position.w * umber_clip.z;
}
`;

export function buildProgram(
  gl: WebGL2RenderingContext,
  options: ShaderOptions,
): Omit<Webgl2Shader, 'dispose'> {
  const { label = 'shader', glsl } = options;
  const vertexText =
    glsl.vertex.replace(/\bvoid\s+main\s*\(\s*(void)?\s*\)/, 'void umber_main()') + CLIP_EPILOGUE;
  const vertex = compile(gl, gl.VERTEX_SHADER, vertexText, `${label} (vertex)`);
  const fragment = compile(gl, gl.FRAGMENT_SHADER, glsl.fragment, `${label} (fragment)`);
  const program = gl.createProgram();
  gl.attachShader(program, vertex);
  gl.attachShader(program, fragment);
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS) && !gl.isContextLost()) {
    // Asked for only now, so that a driver may compile both stages at once.
    report(gl, vertex, vertexText, `${label} (vertex)`);
    report(gl, fragment, glsl.fragment, `${label} (fragment)`);
    throw new LensError(
      'shader/link',
      `shader "${label}" does not link: ${gl.getProgramInfoLog(program)?.trim() ?? ''}`,
    );
  }
  gl.deleteShader(vertex);
  gl.deleteShader(fragment);
  for (const [name, [group, binding]] of Object.entries(glsl.blocks ?? {})) {
    const index = gl.getUniformBlockIndex(program, name);
    // A block that no stage reads is no fault: its binding is simply not needed.
    if (index !== gl.INVALID_INDEX) gl.uniformBlockBinding(program, index, group * BLOCKS_A_GROUP + binding);
  }
  const samplers: Webgl2Shader['samplers'][number][] = [];
  gl.useProgram(program);
  for (const [name, { texture, sampler }] of Object.entries(glsl.samplers ?? {})) {
    const location = gl.getUniformLocation(program, name);
    if (!location) continue;
    gl.uniform1i(location, samplers.length);
    samplers.push({ unit: samplers.length, texture, sampler });
  }
  return {
    kind: 'shader',
    program,
    samplers,
    clip: gl.getUniformLocation(program, 'umber_clip'),
    target: gl.getUniformLocation(program, 'umber_target'),
  };
}

function compile(gl: WebGL2RenderingContext, type: number, text: string, _label: string): WebGLShader {
  const shader = gl.createShader(type);
  if (!shader) throw new LensError('device/lost', 'the graphics context is lost');
  gl.shaderSource(shader, text);
  gl.compileShader(shader);
  return shader;
}

/** Throws with the first error's line when the stage did not compile. */
function report(gl: WebGL2RenderingContext, shader: WebGLShader, text: string, label: string): void {
  if (gl.getShaderParameter(shader, gl.COMPILE_STATUS)) return;
  const log = gl.getShaderInfoLog(shader)?.trim() ?? '';
  const match = /^ERROR: \d+:(\d+): (.*)$/m.exec(log);
  const line = match ? Number(match[1]) : undefined;
  const shown = line === undefined ? '' : (text.split('\n')[line - 1]?.trim() ?? '');
  throw new LensError(
    'shader/compile',
    `${label}: ${match?.[2] ?? log}${shown ? `\n  ${line} | ${shown}` : ''}`,
    {
      where: { file: label, ...(line === undefined ? {} : { line }) },
    },
  );
}
