import { type CompiledShader, FEATURE } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DevicePipeline, DeviceTexture, RenderPass } from '../gpu/device.js';
import type { GraphTexture } from '../passes/frame-graph.js';
import type { FramePlan, PlanFormats, PlanPainter } from '../passes/frame-plan.js';
import type { PreparedScene } from '../passes/prepared-scene.js';
import { AROUND, type FullPipelines } from './full-pipelines.js';
import { TextureGroups } from './texture-groups.js';
import { prepareWay } from './ways.js';

/** Layers that are in their right order pixel by pixel; what lies behind them is sorted by things. */
const LAYERS = 4;

/**
 * Transparent surfaces in their right order, also where they cut through each other: pass by pass the nearest of those
 * that are left, put under what was drawn so far. One sample a pixel.
 */
export class Peeling {
  private readonly pipelines = new Map<'under' | 'over', DevicePipeline>();
  private readonly groups: TextureGroups;
  private frame = 0;

  /** @param pipelinesFor bits of `AROUND` */
  constructor(
    private readonly device: Device,
    private readonly shader: CompiledShader,
    private readonly formats: PlanFormats,
    private readonly pipelinesFor: (features: number) => FullPipelines,
  ) {
    this.groups = new TextureGroups(device, 'layer');
  }

  /** To be called outside a pass, when the scene's batches are up to date. */
  prepare(prepared: PreparedScene, full: FullPipelines, frame: number): void {
    this.frame = frame;
    this.pipelineFor('under');
    this.pipelineFor('over');
    const peel = this.pipelinesFor(full.features | AROUND.peeled);
    const rest = this.pipelinesFor(full.features | AROUND.peeled | AROUND.rest);
    for (const ready of prepared.batches) {
      // What is found by marching keeps its place in the sorted list.
      if (!ready || ready.shader?.isMarched || (ready.features & FEATURE.blend) === 0) continue;
      prepareWay(prepared, ready, 'rest', ready.shape, rest);
      // In layers only when what lies behind them can be drawn too.
      if (ready.ways.rest) prepareWay(prepared, ready, 'peel', ready.shape, peel);
    }
  }

  addAfter(
    plan: FramePlan,
    painter: PlanPainter,
    bindings: (plan: FramePlan) => readonly BindGroupEntry[],
  ): void {
    const { depth, device, formats, graph, picture, shape } = plan;
    const { width, height } = shape;
    const colors = (name: string): GraphTexture =>
      graph.texture(name, { width, height, format: formats.color });
    const depths = (name: string): GraphTexture =>
      graph.texture(name, { width, height, format: formats.depth });
    const opaque = depths('opaque depth');
    graph.pass({
      name: 'copy depth',
      reads: [depth],
      writes: [opaque],
      run: () => device.copyDepth(graph.of(depth), graph.of(opaque)),
    });
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
          painter.drawWay(
            pass,
            isRest ? 'rest' : 'peel',
            bound.entriesFor(bindings(plan), graph.of(opaque), graph.of(before)),
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
    const { device } = this;
    let found = this.pipelines.get(how);
    if (!found) {
      const part =
        how === 'over'
          ? ({ srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const)
          : ({ srcFactor: 'one-minus-dst-alpha', dstFactor: 'one' } as const);
      found = device.createRenderPipeline({
        label: `layer ${how}`,
        shader: device.createShader({ label: 'layer', ...this.shader }),
        targets: [{ format: this.formats.color, blend: { color: part, alpha: part } }],
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
      this.entries = [...base, { binding: 18, texture: opaque }, { binding: 19, texture: before }];
    }
    return this.entries;
  }
}

const NOTHING = [0, 0, 0, 0];
