import type {
  ColorAttachment,
  Device,
  DeviceBindGroup,
  DevicePipeline,
  DeviceTexture,
  RenderPassOptions,
} from '../gpu/device.js';
import { FINISH_FRAGMENT, FINISH_VERTEX } from '../shaders/finish.js';

/** Turns the linear picture into what is shown. */
export class FinishPass {
  private readonly pipeline: DevicePipeline;
  private group: DeviceBindGroup | undefined;
  private source: DeviceTexture | undefined;
  private readonly attachment: ColorAttachment;
  private readonly options: RenderPassOptions;

  constructor(private readonly device: Device) {
    const shader = device.createShader({
      label: 'finish',
      glsl: {
        vertex: FINISH_VERTEX,
        fragment: FINISH_FRAGMENT,
        samplers: { picture: { texture: [0, 0] } },
      },
    });
    this.pipeline = device.createRenderPipeline({
      label: 'finish',
      shader,
      targets: [{ format: 'rgba8unorm' }],
    });
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
    pass.setPipeline(this.pipeline);
    pass.setBindGroup(0, this.group!); // made above
    pass.draw(3);
    pass.end();
  }
}
