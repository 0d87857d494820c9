import { LensError } from '@umber-lens/core';
import {
  type BufferOptions,
  type ColorAttachment,
  type DeviceFeature,
  type DeviceTexture,
  bufferSize,
  type DeviceLimits,
  type RenderPipelineOptions,
  type ShaderOptions,
  type TextureFormat,
  type TextureOptions,
} from './device.js';

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
  const { width, height, label = '' } = options;
  const fits = (n: number): boolean => Number.isInteger(n) && n > 0 && n <= limits.maxTextureSize;
  if (!fits(width) || !fits(height)) {
    throw new LensError('device/size', `texture "${label}" cannot be ${width} x ${height}`, {
      hint: `Each side is a whole number from 1 to ${limits.maxTextureSize} on this device.`,
    });
  }
}

export function checkWrite(size: number, offset: number, byteLength: number, label: string): void {
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

/** Whether attachments can be drawn into together. */
export function checkAttachments(
  colors: readonly ColorAttachment[],
  depth: DeviceTexture | undefined,
  features: ReadonlySet<DeviceFeature>,
): void {
  const all = [...colors.map(({ texture }) => texture), ...(depth ? [depth] : [])];
  const [first] = all;
  const isOdd = (texture: DeviceTexture): boolean =>
    texture.width !== first?.width ||
    texture.height !== first.height ||
    texture.sampleCount !== first.sampleCount;
  const lacks = (format: TextureFormat): boolean =>
    (format === 'rgba16float' && !features.has('float16-renderable')) ||
    (format === 'rgba32float' && !features.has('float32-renderable'));
  if (!all.some(isOdd) && !colors.some(({ texture }) => lacks(texture.format))) return;
  const told = all.map(({ label, format, width, height }) => `"${label}" ${format} ${width} x ${height}`);
  throw new LensError('device/attachments', 'these attachments cannot be drawn into together', {
    hint: `Sizes, samples and formats must fit: ${told.join(', ')}.`,
  });
}

export function alreadyInPass(): LensError {
  return new LensError('device/pass-open', 'a render pass is still open', {
    hint: 'Call end() on it first.',
  });
}
