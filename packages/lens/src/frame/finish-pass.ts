import type { CompiledShader } from '@umber-lens/core/engine';
import type {
  BindGroupEntry,
  ColorAttachment,
  Device,
  DeviceBindGroup,
  DevicePipeline,
  DeviceShader,
  DeviceTexture,
  RenderPassOptions,
  TextureFormat,
} from '../gpu/device.js';
import { freeUnused } from '../resources/kept.js';

/** Turns the linear picture into what is shown. */
export class FinishPass {
  private readonly shader: DeviceShader;
  /** By the target's format: a canvas may have its own. */
  private readonly pipelines = new Map<TextureFormat, DevicePipeline>();
  /** One for each picture it reads: targets of several sizes take turns. */
  private readonly groups = new Map<DeviceTexture, { group: DeviceBindGroup; lastUsed: number }>();
  private readonly attachment: ColorAttachment;
  private readonly options: RenderPassOptions;

  constructor(
    private readonly device: Device,
    finish: CompiledShader,
    /** What its shader binds besides the picture. */
    private readonly more: readonly BindGroupEntry[] = [],
  ) {
    this.shader = device.createShader({ label: 'finish', ...finish });
    // One attachment object for all frames; its texture is set before each.
    this.attachment = { texture: undefined as unknown as DeviceTexture };
    this.options = { label: 'finish', colorAttachments: [this.attachment] };
  }

  /** Begins to make what drawing into the format takes, so that it is there in time. */
  makePipeline(format: TextureFormat): void {
    this.pipelineFor(format);
  }

  draw(source: DeviceTexture, target: DeviceTexture, frame: number): void {
    let held = this.groups.get(source);
    if (!held) {
      const entries = [{ binding: 0, texture: source }, ...this.more];
      held = { group: this.device.createBindGroup({ label: 'finish', entries }), lastUsed: frame };
      this.groups.set(source, held);
    }
    held.lastUsed = frame;
    this.attachment.texture = target;
    const pass = this.device.beginRenderPass(this.options);
    pass.setPipeline(this.pipelineFor(target.format));
    pass.setBindGroup(0, held.group);
    pass.draw(3);
    pass.end();
  }

  /** Frees groups of pictures that no frame since `frame` has read. */
  sweep(frame: number): void {
    freeUnused(this.groups, frame, ({ group }) => group.dispose());
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
