import { FEATURE, LAYER_FEATURES } from '@umber-lens/core/engine';
import type { DeviceBindGroup, DevicePipeline, DeviceTexture, RenderPass } from '../../gpu/device.js';
import type { FramePlan, PlanBinding, PlanPainter } from '../../frame/frame-plan.js';
import type { PreparedBatch } from '../../batches/prepared-scene.js';
import type { Raster } from '../../resources/pipeline-store.js';
import { AroundPipelines } from '../around-pipelines.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { TextureGroups } from '../../resources/texture-groups.js';
import { WANTS } from '../wants.js';
import { Way } from '../way.js';

const GATHER_FORMAT = 'rgba16float';

/** What a surface is made of, in three targets: half floats hold light of its own far above white, and directions below 0. */
const GATHERED: Raster = {
  compare: 'greater-equal',
  write: true,
  sampleCount: 1,
  color: GATHER_FORMAT,
  more: [GATHER_FORMAT, GATHER_FORMAT],
};
/** What surfaces are made of is drawn first; all else has one sample a pixel too. */
const DEFERRED = flag({ sampleCount: 1 });
const IS_GATHERED = flag({ override: 'isGathered', raster: GATHERED, needsPlace: true });

const NOTHING = [0, 0, 0, 0] as const;
/** In the order of the targets of full fragments. */
const TARGETS = ['gathered base', 'gathered normal', 'gathered emissive'] as const;

/**
 * Gathers what surfaces are made of, and adds light to it once a pixel. What answers to light by itself (hooks, layers,
 * unlit and marched things) and what is blended is drawn behind that as usual, against the same depths.
 */
export class DeferredPath implements Feature {
  hasPasses = false;
  private readonly gather = new Way();
  private readonly pipelines: AroundPipelines;
  private pipeline: DevicePipeline | undefined;
  private readonly groups: TextureGroups;
  private frame = 0;

  constructor(private readonly host: FeatureHost) {
    this.groups = new TextureGroups(host.device, 'gathered');
    this.pipelines = new AroundPipelines(host.device, 'deferred light', host.shaders.deferred, {
      targets: [{ format: host.formats.color }],
    });
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.deferred(facts) ? [DEFERRED] : [];
  }

  prepare(at: FrameAt, full: FullPipelines): void {
    const { prepared, frame } = at;
    // What some lights leave out is lit by itself.
    const hasBits = WANTS.things(at);
    this.frame = frame;
    this.hasPasses = full.has(DEFERRED);
    if (!this.hasPasses) return;
    this.pipeline = this.pipelines.of(full);
    // What is around does not matter for what a surface is made of; where there is none of it does.
    const gathered = this.host.pipelinesFor(IS_GATHERED.bit | full.cutBits);
    for (const ready of prepared.batches)
      if (
        ready &&
        !ready.batch.apart.layer &&
        !(hasBits && ready.batch.apart.visibleTo !== -1) &&
        isGatherable(ready) &&
        this.gather.prepare(prepared, ready, ready.shape, gathered)
      )
        ready.isElsewhere = true;
  }

  addPasses(plan: FramePlan, painter: PlanPainter): readonly PlanBinding[] {
    const { depth, graph, shape } = plan;
    const { gather, host } = this;
    const { width, height } = shape;
    // The picture begins with what is gathered: its depths there, its colors with the light.
    const { colors, depth: cleared } = plan.attach();
    const targets = TARGETS.map((name) => graph.texture(name, { width, height, format: GATHER_FORMAT }));
    graph.pass({
      name: 'gather',
      isScene: true,
      colors: targets.map((texture) => ({ texture, clear: NOTHING })),
      depth: cleared!, // there is nothing before it
      run: (pass) => painter.drawVariant(pass, gather, host.entries, 'opaque'),
    });
    graph.pass({
      name: 'light',
      reads: [...targets, depth],
      colors: colors!, // as depths
      run: (pass) =>
        this.light(
          pass!, // it has attachments
          painter.groupOf(host.entries),
          targets.map((target) => graph.of(target)),
          graph.of(depth),
        ),
    });
    return [];
  }

  sweep(frame: number): void {
    this.groups.sweep(frame);
  }

  private light(
    pass: RenderPass,
    frameGroup: DeviceBindGroup,
    targets: readonly DeviceTexture[],
    depth: DeviceTexture,
  ): void {
    pass.setPipeline(this.pipeline!); // made by prepare
    pass.setBindGroup(0, frameGroup);
    pass.setBindGroup(1, this.groups.of([...targets, depth], this.frame));
    pass.draw(3);
  }
}

/** Whether light may be added to a batch later. */
function isGatherable({ batch, features, shader, geometry }: PreparedBatch): boolean {
  return (
    batch.kind.traits.state === undefined &&
    (features & (FEATURE.blend | FEATURE.unlit | LAYER_FEATURES)) === 0 &&
    geometry.topology.startsWith('triangle') &&
    (!shader || shader.isGatherable)
  );
}
