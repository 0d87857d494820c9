import { FEATURE } from '@umber-lens/core/engine';
import type { FramePlan, PlanBinding, PlanPainter } from '../../frame/frame-plan.js';
import type { BindGroupEntry } from '../../gpu/device.js';
import { mipLevels } from '../../gpu/sizes.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { AIR_FLOATS, AIR_IS_RADIANCE, BINDING_AIR, BINDING_SCENE_RADIANCE } from '../../compiled/layouts.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';

/**
 * What is seen through clear things: the radiance of what is opaque, weighted, in all levels. Prepared behind all that write
 * air.
 */
export class SeenThrough implements Feature {
  readonly entries: readonly BindGroupEntry[];
  hasPasses = false;
  /** The same air, telling that radiance is stored. */
  private readonly air: UniformBlock;
  private readonly clear = new Float32Array(4);
  private base: readonly BindGroupEntry[] | undefined;
  private radianceEntries: readonly BindGroupEntry[] = [];

  constructor(private readonly host: FeatureHost) {
    this.air = new UniformBlock(host.device, 'air', AIR_FLOATS);
    // Shaders have the binding in every picture.
    this.entries = [{ binding: BINDING_SCENE_RADIANCE, texture: host.nothing.color }];
  }

  prepare({ scene: { clearColor }, prepared, given }: FrameAt): void {
    this.hasPasses = (prepared.layers & FEATURE.transmission) !== 0;
    if (!this.hasPasses) return;
    this.writeClear(clearColor, given.exposure);
    this.air.values.set(this.host.air.values);
    this.air.values[AIR_IS_RADIANCE] = 1;
    this.air.upload();
  }

  addPasses({ device, formats, graph, shape }: FramePlan, painter: PlanPainter): PlanBinding[] {
    const { width, height, sampleCount } = shape;
    const { color: format, depth: depthFormat } = formats;
    const size = { width, height };
    const radiance = graph.texture('radiance', { ...size, format, mipLevelCount: mipLevels(width, height) });
    const samples =
      sampleCount > 1 ? graph.texture('radiance samples', { ...size, format, sampleCount }) : undefined;
    const { clear } = this;
    graph.pass({
      name: 'radiance',
      colors: [samples ? { texture: samples, resolve: radiance, clear } : { texture: radiance, clear }],
      depth: {
        texture: graph.texture('radiance depth', { ...size, format: depthFormat, sampleCount }),
        clear: 0,
      },
      run: (pass) => painter.drawRadiance(pass, this.withRadiance()),
    });
    graph.pass({
      name: 'blur radiance',
      reads: [radiance],
      writes: [radiance],
      run: () => device.generateMipmaps(graph.of(radiance)),
    });
    return [{ binding: BINDING_SCENE_RADIANCE, texture: radiance }];
  }

  /** What others bind, with this air in place of theirs: the same array while theirs is. */
  private withRadiance(): readonly BindGroupEntry[] {
    const { entries } = this.host;
    if (entries !== this.base) {
      this.base = entries;
      this.radianceEntries = entries.map((entry) =>
        entry.binding === BINDING_AIR ? { binding: BINDING_AIR, buffer: this.air.buffer } : entry,
      );
    }
    return this.radianceEntries;
  }

  /** The clear colour as the light that is seen through things, weighted. */
  private writeClear(color: ArrayLike<number>, exposure: number): void {
    const { clear } = this;
    let most = 0;
    for (let k = 0; k < 3; k++) most = Math.max(most, (clear[k] = color[k]! / exposure)); // three and alpha
    clear[3] = 1 / (1 + most);
    for (let k = 0; k < 3; k++) clear[k]! /= 1 + most;
  }
}
