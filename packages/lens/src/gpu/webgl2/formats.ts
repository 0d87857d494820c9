import type { StencilOperation, StencilState } from '@umber-lens/core/engine';
import type {
  AddressMode,
  BlendFactor,
  BlendOperation,
  CompareFunction,
  RenderPipelineOptions,
  TextureFormat,
  VertexFormat,
} from '../device.js';

type GL = WebGL2RenderingContext;

/** Internal format, and what uploads and read-backs use. */
export function textureFormat(
  gl: GL,
  format: TextureFormat,
): { internal: number; format: number; type: number } {
  switch (format) {
    case 'r8unorm':
      return { internal: gl.R8, format: gl.RED, type: gl.UNSIGNED_BYTE };
    case 'rg8unorm':
      return { internal: gl.RG8, format: gl.RG, type: gl.UNSIGNED_BYTE };
    case 'r8snorm':
      return { internal: gl.R8_SNORM, format: gl.RED, type: gl.BYTE };
    case 'rg8snorm':
      return { internal: gl.RG8_SNORM, format: gl.RG, type: gl.BYTE };
    case 'rgba8snorm':
      return { internal: gl.RGBA8_SNORM, format: gl.RGBA, type: gl.BYTE };
    case 'rgb10a2unorm':
      return { internal: gl.RGB10_A2, format: gl.RGBA, type: gl.UNSIGNED_INT_2_10_10_10_REV };
    case 'r16float':
      return { internal: gl.R16F, format: gl.RED, type: gl.FLOAT };
    case 'rg16float':
      return { internal: gl.RG16F, format: gl.RG, type: gl.FLOAT };
    case 'r32float':
      return { internal: gl.R32F, format: gl.RED, type: gl.FLOAT };
    case 'rgba8unorm':
    case 'bgra8unorm':
      return { internal: gl.RGBA8, format: gl.RGBA, type: gl.UNSIGNED_BYTE };
    case 'rgba8unorm-srgb':
      return { internal: gl.SRGB8_ALPHA8, format: gl.RGBA, type: gl.UNSIGNED_BYTE };
    case 'rgba16float':
      return { internal: gl.RGBA16F, format: gl.RGBA, type: gl.FLOAT };
    case 'rgba32float':
      return { internal: gl.RGBA32F, format: gl.RGBA, type: gl.FLOAT };
    case 'depth32float':
      return { internal: gl.DEPTH_COMPONENT32F, format: gl.DEPTH_COMPONENT, type: gl.FLOAT };
    case 'depth24plus':
      return { internal: gl.DEPTH_COMPONENT24, format: gl.DEPTH_COMPONENT, type: gl.UNSIGNED_INT };
    case 'depth32float-stencil8':
      return {
        internal: gl.DEPTH32F_STENCIL8,
        format: gl.DEPTH_STENCIL,
        type: gl.FLOAT_32_UNSIGNED_INT_24_8_REV,
      };
    case 'depth24plus-stencil8':
      return { internal: gl.DEPTH24_STENCIL8, format: gl.DEPTH_STENCIL, type: gl.UNSIGNED_INT_24_8 };
  }
}

export interface VertexType {
  size: number;
  type: number;
  normalized: boolean;
  /** Read as whole numbers in the shader. */
  integer: boolean;
}

export function vertexType(gl: GL, format: VertexFormat): VertexType {
  const match = /^(float|uint|sint|unorm|snorm)(8|16|32)(?:x([234]))?$/.exec(format);
  const [kind, bits] = [match?.[1] ?? 'float', match?.[2] ?? '32'];
  const signed = kind === 'sint' || kind === 'snorm';
  // In WebGL they are numbered so: BYTE, UNSIGNED_BYTE, SHORT, and so on.
  const type = kind === 'float' ? gl.FLOAT : gl.BYTE + 2 * ['8', '16', '32'].indexOf(bits) + (signed ? 0 : 1);
  return {
    size: Number(match?.[3] ?? 1),
    type,
    normalized: kind.endsWith('norm'),
    integer: kind === 'uint' || kind === 'sint',
  };
}

/** The constant of a name, which WebGL writes in capitals. */
function named(gl: GL, name: string): number {
  return (gl as unknown as Record<string, number>)[name.replaceAll('-', '_').toUpperCase()]!; // of the types below
}

export function topologyMode(gl: GL, topology: RenderPipelineOptions['topology'] = 'triangle-list'): number {
  return named(gl, topology.endsWith('list') ? topology.replace('-list', 's') : topology);
}

const COMPARED = ['never', 'less', 'equal', 'less-equal', 'greater', 'not-equal', 'greater-equal', 'always'];

/** In WebGL they are numbered in this order. */
export function compareFunction(gl: GL, compare: CompareFunction): number {
  return gl.NEVER + COMPARED.indexOf(compare);
}

export function blendFactor(gl: GL, factor: BlendFactor): number {
  if (factor === 'src-alpha-saturated') return gl.SRC_ALPHA_SATURATE;
  return named(gl, /(src|dst|constant)$/.test(factor) ? `${factor}-color` : factor);
}

export function blendOperation(gl: GL, operation: BlendOperation = 'add'): number {
  if (operation === 'min' || operation === 'max') return gl[operation === 'min' ? 'MIN' : 'MAX'];
  return named(
    gl,
    operation === 'add' || operation === 'subtract' ? `func-${operation}` : 'func-reverse-subtract',
  );
}

/** What a pipeline says of the stencil, as GL takes it: see `Webgl2Pipeline`. */
export function stencilState(gl: GL, stencil: StencilState): number[] {
  const { compare = 'always', failOp = 'keep', depthFailOp = 'keep', passOp = 'keep' } = stencil;
  const operation = (name: StencilOperation): number =>
    named(gl, name.replace('ement', '').replace('-clamp', ''));
  return [
    compareFunction(gl, compare),
    stencil.reference ?? 0,
    stencil.readMask ?? 255,
    operation(failOp),
    operation(depthFailOp),
    operation(passOp),
    stencil.writeMask ?? 255,
  ];
}

/** Bits of the channels that are written. */
export const writeMaskOf = (write: boolean | number = true): number =>
  typeof write === 'number' ? write : write ? 15 : 0;

export function wrapMode(gl: GL, mode: AddressMode = 'repeat'): number {
  return named(gl, mode === 'mirror-repeat' ? 'mirrored-repeat' : mode);
}

export function filterMode(gl: GL, filter: string, between = 'none'): number {
  return named(gl, between === 'none' ? filter : `${filter}-mipmap-${between}`);
}
