import type { FramePlan } from '../../frame/frame-plan.js';
import type { DevicePipeline, DeviceTexture } from '../../gpu/device.js';
import { freeUnusedWithin } from '../../resources/kept.js';
import { TextureGroups } from '../../resources/texture-groups.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';

interface Depths {
  texture: DeviceTexture;
  lastUsed: number;
}

/** Depths that one picture leaves for the next into the same target, one sample a pixel. */
export class KeptDepth implements Feature {
  hasPasses = false;
  /** By the target, and by the size of the picture. */
  private readonly kept = new Map<DeviceTexture, Map<string, Depths>>();
  private readonly pipelines = new Map<number, DevicePipeline>();
  private readonly groups: TextureGroups;
  private texture: DeviceTexture | undefined;
  private frame = 0;
  /** Whether the picture at hand begins with them, and whether it leaves some. */
  private begins = false;
  private leaves = false;

  constructor(private readonly host: FeatureHost) {
    this.groups = new TextureGroups(host.device, 'kept depth');
  }

  /** A bit of each, for the shape of the frame. */
  get bits(): number {
    return Number(this.begins) + 2 * Number(this.leaves);
  }

  prepare({ frame, given: { width, height }, prepared, settings: { part }, target }: FrameAt): void {
    this.frame = frame;
    this.begins = part?.keptDepth === true;
    this.leaves = part?.keepsDepth === true;
    this.hasPasses = this.begins || this.leaves;
    if (!this.hasPasses) return;
    let bySize = this.kept.get(target);
    if (!bySize) this.kept.set(target, (bySize = new Map<string, Depths>()));
    const key = `${width} ${height}`;
    let found = bySize.get(key);
    if (!found) {
      const { device, formats } = this.host;
      const options = { label: 'kept depth', width, height, format: formats.depth, renderable: true };
      bySize.set(key, (found = { texture: device.createTexture(options), lastUsed: frame }));
      // Nothing is near until somebody leaves something.
      device
        .beginRenderPass({
          label: 'kept depth',
          colorAttachments: [],
          depthAttachment: { texture: found.texture, clearValue: 0 },
        })
        .end();
    }
    found.lastUsed = frame;
    this.texture = found.texture;
    if (this.begins) this.pipelineFor(prepared.full?.sampleCount ?? this.host.formats.sampleCount);
  }

  addEarly(plan: FramePlan): void {
    if (!this.begins) return;
    const { sampleCount } = plan.shape;
    plan.graph.pass({
      name: 'kept depth',
      ...plan.attach(),
      run: (pass) => {
        pass!.setPipeline(this.pipelineFor(sampleCount)); // it has attachments
        pass!.setBindGroup(0, this.groups.of([this.texture!], this.frame)); // made by prepare
        pass!.draw(3);
      },
    });
  }

  addAfter({ depth, device, graph }: FramePlan): void {
    if (!this.leaves) return;
    const outside = graph.outside('kept depth');
    graph.pass({
      name: 'keep depth',
      reads: [depth],
      writes: [outside],
      run: () => device.copyDepth(graph.of(depth), this.texture!), // made by prepare
    });
  }

  sweep(frame: number): void {
    this.groups.sweep(frame);
    freeUnusedWithin(this.kept, frame, ({ texture }) => texture.dispose());
  }

  private pipelineFor(sampleCount: number): DevicePipeline {
    let found = this.pipelines.get(sampleCount);
    if (!found) {
      const { device, formats, shaders } = this.host;
      found = device.createRenderPipeline({
        label: 'kept depth',
        shader: device.createShader({ label: 'kept depth', ...shaders.keptDepth }),
        depth: { format: formats.depth, compare: 'greater-equal', write: true },
        targets: [{ format: formats.color, write: false }],
        sampleCount,
      });
      this.pipelines.set(sampleCount, found);
    }
    return found;
  }
}
