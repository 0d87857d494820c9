import type { CompiledShader } from '@umber-lens/core/engine';
import type {
  BindGroupEntry,
  Device,
  DeviceBindGroup,
  DevicePipeline,
  DeviceTexture,
  RenderPassOptions,
} from '../../gpu/device.js';
import type { FramePlan } from '../../frame/frame-plan.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { BINDING_METERED_STOPS } from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { WANTS } from '../wants.js';
import type { AutomaticExposure } from '../look/look.js';

/** Exposure follows the picture. */
const METERED = flag({ override: 'isMetered' });

/**
 * Measures the picture on the GPU after it was drawn, and keeps how many stops the next one is to have in a texture of
 * one texel, which shaders read: nothing waits for the GPU. One for all cameras of a lens.
 */
export class Exposure implements Feature {
  hasPasses = false;
  /** As full pipelines bind it. */
  readonly entries: readonly BindGroupEntry[];
  private readonly stops: DeviceTexture;
  private readonly next: DeviceTexture;
  private readonly block: UniformBlock;
  private pipeline: DevicePipeline | undefined;
  private readonly pass: RenderPassOptions;
  private group: DeviceBindGroup | undefined;
  private grouped: DeviceTexture | undefined;

  private readonly device: Device;
  private readonly shader: CompiledShader;

  constructor({ device, shaders }: FeatureHost) {
    this.device = device;
    this.shader = shaders.meter;
    this.block = new UniformBlock(device, 'meter', 4);
    const options = { width: 1, height: 1, format: 'rgba16float', renderable: true } as const;
    this.stops = device.createTexture({ label: 'exposure', ...options, data: new Float32Array(4) });
    this.next = device.createTexture({ label: 'next exposure', ...options });
    this.pass = { label: 'meter', colorAttachments: [{ texture: this.next, clearValue: [0, 0, 0, 0] }] };
    this.entries = [{ binding: BINDING_METERED_STOPS, texture: this.stops }];
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.exposure(facts) ? [METERED] : [];
  }

  prepare({ settings: { look, tile }, given }: FrameAt, full: FullPipelines): void {
    const isMetered = full.has(METERED);
    if (isMetered) {
      if (!this.hasPasses) this.reset();
      const { automaticExposure: wanted } = look;
      this.begin(typeof wanted === 'object' ? wanted : {}, given.delta, tile !== undefined);
    }
    this.hasPasses = isMetered;
  }

  /** The picture is measured when it is whole. */
  addAfter({ graph, picture }: FramePlan): void {
    graph.pass({
      name: 'meter',
      reads: [picture],
      writes: [graph.outside('exposure')],
      run: () => this.measure(graph.of(picture)),
    });
  }

  /**
   * To be called outside a pass.
   *
   * @param delta seconds since the frame before; 0 goes all the way
   * @param isTile whether it is a part of a picture: all of them have the stops that were measured before
   */
  private begin(
    { brightness = 0.18, min: least = -6, max: most = 6, halfLife = 0.4 }: AutomaticExposure,
    delta: number,
    isTile: boolean,
  ): void {
    const { device } = this;
    this.pipeline ??= device.createRenderPipeline({
      label: 'meter',
      shader: device.createShader({ label: 'meter', ...this.shader }),
      targets: [{ format: 'rgba16float' }],
    });
    const { values } = this.block;
    values[0] = Math.log2(Math.max(brightness, 1e-3));
    values[1] = least;
    values[2] = most;
    values[3] = isTile ? 0 : delta > 0 && halfLife > 0 ? 1 - 2 ** (-delta / halfLife) : 1;
    this.block.upload();
  }

  /** Looks at a picture; what comes out counts for the frames to come. */
  private measure(picture: DeviceTexture): void {
    const { device } = this;
    if (this.grouped !== picture) {
      this.group?.dispose();
      this.grouped = picture;
      this.group = device.createBindGroup({
        label: 'meter',
        entries: [
          { binding: 0, buffer: this.block.buffer },
          { binding: 1, texture: picture },
          { binding: 2, texture: this.stops },
        ],
      });
    }
    const pass = device.beginRenderPass(this.pass);
    pass.setPipeline(this.pipeline!); // made by prepare
    pass.setBindGroup(0, this.group!); // made above
    pass.draw(3);
    pass.end();
    device.copyTexture(this.next, this.stops);
  }

  /** Begins anew at no stops. */
  private reset(): void {
    this.device.writeTexture(this.stops, new Float32Array(4));
  }
}
