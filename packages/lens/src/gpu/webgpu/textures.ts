import { LensError } from '@umber-lens/core/engine';
import type { DeviceTexture, TextureFormat } from '../device.js';
import type { WebgpuTexture } from './objects.js';

// The interface's own numbers: the objects that name them are not there in Node.
export const TEXTURE_COPY_SRC = 1;
export const TEXTURE_COPY_DST = 2;
export const TEXTURE_BINDING = 4;
export const RENDER_ATTACHMENT = 16;

/** One layer at one level. */
export function oneView(handle: GPUTexture, level: number, layer: number): GPUTextureView {
  return handle.createView({
    dimension: '2d',
    baseMipLevel: level,
    mipLevelCount: 1,
    baseArrayLayer: layer,
    arrayLayerCount: 1,
  });
}

/** The GPU's own texture; the canvas has another one each frame. */
export function handleOf(texture: DeviceTexture): GPUTexture {
  const { handle, current } = texture as WebgpuTexture & { current?: () => GPUTexture };
  return handle ?? current!(); // only the canvas has no handle
}

export function canvasTexture(gpu: GPUDevice, canvas: HTMLCanvasElement): DeviceTexture {
  const context = canvas.getContext('webgpu') as GPUCanvasContext | null;
  if (!context) {
    throw new LensError('lens/canvas', 'the canvas is in use with another kind of context', {
      hint: 'Give the lens a canvas of its own.',
    });
  }
  const format = navigator.gpu.getPreferredCanvasFormat() as TextureFormat;
  context.configure({
    device: gpu,
    format: format as GPUTextureFormat,
    alphaMode: 'premultiplied',
    usage: RENDER_ATTACHMENT | TEXTURE_COPY_SRC,
  });
  return {
    kind: 'texture',
    label: 'canvas',
    format,
    sampleCount: 1,
    mipLevelCount: 1,
    shape: '2d',
    layers: 1,
    get width() {
      return canvas.width;
    },
    get height() {
      return canvas.height;
    },
    dispose: () => context.unconfigure(),
    ...{
      handle: undefined,
      current: () => context.getCurrentTexture(),
      view: () => context.getCurrentTexture().createView(),
      target: () => context.getCurrentTexture().createView(),
    },
  };
}
