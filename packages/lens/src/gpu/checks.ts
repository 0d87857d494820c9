import { LensError } from '@umber-lens/core';
import type { BufferOptions, DeviceLimits, TextureOptions } from './device.js';

/** What every backend refuses, in one wording. */
export function checkBuffer(options: BufferOptions): void {
  if (!Number.isInteger(options.size) || options.size <= 0) {
    throw new LensError('device/size', `buffer "${options.label ?? ''}" cannot have ${options.size} bytes`, {
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

export function alreadyInPass(): LensError {
  return new LensError('device/pass-open', 'a render pass is still open', {
    hint: 'Call end() on it first.',
  });
}
