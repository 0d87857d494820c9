import { FEATURE } from '@umber-lens/core/engine';
import type { BindGroupEntry, DevicePipeline, DeviceTexture, RenderPass } from '../../gpu/device.js';
import type { GraphTexture } from '../../frame/frame-graph.js';
import type { FramePlan, PlanPainter } from '../../frame/frame-plan.js';
import type { PreparedBatch, PreparedScene } from '../../batches/prepared-scene.js';
import type { Raster } from '../../resources/pipeline-store.js';
import { BINDING_LAYER_DEPTH, BINDING_OPAQUE_DEPTH } from '../../compiled/layouts.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';
import { flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { TextureGroups } from '../../resources/texture-groups.js';
import { WANTS } from '../wants.js';
import { Way } from '../way.js';

/** Layers that are in their right order pixel by pixel; what lies behind them is sorted by things. */
const LAYERS = 4;

/** The nearest surface of a layer, as it is. */
const PEELED: Raster = { compare: 'greater-equal', write: true, sampleCount: 1 };
const added = { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const;
/** What lies behind the layers, sorted by things. */
const REST: Raster = {
  compare: 'always',
  write: false,
  sampleCount: 1,
  blend: { color: added, alpha: added },
};
const IS_PEELED = flag({ override: 'isPeeled', raster: PEELED });
const IS_REST = flag({ override: 'isPeeled', raster: REST });

/**
 * Transparent surfaces in their right order, also where they cut through each other: pass by pass the nearest of those
 * that are left, put under what was drawn so far. One sample a pixel.
 */
export class Peeling implements Feature {
  hasPasses = false;
  readonly entries: readonly BindGroupEntry[];
  private readonly peel = new Way();
  private readonly rest = new Way();
  private readonly pipelines = new Map<'under' | 'over', DevicePipeline>();
  private readonly groups: TextureGroups;
  private frame = 0;

  constructor(private readonly host: FeatureHost) {
    const { device, nothing } = host;
    this.groups = new TextureGroups(device, 'layer');
    // Shaders have the bindings in every picture.
    this.entries = [
      { binding: BINDING_OPAQUE_DEPTH, texture: nothing.depth },
      { binding: BINDING_LAYER_DEPTH, texture: nothing.depth },
    ];
  }

  prepare(at: FrameAt, full: FullPipelines): void {
    const wasPeeled = this.hasPasses;
    this.hasPasses = WANTS.peeled(at);
    if (this.hasPasses) this.prepareLayers(at.prepared, full, at.frame);
    else if (wasPeeled) for (const ready of at.prepared.batches) if (ready) this.leave(ready);
  }

  private leave(ready: PreparedBatch): void {
    ready.isElsewhere &&= !this.peel.takes(ready);
    this.peel.leave(ready);
  }

  private prepareLayers(prepared: PreparedScene, full: FullPipelines, frame: number): void {
    this.frame = frame;
    this.pipelineFor('under');
    this.pipelineFor('over');
    const peeled = this.host.pipelinesFor(full.bits | IS_PEELED.bit);
    const behind = this.host.pipelinesFor(full.bits | IS_REST.bit);
    for (const ready of prepared.batches) {
      // What is found by marching keeps its place in the sorted list.
      if (
        !ready ||
        ready.batch.kind.traits.state ||
        ready.batch.apart.layer ||
        ready.shader?.isMarched ||
        (ready.features & FEATURE.blend) === 0
      )
        continue;
      // In layers only when what lies behind them can be drawn too.
      if (!this.rest.prepare(prepared, ready, ready.shape, behind)) continue;
      if (this.peel.prepare(prepared, ready, ready.shape, peeled)) ready.isElsewhere = true;
    }
  }

  addAfter(plan: FramePlan, painter: PlanPainter): void {
    const { host, peel, rest } = this;
    const { formats, graph, picture, shape } = plan;
    const { width, height } = shape;
    const colors = (name: string): GraphTexture =>
      graph.texture(name, { width, height, format: formats.color });
    const depths = (name: string): GraphTexture =>
      graph.texture(name, { width, height, format: formats.depth });
    const opaque = plan.flatDepth();
    let previous = depths('nearest');
    // Nothing is nearer than this.
    graph.pass({ name: 'nearest', depth: { texture: previous, clear: 1 }, run: () => undefined });
    const sum = colors('layers');
    for (let i = 0; i <= LAYERS; i++) {
      const isRest = i === LAYERS;
      const layer = colors(`layer ${i}`);
      const own = depths(`layer depth ${i}`);
      const before = previous;
      const bound = new LayerBindings();
      graph.pass({
        name: isRest ? 'layers behind' : `layer ${i + 1}`,
        isScene: true,
        reads: [opaque, before],
        colors: [{ texture: layer, clear: NOTHING }],
        depth: { texture: own, clear: 0 },
        run: (pass) =>
          painter.drawVariant(
            pass,
            isRest ? rest : peel,
            bound.entriesFor(plan.bindings(host.entries), graph.of(opaque), graph.of(before)),
            'blended',
          ),
      });
      graph.pass({
        name: 'put under',
        reads: [layer],
        colors: [{ texture: sum, ...(i === 0 ? { clear: NOTHING } : {}) }],
        run: (pass) => this.put(pass!, 'under', graph.of(layer)), // it has attachments, as the next one has
      });
      previous = own;
    }
    graph.pass({
      name: 'put layers over',
      reads: [sum],
      colors: [{ texture: picture }],
      run: (pass) => this.put(pass!, 'over', graph.of(sum)),
    });
  }

  sweep(frame: number): void {
    this.groups.sweep(frame);
  }

  private put(pass: RenderPass, how: 'under' | 'over', layer: DeviceTexture): void {
    pass.setPipeline(this.pipelineFor(how));
    pass.setBindGroup(0, this.groups.of([layer], this.frame));
    pass.draw(3);
  }

  private pipelineFor(how: 'under' | 'over'): DevicePipeline {
    const { device, formats, shaders } = this.host;
    let found = this.pipelines.get(how);
    if (!found) {
      const part =
        how === 'over'
          ? ({ srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const)
          : ({ srcFactor: 'one-minus-dst-alpha', dstFactor: 'one' } as const);
      found = device.createRenderPipeline({
        label: `layer ${how}`,
        shader: device.createShader({ label: 'layer', ...shaders.layerOver }),
        targets: [{ format: formats.color, blend: { color: part, alpha: part } }],
      });
      this.pipelines.set(how, found);
    }
    return found;
  }
}

/** What a layer's pass binds: the same array while the textures are. */
class LayerBindings {
  private base: readonly BindGroupEntry[] = [];
  private opaque: DeviceTexture | undefined;
  private before: DeviceTexture | undefined;
  private entries: readonly BindGroupEntry[] = [];

  entriesFor(
    base: readonly BindGroupEntry[],
    opaque: DeviceTexture,
    before: DeviceTexture,
  ): readonly BindGroupEntry[] {
    if (base !== this.base || opaque !== this.opaque || before !== this.before) {
      this.base = base;
      this.opaque = opaque;
      this.before = before;
      // What comes later takes the place of what was there.
      this.entries = [
        ...base,
        { binding: BINDING_OPAQUE_DEPTH, texture: opaque },
        { binding: BINDING_LAYER_DEPTH, texture: before },
      ];
    }
    return this.entries;
  }
}

const NOTHING = [0, 0, 0, 0];
