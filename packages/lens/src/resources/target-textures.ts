import type { CompiledShader, ImageContent } from '@umber-lens/core/engine';
import type { Device, DevicePipeline, DeviceTexture } from '../gpu/device.js';
import { mipLevels } from '../gpu/sizes.js';

/** What was drawn into a texture, as an image's content has it. */
export type TargetContent = Extract<ImageContent, { kind: 'target' }>;

interface Source {
  readonly deviceTexture: DeviceTexture;
}

/** Pictures that were drawn, as materials take them: copies with levels of detail, so that a picture may show itself. */
export class TargetTextures {
  private pipeline: DevicePipeline | undefined;

  constructor(
    private readonly device: Device,
    private readonly place: CompiledShader,
  ) {}

  /** @param srgb whether it is to be read as color */
  make(label: string, content: TargetContent, srgb: boolean): DeviceTexture {
    const { width, height } = content;
    const { format } = (content.source as Source).deviceTexture; // only targets give this kind
    return this.device.createTexture({
      label,
      width,
      height,
      format: srgb && format === 'rgba8unorm' ? 'rgba8unorm-srgb' : format,
      mipLevelCount: mipLevels(width, height),
      renderable: true,
    });
  }

  /** To be called outside a pass. */
  fill(texture: DeviceTexture, content: TargetContent): void {
    const { device } = this;
    const { deviceTexture } = content.source as Source;
    if (texture.format === deviceTexture.format) device.copyTexture(deviceTexture, texture);
    else this.decode(deviceTexture, texture);
    device.generateMipmaps(texture);
  }

  /** Color that alpha is not multiplied into, in a format that GPUs decode. */
  private decode(source: DeviceTexture, texture: DeviceTexture): void {
    const { device } = this;
    this.pipeline ??= device.createRenderPipeline({
      label: 'target as color',
      shader: device.createShader({ label: 'target as color', ...this.place }),
      constants: { isLinear: true, isStraight: true },
      targets: [{ format: texture.format }],
    });
    const entries = [{ binding: 0, texture: source }];
    const group = device.createBindGroup({ label: 'target as color', entries });
    const pass = device.beginRenderPass({ label: 'target as color', colorAttachments: [{ texture }] });
    pass.setPipeline(this.pipeline);
    pass.setBindGroup(0, group);
    pass.draw(3);
    pass.end();
    group.dispose();
  }
}
