import type { CompiledShader } from '@umber-lens/core';
import type {
  ColorAttachment,
  Device,
  DeviceBindGroup,
  DevicePipeline,
  DeviceShader,
  DeviceTexture,
  RenderPassOptions,
  TextureFormat,
} from '../gpu/device.js';

/** Turns the linear picture into what is shown. */
export class FinishPass {
  private readonly shader: DeviceShader;
  /** By the target's format: a canvas may have its own. */
  private readonly pipelines = new Map<TextureFormat, DevicePipeline>();
  private group: DeviceBindGroup | undefined;
  private source: DeviceTexture | undefined;
  private readonly attachment: ColorAttachment;
  private readonly options: RenderPassOptions;

  constructor(
    private readonly device: Device,
    finish: CompiledShader,
  ) {
    this.shader = device.createShader({ label: 'finish', ...finish });
    // One attachment object for all frames; its texture is set before each.
    this.attachment = { texture: undefined as unknown as DeviceTexture };
    this.options = { label: 'finish', colorAttachments: [this.attachment] };
  }

  draw(source: DeviceTexture, target: DeviceTexture): void {
    if (source !== this.source) {
      this.group?.dispose();
      this.source = source;
      this.group = this.device.createBindGroup({
        label: 'finish',
        entries: [{ binding: 0, texture: source }],
      });
    }
    this.attachment.texture = target;
    const pass = this.device.beginRenderPass(this.options);
    pass.setPipeline(this.pipelineFor(target.format));
    pass.setBindGroup(0, this.group!); // made above
    pass.draw(3);
    pass.end();
  }

  private pipelineFor(format: TextureFormat): DevicePipeline {
    let found = this.pipelines.get(format);
    if (!found) {
      const { shader } = this;
      found = this.device.createRenderPipeline({ label: 'finish', shader, targets: [{ format }] });
      this.pipelines.set(format, found);
    }
    return found;
  }
}
