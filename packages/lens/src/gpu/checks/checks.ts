import { LensError, nearest } from '@umber-lens/core/engine';
import type { Stage } from '../webgl2/shader.js';
import type {
  BufferOptions,
  ColorAttachment,
  DeviceFeature,
  DeviceTexture,
  DeviceLimits,
  DevicePipeline,
  RenderPipelineOptions,
  ShaderOptions,
  Subresource,
  TextureFormat,
  TextureOptions,
} from '../device.js';
import { bufferSize, FORMAT_BYTES, levelSize } from '../sizes.js';

export * from './watch-use.js';

/** What every backend refuses, in one wording. */
export function checkBuffer(options: BufferOptions): void {
  const size = bufferSize(options);
  if (!Number.isInteger(size) || size <= 0) {
    throw new LensError('device/size', `buffer "${options.label ?? ''}" cannot have ${size} bytes`, {
      hint: 'Give a whole number of bytes above 0.',
    });
  }
}

export function checkTexture(options: TextureOptions, limits: DeviceLimits): void {
  const { width, height, label = '', shape = '2d', layers = 1, sampleCount = 1 } = options;
  if (!(options.format in FORMAT_BYTES)) {
    const formats = Object.keys(FORMAT_BYTES);
    const near = nearest(String(options.format), formats);
    throw new LensError('device/format', `texture "${label}" cannot be "${String(options.format)}"`, {
      hint: `${near === undefined ? '' : `Did you mean "${near}"? `}There are ${formats.join(', ')}.`,
    });
  }
  const fits = (n: number): boolean => Number.isInteger(n) && n > 0 && n <= limits.maxTextureSize;
  if (!fits(width) || !fits(height)) {
    throw new LensError('device/size', `texture "${label}" cannot be ${width} x ${height}`, {
      hint: `Each side is a whole number from 1 to ${limits.maxTextureSize} on this device.`,
    });
  }
  const fault =
    shape === 'cube' && width !== height
      ? 'the sides of a cube are square'
      : !(Number.isInteger(layers) && layers > 0 && layers <= MOST_LAYERS)
        ? `a texture has 1 to ${MOST_LAYERS} layers, not ${layers}`
        : shape !== '2d' && sampleCount > 1
          ? 'only plain textures may have several samples'
          : undefined;
  if (fault) throw new LensError('device/shape', `texture "${label}" cannot be made: ${fault}`);
}

/** What both interfaces promise. */
const MOST_LAYERS = 256;

/** Whether a texture has this picture. */
export function checkSubresource(texture: DeviceTexture, { level = 0, layer = 0 }: Subresource): void {
  if (level >= 0 && level < texture.mipLevelCount && layer >= 0 && layer < texture.layers) return;
  throw new LensError(
    'device/subresource',
    `texture "${texture.label}" has no layer ${layer} at level ${level}`,
    { hint: `It has ${texture.layers} layers and ${texture.mipLevelCount} levels, counted from 0.` },
  );
}

/** Whether as many bytes are written into a texture as it takes. */
export function checkData({ label }: DeviceTexture, expected: number, given: number): void {
  if (given !== expected)
    throw new LensError('device/size', `texture "${label}" takes ${expected} bytes, got ${given}`);
}

export function checkWrite(size: number, offset: number, byteLength: number, label: string): void {
  if (offset % 4 !== 0) {
    throw new LensError('device/unaligned', `writing at byte ${offset} of buffer "${label}"`, {
      hint: 'Offsets are multiples of 4.',
    });
  }
  if (offset < 0 || offset + byteLength > size) {
    throw new LensError(
      'device/write-out-of-bounds',
      `writing ${byteLength} bytes at ${offset} leaves buffer "${label}" of ${size} bytes`,
    );
  }
}

