import type { Effect, ScreenSpaceReflectionsEffect } from '@umber-lens/core/engine';
import type { FramePlan, PlanPainter } from '../../frame/frame-plan.js';
import type { DevicePipeline } from '../../gpu/device.js';
import { AIR_REFLECTIONS, AIR_REFLECTIONS_SEES } from '../../compiled/layouts.js';
import { TextureGroups } from '../../resources/texture-groups.js';
import { AroundPipelines } from '../around-pipelines.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';
import type { FullPipelines } from '../full-pipelines.js';
import { WANTS } from '../wants.js';

const NOTHING = [0, 0, 0, 0] as const;
/** Bits of all things. */
const ALL = 0xffffffff;

const isReflections = (effect: Effect | null): effect is ScreenSpaceReflectionsEffect =>
  effect?.type === 'screen-space-reflections';

/** Reflections of what the picture shows, in place of the light from all around that is in it. */
export class Reflections implements Feature {
  hasPasses = false;
  private readonly pipelines: AroundPipelines;
  private pipeline: DevicePipeline | undefined;
  private readonly groups: TextureGroups;
  private frame = 0;

  constructor(private readonly host: FeatureHost) {
    this.groups = new TextureGroups(host.device, 'reflections');
    this.pipelines = new AroundPipelines(host.device, 'screen-space reflections', host.shaders.reflections, {
      targets: [{ format: host.formats.color }],
    });
  }

  prepare(at: FrameAt, full: FullPipelines): void {
    this.frame = at.frame;
    this.hasPasses = WANTS.reflections(at);
    if (!this.hasPasses) return;
    const { values, words } = this.host.air;
    const {
      amount = 1,
      maxDistance = 20,
      maxRoughness = 0.5,
      sees = ALL,
      thickness = 0.3,
    } = at.settings.finish.find(isReflections)!; // wanted
    values[AIR_REFLECTIONS] = Math.max(0, Math.min(1, amount));
    values[AIR_REFLECTIONS + 1] = maxRoughness;
    values[AIR_REFLECTIONS + 2] = Math.max(1e-3, maxDistance);
    values[AIR_REFLECTIONS + 3] = Math.max(1e-4, thickness);
    words[AIR_REFLECTIONS_SEES] = sees;
    this.pipeline = this.pipelines.of(full);
  }

  addAfter(plan: FramePlan, painter: PlanPainter): void {
    const { formats, graph, picture, shape, surfaces } = plan;
    if (!surfaces?.mirror) return;
    const { width, height } = shape;
    const { depth, mirror, normal, things } = surfaces;
    const reflected = graph.texture('reflected', { width, height, format: formats.color });
    const read = [picture, normal, mirror, depth];
    graph.pass({
      name: 'screen-space-reflections',
      reads: [...read, ...(things ? [things] : []), ...plan.readTextures],
      colors: [{ texture: reflected, clear: NOTHING }],
      run: (pass) => {
        pass!.setPipeline(this.pipeline!); // it has attachments; made by prepare
        pass!.setBindGroup(0, painter.groupOf(plan.bindings(this.host.entries)));
        pass!.setBindGroup(
          1,
          this.groups.of(
            [...read.map((one) => graph.of(one)), things ? graph.of(things) : this.host.nothing.color],
            this.frame,
          ),
        );
        pass!.draw(3);
      },
    });
    plan.drawnPicture = reflected;
  }

  sweep(frame: number): void {
    this.groups.sweep(frame);
  }
}
