import { type CompiledShader, FEATURE, LAYER_FEATURES } from '@umber-lens/core/engine';
import type {
  BindGroupEntry,
  Device,
  DeviceBindGroup,
  DevicePipeline,
  DeviceTexture,
  RenderPass,
} from '../gpu/device.js';
import type { FramePlan, PlanFormats, PlanPainter } from '../passes/frame-plan.js';
import type { PreparedBatch, PreparedScene } from '../passes/prepared-scene.js';
import { constantsOf } from '../resources/pipeline-store.js';
import { AROUND, type FullPipelines, GATHER_FORMAT } from './full-pipelines.js';
import { TextureGroups } from './texture-groups.js';
import { prepareWay } from './ways.js';

const NOTHING = [0, 0, 0, 0] as const;
/** In the order of the targets of full fragments. */
const TARGETS = ['gathered base', 'gathered normal', 'gathered emissive'] as const;

/**
 * Gathers what surfaces are made of, and adds light to it once a pixel. What answers to light by itself (hooks, layers,
 * unlit and marched things) and what is blended is drawn behind that as usual, against the same depths.
 */
export class DeferredPath {
  private readonly pipelines = new Map<number, DevicePipeline>();
  private pipeline: DevicePipeline | undefined;
  private readonly groups: TextureGroups;
  private frame = 0;

  /** @param pipelinesFor bits of `AROUND` */
  constructor(
    private readonly device: Device,
    private readonly compiled: CompiledShader,
    private readonly formats: PlanFormats,
    private readonly pipelinesFor: (features: number) => FullPipelines,
  ) {
    this.groups = new TextureGroups(device, 'gathered');
  }

  /** To be called outside a pass, when the scene's batches are up to date. */
  prepare(prepared: PreparedScene, full: FullPipelines, frame: number): void {
    this.frame = frame;
    prepared.isGathered = full.has('deferred');
    if (!prepared.isGathered) return;
    this.pipeline = this.pipelineFor(full);
    // What is around does not matter for what a surface is made of.
    const gather = this.pipelinesFor(AROUND.gathered);
    for (const ready of prepared.batches)
      if (ready && isGatherable(ready)) prepareWay(prepared, ready, 'gather', ready.shape, gather);
  }

  /** @param entries what full pipelines bind besides */
  addPasses(
    { depth, drawn, graph, shape }: FramePlan,
    painter: PlanPainter,
    entries: () => readonly BindGroupEntry[],
  ): void {
    const { width, height } = shape;
    const targets = TARGETS.map((name) => graph.texture(name, { width, height, format: GATHER_FORMAT }));
    graph.pass({
      name: 'gather',
      isScene: true,
      colors: targets.map((texture) => ({ texture, clear: NOTHING })),
      depth: { texture: depth, clear: 0 },
      run: (pass) => painter.drawWay(pass, 'gather', entries(), true),
    });
    const { clear } = painter;
    graph.pass({
      name: 'light',
      reads: [...targets, depth],
      colors: [{ texture: drawn, clear }],
      run: (pass) =>
        this.light(
          pass!, // it has attachments
          painter.groupOf(entries()),
          targets.map((target) => graph.of(target)),
          graph.of(depth),
        ),
    });
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

  private pipelineFor(full: FullPipelines): DevicePipeline {
    let found = this.pipelines.get(full.features);
    if (!found) {
      const { device, compiled, formats } = this;
      found = device.createRenderPipeline({
        label: 'deferred light',
        shader: device.createShader({ label: 'deferred light', ...compiled }),
        constants: constantsOf(full.around(), compiled.overrides),
        targets: [{ format: formats.color }],
      });
      this.pipelines.set(full.features, found);
    }
    return found;
  }
}

/** Whether light may be added to a batch later. */
function isGatherable({ features, shader, geometry }: PreparedBatch): boolean {
  return (
    (features & (FEATURE.blend | FEATURE.unlit | LAYER_FEATURES)) === 0 &&
    geometry.topology.startsWith('triangle') &&
    (!shader || shader.isGatherable)
  );
}