/** Whether the formats of a pipeline's targets can hold what its shader writes. */
export function checkTargets(
  label: string,
  outputs: ShaderOptions['outputs'] = [],
  targets: RenderPipelineOptions['targets'] = [{ format: 'rgba8unorm' }],
): void {
  if (outputs.length === 0) return;
  targets.forEach(({ format }, i) => {
    const output = outputs.find(({ location }) => location === i);
    if (!output) {
      throw new LensError(
        'device/target',
        `pipeline "${label}" has a target ${i}, which its shader does not write`,
        {
          hint: `It writes ${outputs.map((o) => `@location(${o.location}) ${o.type}`).join(', ')}.`,
        },
      );
    }
    if (/[iu]32/.test(output.type)) {
      throw new LensError(
        'device/target',
        `target ${i} of pipeline "${label}" is ${format}, which cannot hold the ${output.type} that its shader writes`,
        { hint: 'Write vec4f, or encode whole numbers into it.' },
      );
    }
  });
  const lost = outputs.find(({ location }) => location >= targets.length);
  if (lost) {
    throw new LensError(
      'device/target',
      `what the shader of pipeline "${label}" writes to @location(${lost.location}) goes nowhere`,
      {
        hint: `Give the pipeline ${lost.location + 1} targets.`,
      },
    );
  }
}

/** A texture at the size of one of its levels. */
interface Sized {
  texture: DeviceTexture;
  width: number;
  height: number;
}

/** Whether attachments can be drawn into together. */
export function checkAttachments(
  colors: readonly ColorAttachment[],
  depth: DeviceTexture | undefined,
  features: ReadonlySet<DeviceFeature>,
): void {
  const sized = ({ texture, level = 0 }: ColorAttachment): Sized => ({
    texture,
    width: levelSize(texture.width, level),
    height: levelSize(texture.height, level),
  });
  for (const color of colors) checkSubresource(color.texture, color);
  const all = [...colors, ...(depth ? [{ texture: depth }] : [])].map(sized);
  const [first] = all;
  const isOdd = ({ texture, width, height }: Sized): boolean =>
    width !== first?.width || height !== first.height || texture.sampleCount !== first.texture.sampleCount;
  const lacks = (format: TextureFormat): boolean =>
    (format.endsWith('16float') && !features.has('float16-renderable')) ||
    (/^r.*32float$/.test(format) && !features.has('float32-renderable')) ||
    format.endsWith('snorm');
  if (!all.some(isOdd) && !colors.some(({ texture }) => lacks(texture.format))) return;
  const told = all.map(
    ({ texture, width, height }) => `"${texture.label}" ${texture.format} ${width} x ${height}`,
  );
  throw new LensError('device/attachments', 'these attachments cannot be drawn into together', {
    hint: `Sizes, samples and formats must fit: ${told.join(', ')}.`,
  });
}

export function noPipeline(): LensError {
  return new LensError('device/no-pipeline', 'a draw needs a pipeline', { hint: 'Call setPipeline first.' });
}

export function noAttachment(): LensError {
  return new LensError('device/no-attachment', 'a render pass needs an attachment to draw into');
}

export function noIndirect(): LensError {
  return new LensError('device/no-indirect', 'WebGL2 cannot draw by numbers that the GPU holds', {
    hint: 'Ask device.features for "compute" first.',
  });
}

/** What a pipeline reads was not set. */
export function missing({ label }: DevicePipeline, kind: 'binding' | 'vertices', what: string): LensError {
  return new LensError(`device/missing-${kind}`, `pipeline "${label}" needs ${what}`);
}

/** @param label of the pass that is open */
export function alreadyInPass(label = ''): LensError {
  return new LensError('device/pass-open', `render pass "${label}" is still open`, {
    hint: 'Call end() on it first.',
  });
}

/** Throws with the first error's line when the stage did not compile. */
export function checkCompiled(gl: WebGL2RenderingContext, { handle, text, label }: Stage): void {
  if (gl.getShaderParameter(handle, gl.COMPILE_STATUS)) return;
  const log = gl.getShaderInfoLog(handle)?.trim() ?? '';
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
