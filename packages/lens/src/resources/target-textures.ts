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
  /** By what they do. */
  private readonly pipelines = new Map<string, DevicePipeline>();

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
  fill(texture: DeviceTexture, content: TargetContent, isMultiplied: boolean): void {
    const { device } = this;
    const { deviceTexture } = content.source as Source;
    if (texture.format === deviceTexture.format) device.copyTexture(deviceTexture, texture);
    else this.draw(isMultiplied ? 'isLinear' : 'isStraight', deviceTexture, texture);
    device.generateMipmaps(texture);
  }

  /** Multiplies the base level's colors by their alpha. To be called outside a pass. */
  premultiply(texture: DeviceTexture): void {
    const { device } = this;
    const { width, height, format } = texture;
    const copy = device.createTexture({ label: 'multiplied', width, height, format, renderable: true });
    this.draw('isMultiplied', texture, copy);
    device.copyTexture(copy, texture);
    // What was recorded still draws with it.
    device.submit();
    copy.dispose();
  }

  /** Into a format that GPUs decode. */
  private draw(
    how: 'isStraight' | 'isLinear' | 'isMultiplied',
    source: DeviceTexture,
    texture: DeviceTexture,
  ): void {
    const { device } = this;
    const label = 'target as color';
    let pipeline = this.pipelines.get(how);
    if (!pipeline) {
      pipeline = device.createRenderPipeline({
        label,
        shader: device.createShader({ label, ...this.place }),
        constants: { [how]: true },
        targets: [{ format: texture.format }],
      });
      this.pipelines.set(how, pipeline);
    }
    const group = device.createBindGroup({ label, entries: [{ binding: 0, texture: source }] });
    const pass = device.beginRenderPass({ label, colorAttachments: [{ texture }] });
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, group);
    pass.draw(3);
    pass.end();
    group.dispose();
  }
}
