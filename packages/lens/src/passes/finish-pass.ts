import type {
  ColorAttachment,
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceTexture,
  RenderPassOptions,
} from '../gpu/device.js';
import { FINISH_FRAGMENT, FINISH_VERTEX } from '../shaders/finish.js';

/** Turns the linear picture into what is shown: exposure, tone mapping, sRGB. */
export class FinishPass {
  private readonly pipeline: DevicePipeline;
  private readonly buffer: DeviceBuffer;
  private readonly settings = new Float32Array(4);
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
        blocks: { Finish: [0, 0] },
        samplers: { picture: { texture: [0, 1] } },
      },
    });
    this.pipeline = device.createRenderPipeline({ label: 'finish', shader, targets: [{ format: 'rgba8unorm' }] });
    this.buffer = device.createBuffer({ label: 'finish', usage: 'uniform', size: 16 });
    // One attachment object for all frames; its texture is set before each.
    this.attachment = { texture: undefined as unknown as DeviceTexture };
    this.options = { label: 'finish', colorAttachments: [this.attachment] };
  }

  draw(source: DeviceTexture, target: DeviceTexture, exposure: number): void {
    if (this.settings[0] !== Math.fround(exposure)) {
      this.settings[0] = exposure;
      this.device.writeBuffer(this.buffer, 0, this.settings);
    }
    if (source !== this.source) {
      this.group?.dispose();
      this.source = source;
      this.group = this.device.createBindGroup({
        label: 'finish',
        entries: [
          { binding: 0, buffer: this.buffer },
          { binding: 1, texture: source },
        ],
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
