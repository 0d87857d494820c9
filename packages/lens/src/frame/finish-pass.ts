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
} from '../gpu/device.js';
import { freeUnused } from '../resources/kept.js';

/** Where in a target a picture goes, and how. Pixels, from the upper left. */
export interface TargetPart {
  x: number;
  y: number;
  width: number;
  height: number;
  /** Nothing outside of it changes. */
  scissor: { x: number; y: number; width: number; height: number } | undefined;
  /** Which of the target's pictures. */
  layer: number;
  /** Whether it is put over what is there, by its alpha. */
  isOver: boolean;
}

const OVER = { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const;

/** Whether light is stored in a format as it is: floats need no encoding. */
export const isLinearFormat = (format: string): boolean => format.endsWith('float');

/** Turns the linear picture into what is shown. */
export class FinishPass {
  private readonly shader: DeviceShader;
  /** By the target's format, and by whether they put it over what is there: a canvas may have its own. */
  private readonly pipelines = new Map<string, DevicePipeline>();
  /** One for each picture it reads: targets of several sizes take turns. */
  private readonly groups = new Map<DeviceTexture, { group: DeviceBindGroup; lastUsed: number }>();
  private readonly attachment: ColorAttachment;
  private readonly options: RenderPassOptions;

  constructor(
    private readonly device: Device,
    private readonly compiled: CompiledShader,
    /** What its shader binds besides the picture. */
    private readonly more: readonly BindGroupEntry[] = [],
  ) {
    this.shader = device.createShader({ label: 'finish', ...compiled });
    // One attachment object for all frames; its texture is set before each.
    this.attachment = { texture: undefined as unknown as DeviceTexture };
    this.options = { label: 'finish', colorAttachments: [this.attachment] };
  }

  /** Begins to make what drawing into the format takes, so that it is there in time. */
  makePipeline(format: DeviceTexture['format']): void {
    this.pipelineFor(format, false);
  }

  /** @param part left out: it fills the target */
  draw(source: DeviceTexture, target: DeviceTexture, frame: number, part?: TargetPart): void {
    let held = this.groups.get(source);
    if (!held) {
      const entries = [{ binding: 0, texture: source }, ...this.more];
      held = { group: this.device.createBindGroup({ label: 'finish', entries }), lastUsed: frame };
      this.groups.set(source, held);
    }
    held.lastUsed = frame;
    const { attachment } = this;
    attachment.texture = target;
    if (part && part.layer > 0) attachment.layer = part.layer;
    else delete attachment.layer;
    const pass = this.device.beginRenderPass(this.options);
    if (part) {
      const { scissor } = part;
      pass.setViewport(part.x, part.y, part.width, part.height);
      if (scissor) pass.setScissor(scissor.x, scissor.y, scissor.width, scissor.height);
    }
    pass.setPipeline(this.pipelineFor(target.format, part?.isOver === true));
    pass.setBindGroup(0, held.group);
    pass.draw(3);
    pass.end();
  }

  /** Frees groups of pictures that no frame since `frame` has read. */
  sweep(frame: number): void {
    freeUnused(this.groups, frame, ({ group }) => group.dispose());
  }

  private pipelineFor(format: DeviceTexture['format'], isOver: boolean): DevicePipeline {
    const key = isOver ? `${format} over` : format;
    let found = this.pipelines.get(key);
    if (!found) {
      const { compiled, shader } = this;
      found = this.device.createRenderPipeline({
        label: 'finish',
        shader,
        ...(compiled.overrides.includes('isLinear')
          ? { constants: { isLinear: isLinearFormat(format) } }
          : {}),
        targets: [{ format, ...(isOver ? { blend: { color: OVER, alpha: OVER } } : {}) }],
      });
      this.pipelines.set(key, found);
    }
    return found;
  }
}
