import { LensError } from '@umber-lens/core';
import type { Device } from './device.js';
import { Webgl2Device } from './webgl2/webgl2-device.js';
import { WebgpuDevice } from './webgpu/webgpu-device.js';

export type Backend = 'webgpu' | 'webgl2';

export interface OpenDeviceOptions {
  /** Forces one of the two; left out: WebGPU where there is an adapter, else WebGL2. */
  backend?: Backend;
  /** A WebGPU device of the caller's, who also destroys it. */
  gpu?: GPUDevice;
  /** Hears of what the GPU refuses. Default: the console. */
  onError?: (error: LensError) => void;
}

/** A device with what it takes to open it anew after the GPU was lost. */
export interface OpenedDevice {
  device: Device;
  /** Calls back once, when the GPU is lost. */
  onLoss(listener: () => void): void;
  /** Waits until the GPU can be had again, and opens it. Undefined where that is up to the caller. */
  reopen: (() => Promise<OpenedDevice>) | undefined;
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
): Promise<OpenedDevice> {
  const { backend, gpu } = options;
  if (gpu) return onWebgpu(gpu, canvas, options, false);
  const reasons: string[] = [];
  if (backend !== 'webgl2') {
    const found = await requestWebgpu();
    if (typeof found !== 'string') return onWebgpu(found, canvas, options, true);
    reasons.push(found);
  }
  if (backend !== 'webgpu') {
    const found = openWebgl2(canvas);
    if (typeof found !== 'string') return found;
    reasons.push(found);
  }
  throw new LensError('lens/no-gpu', reasons.join('; '), {
    hint: 'Turn hardware acceleration on, or see whether the canvas is in use with another kind of context.',
  });
}

/** Features that are asked for where they are there. */
const WANTED = ['float32-filterable', 'timestamp-query'] as const;

/** A device, or why there is none. */
async function requestWebgpu(): Promise<GPUDevice | string> {
  const interfaces = (globalThis.navigator as Navigator | undefined)?.gpu;
  if (!interfaces) {
    return globalThis.isSecureContext === false
      ? 'WebGPU is there on secure pages only (https or localhost)'
      : 'this browser has no WebGPU';
  }
  const adapter = await interfaces.requestAdapter({ powerPreference: 'high-performance' });
  if (!adapter) return 'WebGPU finds no graphics adapter';
  try {
    const requiredFeatures = WANTED.filter((name) => adapter.features.has(name));
    return await adapter.requestDevice({ label: 'lens', requiredFeatures });
  } catch (error) {
    return `WebGPU gives no device: ${error instanceof Error ? error.message : String(error)}`;
  }
}

function onWebgpu(
  gpu: GPUDevice,
  canvas: HTMLCanvasElement | undefined,
  options: OpenDeviceOptions,
  isOurs: boolean,
): OpenedDevice {
  const device = new WebgpuDevice(gpu, {
    ...(canvas ? { canvas } : {}),
    ...(options.onError ? { onError: options.onError } : {}),
  });
  return {
    device,
    onLoss: (listener) => void gpu.lost.then(listener),
    reopen: isOurs ? () => openDevice(canvas, { ...options, backend: 'webgpu' }) : undefined,
    release: () => {
      if (isOurs) gpu.destroy();
    },
  };
}

/** A device on the canvas's context, or why there is none. */
function openWebgl2(given: HTMLCanvasElement | undefined): OpenedDevice | string {
  const canvas = given ?? document.createElement('canvas');
  const gl = canvas.getContext('webgl2', {
    alpha: true,
    antialias: false,
    depth: false,
    stencil: false,
    premultipliedAlpha: true,
    powerPreference: 'high-performance',
  });
  if (!gl) return 'this browser offers no WebGL2 for the canvas';
  return onWebgl2(gl, canvas, given === undefined);
}

function onWebgl2(gl: WebGL2RenderingContext, canvas: HTMLCanvasElement, isOurs: boolean): OpenedDevice {
  let isReleased = false;
  const reopen = (): Promise<OpenedDevice> =>
    new Promise((resolve) => {
      const opened = (): void => resolve(onWebgl2(gl, canvas, isOurs));
      if (gl.isContextLost()) canvas.addEventListener('webglcontextrestored', opened, { once: true });
      else opened();
    });
  return {
    device: new Webgl2Device(gl),
    onLoss: (listener) =>
      canvas.addEventListener(
        'webglcontextlost',
        (event) => {
          // Without this the browser would not give the context back.
          event.preventDefault();
          if (!isReleased) listener();
        },
        { once: true },
      ),
    reopen,
    release: () => {
      isReleased = true;
      // Browsers keep few contexts: one on a canvas that nobody sees is given up at once.
      if (isOurs) gl.getExtension('WEBGL_lose_context')?.loseContext();
    },
  };
}
