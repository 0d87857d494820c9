import type { AmbientOcclusionEffect, CompiledShader, Effect } from '@umber-lens/core/engine';
import type { FramePlan, PlanBinding, PlanPainter } from '../../frame/frame-plan.js';
import type { BindGroupEntry, DevicePipeline, DeviceTexture } from '../../gpu/device.js';
import { AIR_OCCLUSION, AIR_OCCLUSION_SEES, BINDING_OPEN_DIRECTIONS } from '../../compiled/layouts.js';
import { TextureGroups } from '../../resources/texture-groups.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import { WANTS } from '../wants.js';

const OCCLUSION = flag({ override: 'useAmbientOcclusion' });
const FORMAT = 'rgba16float';
/** Bits of all things. */
const ALL = 0xffffffff;
const NOTHING = [0, 0, 0, 0] as const;

const isOcclusion = (effect: Effect | null): effect is AmbientOcclusionEffect =>
  effect?.type === 'ambient-occlusion';

/**
 * Ambient occlusion: where things stand close together, less of the light from all around arrives. It is found out of normals and
 * depths ahead of the picture, and counts where surfaces are lit: lights, and light of their own, stay as they are.
 */
export class Occlusion implements Feature {
  readonly entries: readonly BindGroupEntry[];
  hasPasses = false;
  private find: DevicePipeline | undefined;
  private smooth: DevicePipeline | undefined;
  private readonly groups: TextureGroups;
  private frame = 0;

  constructor(private readonly host: FeatureHost) {
    this.groups = new TextureGroups(host.device, 'occlusion');
    // Shaders have the binding in every picture.
    this.entries = [{ binding: BINDING_OPEN_DIRECTIONS, texture: host.nothing.color }];
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.occlusion(facts) ? [OCCLUSION] : [];
  }

  prepare(at: FrameAt): void {
    this.frame = at.frame;
    this.hasPasses = WANTS.occlusion(at);
    if (!this.hasPasses) return;
    const { shaders, air } = this.host;
    const { amount = 1, radius = 0.5, sees = ALL } = at.settings.finish.find(isOcclusion)!; // wanted
    air.values[AIR_OCCLUSION] = Math.max(1e-4, radius);
    air.values[AIR_OCCLUSION + 1] = Math.max(0, Math.min(1, amount));
    air.words[AIR_OCCLUSION_SEES] = sees;
    this.find ??= this.pipeline('ambient occlusion', shaders.occlusion);
    this.smooth ??= this.pipeline('smooth occlusion', shaders.smoothOcclusion);
  }

  addPasses({ graph, shape, surfaces }: FramePlan, painter: PlanPainter): readonly PlanBinding[] {
    if (!surfaces) return [];
    const { host } = this;
    const { width, height } = shape;
    const size = { width, height, format: FORMAT } as const;
    const found = graph.texture('occlusion found', size);
    const smooth = graph.texture('occlusion', size);
    const { normal, depth, things } = surfaces;
    const thingsOf = (): DeviceTexture => (things ? graph.of(things) : host.nothing.color);
    const both = things ? [things] : [];
    graph.pass({
      name: 'ambient occlusion',
      reads: [normal, depth, ...both],
      colors: [{ texture: found, clear: NOTHING }],
      run: (pass) => {
        pass!.setPipeline(this.find!); // it has attachments; made by prepare
        pass!.setBindGroup(0, painter.groupOf(host.entries));
        pass!.setBindGroup(1, this.groups.of([graph.of(normal), graph.of(depth), thingsOf()], this.frame));
        pass!.draw(3);
      },
    });
    graph.pass({
      name: 'smooth occlusion',
      reads: [found, ...both],
      colors: [{ texture: smooth, clear: NOTHING }],
      run: (pass) => {
        pass!.setPipeline(this.smooth!); // as above
        pass!.setBindGroup(0, painter.groupOf(host.entries));
        pass!.setBindGroup(1, this.groups.of([graph.of(found), thingsOf()], this.frame));
        pass!.draw(3);
      },
    });
    return [{ binding: BINDING_OPEN_DIRECTIONS, texture: smooth }];
  }

  sweep(frame: number): void {
    this.groups.sweep(frame);
  }

  private pipeline(label: string, compiled: CompiledShader): DevicePipeline {
    const { device } = this.host;
    return device.createRenderPipeline({
      label,
      shader: device.createShader({ label, ...compiled }),
      targets: [{ format: FORMAT }],
    });
  }
}
