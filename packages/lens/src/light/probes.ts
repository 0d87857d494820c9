import type { Irradiance, Panorama, Probe } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DevicePipeline, DeviceTexture } from '../gpu/device.js';
import type { Ledger } from '../ledger.js';
import type { FullShaders } from '../shaders/lens-shaders.js';
import type { EnvironmentStore } from './environment-store.js';

/** As probes.wgsl has them. */
const SIDE = 128;
const MOST_PROBES = 4;
/** Floats of the structure `Probe` of air.wgsl. */
const PROBE_FLOATS = 48;

/** What probes captured, on the GPU: folded squares in the layers of one texture. */
export class Probes {
  entries: readonly BindGroupEntry[];
  private texture: DeviceTexture;
  private isMade = false;
  /** What each layer holds. */
  private readonly held: { panorama: Panorama; irradiance: Irradiance }[] = [];
  private pipeline: DevicePipeline | undefined;

  constructor(
    private readonly device: Device,
    private readonly shaders: FullShaders,
    private readonly environments: EnvironmentStore,
  ) {
    this.texture = this.make(1, 1);
    this.entries = this.makeEntries();
  }

  /**
   * Brings probes to the GPU that are not there yet, and writes the numbers that shaders have of all. To be called
   * outside a pass.
   *
   * @param at where the structures `Probe` begin in `out`
   */
  prepare(probes: readonly Probe[], frame: number, ledger: Ledger, out: Float32Array, at: number): void {
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
      const o = at + k * PROBE_FLOATS;
      out.set(box.min, o);
      out[o + 3] = intensity;
      out.set(box.max, o + 4);
      out.set(position, o + 8);
      for (let i = 0; i < 9; i++)
        for (let c = 0; c < 3; c++) out[o + 12 + i * 4 + c] = irradiance[i * 3 + c]!; // 27 numbers
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
      { binding: 20, texture: this.texture },
      { binding: 21, sampler },
    ];
  }
}
