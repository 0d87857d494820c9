import type { Device } from './gpu/device.js';
import { ownShareOf } from './gpu/own-share.js';
import { Lens, type LensOptions } from './lens.js';
import { SHADERS as GLSL_SHADERS } from './compiled/compiled-glsl.js';
import { SHADERS as WGSL_SHADERS } from './compiled/compiled-wgsl.js';

/** A lens on a device of the caller's: the way to draw without a page. Its `dispose` frees what the lens made, and nothing else. */
export function lensOn(device: Device, options: LensOptions = {}): Lens {
  const shaders = device.backend === 'webgpu' ? WGSL_SHADERS : GLSL_SHADERS;
  const opened = {
    device: ownShareOf(device),
    given: device,
    shaders,
    onLoss: () => undefined,
    reopen: undefined,
    release: () => undefined,
  };
  return new Lens(opened, options);
}
