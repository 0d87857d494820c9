import type {
  AddressMode,
  BlendFactor,
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
  const type =
    kind === 'float'
      ? gl.FLOAT
      : bits === '8'
        ? signed
          ? gl.BYTE
          : gl.UNSIGNED_BYTE
        : bits === '16'
          ? signed
            ? gl.SHORT
            : gl.UNSIGNED_SHORT
          : signed
            ? gl.INT
            : gl.UNSIGNED_INT;
  return {
    size: Number(match?.[3] ?? 1),
    type,
    normalized: kind.endsWith('norm'),
    integer: kind === 'uint' || kind === 'sint',
  };
}

export function topologyMode(gl: GL, topology: RenderPipelineOptions['topology']): number {
  switch (topology) {
    case 'point-list':
      return gl.POINTS;
    case 'line-list':
      return gl.LINES;
    case 'line-strip':
      return gl.LINE_STRIP;
    case 'triangle-strip':
      return gl.TRIANGLE_STRIP;
    default:
      return gl.TRIANGLES;
  }
}

export function compareFunction(gl: GL, compare: CompareFunction): number {
  return {
    always: gl.ALWAYS,
    greater: gl.GREATER,
    'greater-equal': gl.GEQUAL,
    less: gl.LESS,
    'less-equal': gl.LEQUAL,
    equal: gl.EQUAL,
    'not-equal': gl.NOTEQUAL,
    never: gl.NEVER,
  }[compare];
}

export function blendFactor(gl: GL, factor: BlendFactor): number {
  return {
    zero: gl.ZERO,
    one: gl.ONE,
    'src-alpha': gl.SRC_ALPHA,
    'one-minus-src-alpha': gl.ONE_MINUS_SRC_ALPHA,
    'dst-alpha': gl.DST_ALPHA,
    'one-minus-dst-alpha': gl.ONE_MINUS_DST_ALPHA,
  }[factor];
}

export function wrapMode(gl: GL, mode: AddressMode | undefined): number {
  if (mode === 'clamp-to-edge') return gl.CLAMP_TO_EDGE;
  return mode === 'mirror-repeat' ? gl.MIRRORED_REPEAT : gl.REPEAT;
}
