import type { Irradiance, Panorama } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DevicePipeline, DeviceTexture } from '../../gpu/device.js';
import type { UniformBlock } from '../../resources/uniform-block.js';
import {
  AIR_PROBES,
  AIR_PROBE_COUNT,
  BINDING_PROBE_SAMPLER,
  BINDING_PROBE_TEXTURE,
  PROBE_FLOATS,
  PROBE_INTENSITY,
  PROBE_IRRADIANCE,
  PROBE_LEAST,
  PROBE_MOST,
  PROBE_POSITION,
} from '../../compiled/layouts.js';
import type { FullShaders } from '../../compiled/lens-shaders.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import { WANTS } from '../wants.js';
import type { EnvironmentStore } from './environment-store.js';

const PROBES = flag({ override: 'useProbes' });
/** As probes.wgsl has them. */
const SIDE = 128;
const MOST_PROBES = 4;

/** What probes captured, on the GPU: folded squares in the layers of one texture. */
export class Probes implements Feature {
  readonly tellsStalls = true;
  entries: readonly BindGroupEntry[];
  private texture: DeviceTexture;
  private isMade = false;
  /** What each layer holds. */
  private readonly held: { panorama: Panorama; irradiance: Irradiance }[] = [];
  private pipeline: DevicePipeline | undefined;

  private readonly device: Device;
  private readonly shaders: FullShaders;
  private readonly air: UniformBlock;

  constructor(
    { device, shaders, air }: FeatureHost,
    private readonly environments: EnvironmentStore,
  ) {
    this.device = device;
    this.shaders = shaders;
    this.air = air;
    this.texture = this.make(1, 1);
    this.entries = this.makeEntries();
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.probes(facts) ? [PROBES] : [];
  }

  /** Brings probes to the GPU that are not there yet, and writes the numbers that shaders have of all. */
  prepare({ scene: { probes }, frame, ledger }: FrameAt): void {
    const { values: out, words } = this.air;
    words[AIR_PROBE_COUNT] = probes.length;
    if (probes.length > 0 && !this.isMade) {
      this.isMade = true;
      this.texture.dispose();
      this.texture = this.make(SIDE, MOST_PROBES);
      this.entries = this.makeEntries();
    }
    for (let k = 0; k < probes.length && k < MOST_PROBES; k++) {
      const { panorama, box, position, intensity = 1 } = probes[k]!; // k < length
      if (this.held[k]?.panorama !== panorama) {
        const start = performance.now();
        const { cube, irradiance } = this.environments.environment(panorama, frame);
        this.fold(cube, k);
        this.held[k] = { panorama, irradiance };
        ledger.stall('probe', performance.now() - start);
      }
      const { irradiance } = this.held[k]!; // made above
      const o = AIR_PROBES + k * PROBE_FLOATS;
      out.set(box.min, o + PROBE_LEAST);
      out[o + PROBE_INTENSITY] = intensity;
      out.set(box.max, o + PROBE_MOST);
      out.set(position, o + PROBE_POSITION);
      for (let i = 0; i < 9; i++)
        for (let c = 0; c < 3; c++) out[o + PROBE_IRRADIANCE + i * 4 + c] = irradiance[i * 3 + c]!; // 27 numbers
    }
  }

  /** Writes a cube's levels into the levels of a layer. */
  private fold(cube: DeviceTexture, layer: number): void {
    const { device } = this;
    const label = 'fold probe';
    this.pipeline ??= device.createRenderPipeline({
      label,
      shader: device.createShader({ label, ...this.shaders.toOctahedral }),
      targets: [{ format: 'rgba16float' }],
    });
    for (let level = 0; level <= this.environments.roughest; level++) {
      const data = Float32Array.of(SIDE >> level, level, 0, 0);
      const buffer = device.createBuffer({ label, usage: 'uniform', data });
      const group = device.createBindGroup({
        label,
        entries: [
          { binding: 0, buffer },
          { binding: 1, texture: cube },
          { binding: 2, sampler: this.environments.cubeSampler },
        ],
      });
      const pass = device.beginRenderPass({
        label,
        colorAttachments: [{ texture: this.texture, level, layer, clearValue: [0, 0, 0, 1] }],
      });
      pass.setPipeline(this.pipeline);
      pass.setBindGroup(1, group);
      pass.draw(3);
      pass.end();
      device.submit();
      group.dispose();
      buffer.dispose();
    }
  }

  private make(side: number, layers: number): DeviceTexture {
    return this.device.createTexture({
      label: 'probes',
      width: side,
      height: side,
      format: 'rgba16float',
      shape: '2d-array',
      layers,
      mipLevelCount: side === 1 ? 1 : this.environments.roughest + 1,
      renderable: true,
    });
  }

  private makeEntries(): BindGroupEntry[] {
    const sampler = this.device.createSampler({
      label: 'probes',
      mipmapFilter: 'nearest',
      addressModeU: 'clamp-to-edge',
      addressModeV: 'clamp-to-edge',
    });
    return [
      { binding: BINDING_PROBE_TEXTURE, texture: this.texture },
      { binding: BINDING_PROBE_SAMPLER, sampler },
    ];
  }
}
