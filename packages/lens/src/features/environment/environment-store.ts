import {
  type Irradiance,
  irradianceOf,
  type LightCube,
  LOBE_COUNTS,
  lobeSamples,
  MIRROR_SIDE,
  type Panorama,
} from '@umber-lens/core/engine';
import type { Device, DeviceBuffer, DevicePipeline, DeviceSampler, DeviceTexture } from '../../gpu/device.js';
import { mipLevels } from '../../gpu/sizes.js';
import type { FullShaders } from '../../compiled/lens-shaders.js';
import { freeUnused } from '../../resources/kept.js';

/** The structure `Lobe` of prefilter.wgsl. */
const LOBE_BYTES = 16 + 64 * 16;
/** What half floats hold, with room for filtering. */
const BRIGHTEST = 60_000;
const darkened = (value: number): number => (value < BRIGHTEST ? value : BRIGHTEST);

/** An environment on the GPU. */
export interface GpuEnvironment {
  /** Levels for mirrors of growing roughness. */
  cube: DeviceTexture;
  irradiance: Irradiance;
  /** Milliseconds of script that making it took. */
  milliseconds: number;
  lastUsed: number;
}

interface Entry<T> {
  value: T;
  lastUsed: number;
}

/**
 * Panoramas on the GPU, and the cubes that are made of them once: a panorama that changes is a new one. Both are
 * freed when no frame uses them.
 */
export class EnvironmentStore {
  /** The level that a surface of roughness 1 sees. */
  readonly roughest = LOBE_COUNTS.length - 1;
  /** In place of an environment: black. */
  readonly nothing: DeviceTexture;
  readonly cubeSampler: DeviceSampler;
  readonly panoramaSampler: DeviceSampler;
  private readonly panoramas = new Map<Panorama, Entry<DeviceTexture>>();
  private readonly cubes = new Map<Panorama, GpuEnvironment>();
  private toCube: DevicePipeline | undefined;
  private prefilter: DevicePipeline | undefined;

  constructor(
    private readonly device: Device,
    private readonly shaders: FullShaders,
  ) {
    const cube = { shape: 'cube', width: 1, height: 1, format: 'rgba8unorm', renderable: true } as const;
    this.nothing = device.createTexture({ label: 'no environment', ...cube });
    this.cubeSampler = device.createSampler({ addressModeU: 'clamp-to-edge', addressModeV: 'clamp-to-edge' });
    this.panoramaSampler = device.createSampler({ addressModeV: 'clamp-to-edge' });
  }

  /** The panorama as a texture with all levels. */
  panorama(panorama: Panorama, frame: number): DeviceTexture {
    let entry = this.panoramas.get(panorama);
    if (!entry) {
      const { width, height } = panorama;
      const data = panorama.data.map(darkened);
      const value = this.device.createTexture({
        label: panorama.name ?? 'panorama',
        width,
        height,
        format: 'rgba16float',
        mipmaps: true,
        renderable: true,
        data,
      });
      this.panoramas.set(panorama, (entry = { value, lastUsed: frame }));
    }
    entry.lastUsed = frame;
    return entry.value;
  }

  /** What surfaces see of a panorama's light. To be called outside a pass. */
  environment(panorama: Panorama, frame: number): GpuEnvironment {
    let found = this.cubes.get(panorama);
    if (!found) {
      const start = performance.now();
      const { baked } = panorama;
      const cube = baked
        ? this.uploadCube(baked.levels)
        : this.makeCube(this.panorama(panorama, frame), panorama.width);
      const irradiance = baked?.irradiance ?? irradianceOf(panorama);
      found = { cube, irradiance, milliseconds: performance.now() - start, lastUsed: frame };
      this.cubes.set(panorama, found);
    }
    found.lastUsed = frame;
    return found;
  }

  /** Whether a cube is still there. */
  holds(cube: DeviceTexture): boolean {
    if (cube === this.nothing) return true;
    for (const known of this.cubes.values()) if (known.cube === cube) return true;
    return false;
  }

  sweep(frame: number): void {
    freeUnused(this.panoramas, frame, ({ value }) => value.dispose());
    freeUnused(this.cubes, frame, ({ cube }) => cube.dispose());
  }

