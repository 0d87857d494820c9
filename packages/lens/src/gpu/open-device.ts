import { LensError } from '@umber-lens/core/engine';
import type { Device } from './device.js';
import type { LensShaders } from '../compiled/lens-shaders.js';

export type Backend = 'webgpu' | 'webgl2';

export interface OpenDeviceOptions {
  /** Forces one of the two; left out: WebGPU where there is an adapter, else WebGL2. */
  backend?: Backend;
  /**
   * Which GPU is asked for where a machine has two. Left out: the browser's choice, which takes other programs and
   * the battery into account and opens fastest.
   */
  powerPreference?: 'low-power' | 'high-performance';
  /** A WebGPU device of the caller's, who also destroys it. */
  gpu?: GPUDevice;
  /** Hears of what the GPU refuses. Default: the console. */
  onError?: (error: LensError) => void;
}

/** A device with what it takes to open it anew after the GPU was lost. */
export interface OpenedDevice {
  device: Device;
  /** The device that was handed in, where `device` is a share of it. */
  given?: Device;
  /** The lens's own shaders in the device's language. */
  shaders: LensShaders;
  /** Calls back once, when the GPU is lost. */
  onLoss(listener: () => void): void;
  /**
   * Waits until the GPU can be had again, and opens it; rejects where it cannot be had now. Undefined where that is up to the
   * caller.
   *
   * @param attempt how often it was tried before, since the last loss; or how often in a row it was lost again soon after it came
   */
  reopen: ((attempt: number) => Promise<OpenedDevice>) | undefined;
  /** Has what shows the picture follow the canvas, where that is another element. */
  follow?: () => void;
  /** Gives up what was opened. */
  release(): void;
}

/**
 * Opens a device on a canvas, or without one for drawing into textures alone.
 *
 * @throws LensError `lens/no-gpu` saying what the browser lacks, `lens/canvas`
 */
export async function openDevice(
  canvas: HTMLCanvasElement | undefined,
  options: OpenDeviceOptions = {},
  /** What is tried now, whatever the options leave open for later. */
  now = options.backend,
): Promise<OpenedDevice> {
  const { gpu } = options;
  const backend = now;
  // Each interface comes as a part of its own, so that a page loads the one it draws with.
  if (gpu) return (await import('./webgpu/open-webgpu.js')).openWebgpu(gpu, canvas, options, undefined);
  const reasons: string[] = [];
  if (backend !== 'webgl2') {
    const found = await requestWebgpu(options.powerPreference);
    if (typeof found !== 'string')
      return (await import('./webgpu/open-webgpu.js')).openWebgpu(found, canvas, options, (attempt) =>
        reopenDevice(canvas, options, attempt),
      );
    reasons.push(found);
  }
  if (backend !== 'webgpu') {
    const found = (await import('./webgl2/open-webgl2.js')).openWebgl2(canvas, options.powerPreference);
    if (typeof found !== 'string') return found;
    reasons.push(found);
  }
  throw new LensError('lens/no-gpu', reasons.join('; '), {
    hint:
      typeof document === 'undefined'
        ? 'Without a page, hand in a device: lensOn(new WebgpuDevice(gpu)).'
        : 'Turn hardware acceleration on, or see whether the canvas has another kind of context.',
  });
}

/** Attempts at WebGPU after which WebGL2 takes its place, where neither was asked for by name. */
const MOST_ATTEMPTS = 3;

async function reopenDevice(
  canvas: HTMLCanvasElement | undefined,
  options: OpenDeviceOptions,
  attempt: number,
): Promise<OpenedDevice> {
  if (options.backend === 'webgpu' || attempt < MOST_ATTEMPTS) return openDevice(canvas, options, 'webgpu');
  const { openBeside } = await import('./webgl2/open-beside.js');
  return openBeside(canvas, options.powerPreference);
}

/** Features that are asked for where they are there. */
const WANTED = [
  'float32-filterable',
  'timestamp-query',
  'depth32float-stencil8',
  'texture-compression-bc',
  'texture-compression-etc2',
  'texture-compression-astc',
] as const;

/** A device, or why there is none. */
async function requestWebgpu(
  powerPreference: OpenDeviceOptions['powerPreference'],
): Promise<GPUDevice | string> {
  const interfaces = (globalThis.navigator as Navigator | undefined)?.gpu;
  if (!interfaces) {
    return globalThis.isSecureContext === false
      ? 'WebGPU is there on secure pages only (https or localhost)'
      : 'this browser has no WebGPU';
  }
  const adapter = await interfaces.requestAdapter(powerPreference ? { powerPreference } : {});
  if (!adapter) return 'WebGPU finds no graphics adapter';
  try {
    const requiredFeatures = WANTED.filter((name) => adapter.features.has(name));
    // Scenes with much around them read from more textures than every adapter promises.
    const { maxSampledTexturesPerShaderStage } = adapter.limits;
    const requiredLimits = { maxSampledTexturesPerShaderStage };
    return await adapter.requestDevice({ label: 'lens', requiredFeatures, requiredLimits });
  } catch (error) {
    return `WebGPU gives no device: ${error instanceof Error ? error.message : String(error)}`;
  }
}
