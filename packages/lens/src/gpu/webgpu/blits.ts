import { COPY_DEPTH, SHRINK } from '../../compiled/compiled-wgsl.js';
import type { DevicePipeline, DeviceSampler, DeviceTexture, RenderPipelineOptions } from '../device.js';
import { hasStencil } from '../sizes.js';
import type { WebgpuPipeline, WebgpuSampler, WebgpuTexture } from './objects.js';
import { handleOf, oneView } from './textures.js';
import type { WebgpuDevice } from './webgpu-device.js';

/** What WebGL2 has built in: levels of detail, and depth out of several samples a pixel. */
export class Blits {
  /** By what they are for, and format. */
  private readonly pipelines = new Map<string, DevicePipeline>();
  private smooth: DeviceSampler | undefined;

  constructor(private readonly device: WebgpuDevice) {}

  /** Fills the levels below the first, each from the one above. */
  shrink(encoder: GPUCommandEncoder, texture: DeviceTexture): void {
    const { device } = this;
    const handle = handleOf(texture);
    this.smooth ??= device.createSampler({
      mipmapFilter: 'none',
      addressModeU: 'clamp-to-edge',
      addressModeV: 'clamp-to-edge',
    });
    const pipeline = this.helper(`shrink ${texture.format}`, () => ({
      shader: device.createShader({ label: 'shrink', ...SHRINK }),
      targets: [{ format: texture.format }],
    }));
    const { groups } = pipeline.shader;
    const pictures = texture.layers * (texture.mipLevelCount - 1);
    for (let picture = 0; picture < pictures; picture++) {
      const level = 1 + (picture % (texture.mipLevelCount - 1));
      const layer = Math.floor(picture / (texture.mipLevelCount - 1));
      const view = (base: number): GPUTextureView => oneView(handle, base, layer);
      const pass = encoder.beginRenderPass({
        label: `level ${level} of ${texture.label}`,
        colorAttachments: [{ view: view(level), loadOp: 'clear', storeOp: 'store' }],
      });
      pass.setPipeline(pipeline.handle);
      pass.setBindGroup(
        0,
        device.gpu.createBindGroup({
          layout: groups[0]!.handle, // the shader binds in group 0 alone
          entries: [
            { binding: 0, resource: view(level - 1) },
            { binding: 1, resource: (this.smooth as WebgpuSampler).handle },
          ],
        }),
      );
      pass.draw(3);
      pass.end();
    }
  }

  /** Depth of several samples a pixel into one of one. */
  copyDepth(encoder: GPUCommandEncoder, source: DeviceTexture, target: DeviceTexture): void {
    const { device } = this;
    const { format } = target;
    const pipeline = this.helper(`copy depth ${format}`, () => ({
      shader: device.createShader({ label: 'copy depth', ...COPY_DEPTH }),
      targets: [],
      depth: { format, compare: 'always', write: true },
    }));
    const pass = encoder.beginRenderPass({
      label: 'copy depth',
      colorAttachments: [],
      depthStencilAttachment: {
        // All that it holds: a view to read from has depths alone.
        view: (target as WebgpuTexture).target(),
        depthLoadOp: 'clear',
        depthClearValue: 0,
        depthStoreOp: 'store',
        ...(hasStencil(format) ? { stencilLoadOp: 'clear' as const, stencilStoreOp: 'store' as const } : {}),
      },
    });
    pass.setPipeline(pipeline.handle);
    pass.setBindGroup(
      0,
      device.gpu.createBindGroup({
        layout: pipeline.shader.groups[0]!.handle, // the shader binds in group 0 alone
        entries: [{ binding: 0, resource: (source as WebgpuTexture).view() }],
      }),
    );
    pass.draw(3);
    pass.end();
  }

  private helper(key: string, options: () => RenderPipelineOptions): WebgpuPipeline {
    let found = this.pipelines.get(key);
    if (!found)
      this.pipelines.set(key, (found = this.device.createRenderPipeline({ label: key, ...options() })));
    return found as WebgpuPipeline;
  }
}