  /** A cube that was made ahead of time. */
  private uploadCube(levels: readonly LightCube[]): DeviceTexture {
    const { device } = this;
    const { side } = levels[0]!; // has levels
    const cube = device.createTexture({
      label: 'environment',
      shape: 'cube',
      width: side,
      height: side,
      format: 'rgba16float',
      mipLevelCount: levels.length,
    });
    levels.forEach(({ sides }, level) =>
      sides.forEach((data, layer) => device.writeTexture(cube, data.map(darkened), { level, layer })),
    );
    return cube;
  }

  /** The panorama as a cube with all levels, then blurred level by level. */
  private makeCube(panorama: DeviceTexture, width: number): DeviceTexture {
    const { device } = this;
    const format = 'rgba16float';
    const common = {
      shape: 'cube',
      width: MIRROR_SIDE,
      height: MIRROR_SIDE,
      format,
      renderable: true,
    } as const;
    const sharp = device.createTexture({
      label: 'sharp environment',
      ...common,
      mipLevelCount: mipLevels(MIRROR_SIDE, MIRROR_SIDE),
    });
    const levels = this.roughest + 1;
    const cube = device.createTexture({ label: 'environment', ...common, mipLevelCount: levels });
    const { uniformAlignment } = device.limits;
    const step = Math.ceil(LOBE_BYTES / uniformAlignment) * uniformAlignment;
    const numbers = new ArrayBuffer(step * 6 * (levels + 1));
    const slot = (
      number: number,
      side: number,
      size: number,
    ): { words: Uint32Array; floats: Float32Array } => {
      const words = new Uint32Array(numbers, (number * 6 + side) * step, LOBE_BYTES / 4);
      const floats = new Float32Array(numbers, (number * 6 + side) * step, LOBE_BYTES / 4);
      words[0] = side;
      floats[1] = size;
      return { words, floats };
    };
    const straight = Float32Array.of(0, 0, 1, 0);
    for (let side = 0; side < 6; side++)
      slot(0, side, MIRROR_SIDE).floats[2] = Math.max(0, Math.log2(width / (4 * MIRROR_SIDE)));
    for (let level = 0; level < levels; level++) {
      const samples =
        level === 0 ? straight : lobeSamples(level / this.roughest, LOBE_COUNTS[level]!, MIRROR_SIDE); // one for each level
      for (let side = 0; side < 6; side++) {
        const { words, floats } = slot(level + 1, side, MIRROR_SIDE >> level);
        words[2] = samples.length / 4;
        floats.set(samples, 4);
      }
    }
    const buffer = device.createBuffer({
      label: 'environment',
      usage: 'uniform',
      data: new Uint8Array(numbers),
    });
    this.toCube ??= this.pipeline('panorama to cube', this.shaders.toCube);
    this.prefilter ??= this.pipeline('prefilter', this.shaders.prefilter);
    this.drawSides(this.toCube, sharp, 0, buffer, 0, step, panorama, this.panoramaSampler);
    device.generateMipmaps(sharp);
    for (let level = 0; level < levels; level++)
      this.drawSides(
        this.prefilter,
        cube,
        level,
        buffer,
        6 * (level + 1) * step,
        step,
        sharp,
        this.cubeSampler,
      );
    device.submit();
    buffer.dispose();
    sharp.dispose();
    return cube;
  }

  private drawSides(
    pipeline: DevicePipeline,
    target: DeviceTexture,
    level: number,
    buffer: DeviceBuffer,
    offset: number,
    step: number,
    texture: DeviceTexture,
    sampler: DeviceSampler,
  ): void {
    const { device } = this;
    const group = device.createBindGroup({
      label: pipeline.label,
      entries: [
        { binding: 0, buffer, size: LOBE_BYTES },
        { binding: 1, texture },
        { binding: 2, sampler },
      ],
    });
    for (let layer = 0; layer < 6; layer++) {
      const pass = device.beginRenderPass({
        label: pipeline.label,
        colorAttachments: [{ texture: target, level, layer, clearValue: [0, 0, 0, 1] }],
      });
      pass.setPipeline(pipeline);
      pass.setBindGroup(0, group, offset + layer * step);
      pass.draw(3);
      pass.end();
    }
    group.dispose();
  }

  private pipeline(label: string, shader: FullShaders['toCube']): DevicePipeline {
    const { device } = this;
    return device.createRenderPipeline({
      label,
      shader: device.createShader({ label, ...shader }),
      targets: [{ format: 'rgba16float' }],
    });
  }
}
