import type { FramePlan, PlanPainter } from '../../frame/frame-plan.js';
import type { DevicePipeline, DeviceTexture } from '../../gpu/device.js';
import { TextureGroups } from '../../resources/texture-groups.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';

/** Distances for targets that have some. */
export class Metres implements Feature {
  hasPasses = false;
  private pipeline: DevicePipeline | undefined;
  private texture: DeviceTexture | undefined;
  private readonly groups: TextureGroups;
  private frame = 0;

  constructor(private readonly host: FeatureHost) {
    this.groups = new TextureGroups(host.device, 'metres');
  }

  prepare({ frame, target }: FrameAt): void {
    this.frame = frame;
    this.texture = target.metres;
    this.hasPasses = this.texture !== undefined;
    if (!this.texture) return;
    const { device, shaders } = this.host;
    this.pipeline ??= device.createRenderPipeline({
      label: 'metres',
      shader: device.createShader({ label: 'metres', ...shaders.metres }),
      targets: [{ format: this.texture.format }],
    });
  }

  addAfter(plan: FramePlan, painter: PlanPainter): void {
    const { device, graph } = plan;
    const flat = plan.flatDepth();
    graph.pass({
      name: 'metres',
      reads: [flat],
      writes: [graph.outside('metres')],
      run: () => {
        const pass = device.beginRenderPass({
          label: 'metres',
          colorAttachments: [{ texture: this.texture!, clearValue: [0, 0, 0, 0] }], // made by prepare
        });
        pass.setPipeline(this.pipeline!); // as above
        pass.setBindGroup(0, painter.groupOf(this.host.entries));
        pass.setBindGroup(1, this.groups.of([graph.of(flat)], this.frame));
        pass.draw(3);
        pass.end();
      },
    });
  }

  sweep(frame: number): void {
    this.groups.sweep(frame);
  }
}
