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

  addAfter({ depth, device, formats, graph, shape }: FramePlan, painter: PlanPainter): void {
    const { height, sampleCount, width } = shape;
    let flat = depth;
    if (sampleCount > 1) {
      flat = graph.texture('depth for metres', { width, height, format: formats.depth });
      graph.pass({
        name: 'copy depth for metres',
        reads: [depth],
        writes: [flat],
        run: () => device.copyDepth(graph.of(depth), graph.of(flat)),
      });
    }
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
