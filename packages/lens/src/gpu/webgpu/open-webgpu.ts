import { SHADERS } from '../../compiled/compiled-wgsl.js';
import type { OpenDeviceOptions, OpenedDevice } from '../open-device.js';
import { WebgpuDevice } from './webgpu-device.js';

/** @param reopen opens another after a loss; undefined for a device of the caller's, who also destroys it */
export function openWebgpu(
  gpu: GPUDevice,
  canvas: HTMLCanvasElement | undefined,
  options: OpenDeviceOptions,
  reopen: ((attempt: number) => Promise<OpenedDevice>) | undefined,
): OpenedDevice {
  const device = new WebgpuDevice(gpu, {
    ...(canvas ? { canvas } : {}),
    ...(options.onError ? { onError: options.onError } : {}),
  });
  return {
    device,
    shaders: SHADERS,
    onLoss: (listener) => void gpu.lost.then(listener),
    reopen,
    release: () => {
      if (reopen) gpu.destroy();
    },
  };
}
