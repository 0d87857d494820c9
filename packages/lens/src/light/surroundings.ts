import {
  type Backdrop,
  type CameraView,
  type Fog,
  LensError,
  type Scene,
  temperatureColor,
} from '@umber-lens/core';
import type {
  BindGroupEntry,
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceTexture,
  RenderPass,
} from '../gpu/device.js';
import type { Ledger } from '../ledger.js';
import type { PlanFormats } from '../passes/frame-plan.js';
import { UniformBlock } from '../resources/uniform-block.js';
import type { FullShaders } from '../shaders/lens-shaders.js';
import { EnvironmentStore } from './environment-store.js';
import type { ScenePass } from '../passes/scene-pass.js';
import type { TextureStore } from '../resources/texture-store.js';
import { LayerStore } from './layer-store.js';
import { type Show, SHOWS } from './show.js';
import { ShadowMaps } from './shadow-maps.js';
import { LightClusters } from './light-clusters.js';
import { LookFinish } from './look-finish.js';
import { type Look, toneNumber } from './look.js';

/** Floats of the structure `Air` in air.wgsl. */
const AIR_FLOATS = 56;
const FOGS = ['linear', 'exponential', 'squared'];

/**
 * What scenes may have around them: an environment's light, fog, a backdrop, another tone curve. Loaded with its
 * shaders when a scene first has some of it.
 */
export class Surroundings {
  /** What full pipelines bind besides, in the frame's group. The array is another one when something in it changed. */
  entries: readonly BindGroupEntry[];
  readonly shadows: ShadowMaps;
  readonly clusters: LightClusters;
  readonly layers: LayerStore;
  readonly finish: LookFinish;
  /** The same for passes that store radiance. */
  radianceEntries: readonly BindGroupEntry[];
  private readonly environments: EnvironmentStore;
  private readonly air: UniformBlock;
  /** The same, telling that radiance is stored. */
  private readonly radianceAir: UniformBlock;
  private cube: DeviceTexture;
  private shadowEntries: readonly BindGroupEntry[];
  private clusterEntries: readonly BindGroupEntry[];
  private readonly backdrop: UniformBlock;
  private backdropGroup: DeviceBindGroup | undefined;
  private backdropTexture: DeviceTexture | undefined;
  private backdropPipeline: DevicePipeline | undefined;

  constructor(
    private readonly device: Device,
    readonly shaders: FullShaders,
    private readonly formats: PlanFormats,
    scenePass: ScenePass,
    textures: TextureStore,
    shadowTexels: number,
  ) {
    this.layers = new LayerStore(device, textures, shaders);
    this.finish = new LookFinish(device, shaders.finishLook);
    this.shadows = new ShadowMaps(device, scenePass, shadowTexels);
    this.shadowEntries = this.shadows.entries;
    this.clusters = new LightClusters(device);
    this.clusterEntries = this.clusters.entries;
    this.environments = new EnvironmentStore(device, shaders);
    this.air = new UniformBlock(device, 'air', AIR_FLOATS);
    this.radianceAir = new UniformBlock(device, 'air', AIR_FLOATS);
    this.backdrop = new UniformBlock(device, 'backdrop', 4);
    this.cube = this.environments.nothing;
    this.entries = this.entriesWith(this.air.buffer);
    this.radianceEntries = this.entriesWith(this.radianceAir.buffer);
  }

  /** Uploads what changed, and makes what is new. To be called outside a pass. @throws LensError `fog/kind`, `look/tone` */
  prepare(
    scene: Scene,
    view: CameraView,
    look: Look,
    show: Show,
    height: number,
    frame: number,
    ledger: Ledger,
  ): void {
    const { environments } = this;
    const { values: air, words } = this.air;
    const { environment, fog, background } = scene;
    air.fill(0);
    let { nothing: cube } = environments;
    if (environment) {
      const found = environments.environment(environment, frame);
      if (found.milliseconds > 0) ledger.stall('environment', found.milliseconds);
      found.milliseconds = 0;
      cube = found.cube;
      const { irradiance } = found;
      for (let k = 0; k < 9; k++) for (let c = 0; c < 3; c++) air[k * 4 + c] = irradiance[k * 3 + c]!; // 27 numbers
      writeTurn(air, 36, environment.rotation ?? 0);
      air[38] = environment.intensity ?? 1;
    }
    air[39] = environments.roughest;
    if (fog) this.writeFog(fog);
    words[50] = toneNumber(look.toneMapping);
    words[51] = SHOWS.indexOf(show);
    air.set(whiteFactors(look.whiteBalance), 52);
    this.air.upload();
    this.radianceAir.values.set(air);
    this.radianceAir.values[55] = 1;
    this.radianceAir.upload();
    if (
      cube !== this.cube ||
      this.shadows.entries !== this.shadowEntries ||
      this.clusters.entries !== this.clusterEntries
    ) {
      this.clusterEntries = this.clusters.entries;
      this.cube = cube;
      this.shadowEntries = this.shadows.entries;
      this.entries = this.entriesWith(this.air.buffer);
      this.radianceEntries = this.entriesWith(this.radianceAir.buffer);
    }
    if (background.backdrop) this.prepareBackdrop(background.backdrop, scene, view, height, frame);
  }

  /** Draws the scene's backdrop where nothing was drawn. */
  drawBackdrop(pass: RenderPass, frameGroup: DeviceBindGroup): void {
    if (!this.backdropGroup || !this.backdropPipeline) return;
    pass.setPipeline(this.backdropPipeline);
    pass.setBindGroup(0, frameGroup);
    pass.setBindGroup(1, this.backdropGroup);
    pass.draw(3);
  }

  sweep(frame: number): void {
    this.environments.sweep(frame);
    this.shadows.sweep();
    this.layers.sweep(frame);
    this.finish.sweep(frame);
  }

  private writeFog(fog: Fog): void {
    const { values: air, words } = this.air;
    const kind = FOGS.indexOf(fog.type) + 1;
    if (kind === 0) {
      throw new LensError('fog/kind', `there is no fog "${fog.type}"`, {
        hint: `Use one of ${FOGS.join(', ')}.`,
      });
    }
    const isOfSky = fog.color === 'sky';
    if (fog.color !== 'sky') air.set(fog.color, 40);
    words[43] = kind;
    const { near = 1, far = 100, density = 0.02, height } = fog;
    air[44] = kind === 1 ? near : density;
    air[45] = kind === 1 ? far : density;
    air[46] = height?.base ?? 0;
    air[47] = height ? 1 / height.falloff : 0;
    air[48] = isOfSky ? 1 : 0;
    air[49] = fog.overBackdrop ?? (isOfSky ? 0 : 1);
  }

  private prepareBackdrop(
    backdrop: Backdrop,
    scene: Scene,
    view: CameraView,
    height: number,
    frame: number,
  ): void {
    const { device, environments } = this;
    const { values: numbers } = this.backdrop;
    const texture = environments.panorama(backdrop.panorama, frame);
    if (texture !== this.backdropTexture) {
      this.backdropGroup?.dispose();
      this.backdropGroup = device.createBindGroup({
        label: 'backdrop',
        entries: [
          { binding: 0, buffer: this.backdrop.buffer },
          { binding: 1, texture },
          { binding: 2, sampler: environments.panoramaSampler },
        ],
      });
      this.backdropTexture = texture;
    }
    this.backdropPipeline ??= device.createRenderPipeline({
      label: 'backdrop',
      shader: device.createShader({ label: 'backdrop', ...this.shaders.backdrop }),
      depth: { format: this.formats.depth, compare: 'equal', write: false },
      targets: [{ format: this.formats.color }],
      sampleCount: this.formats.sampleCount,
    });
    const { environment } = scene;
    writeTurn(numbers, 0, backdrop.rotation ?? environment?.rotation ?? 0);
    numbers[2] = backdrop.intensity ?? environment?.intensity ?? 1;
    // As many pixels of the panorama as of the picture; the roughest light is seen as blurred as 16 pixels round.
    const fieldOfView = 2 * Math.atan(1 / view.projection[5]!);
    const pixels = (backdrop.panorama.height * fieldOfView) / Math.PI;
    const most = Math.max(0, Math.log2(backdrop.panorama.width / 16));
    numbers[3] = Math.max(0, Math.log2(pixels / height), (backdrop.blur ?? 0) * most);
    this.backdrop.upload();
  }

  private entriesWith(buffer: DeviceBuffer): BindGroupEntry[] {
    const { cube } = this;
    return [
      { binding: 5, buffer },
      { binding: 7, texture: this.environments.nothingBehind },
      { binding: 8, texture: cube },
      { binding: 9, sampler: this.environments.cubeSampler },
      ...this.shadowEntries,
      ...this.clusterEntries,
    ];
  }
}

/** Shaders turn directions back, from the world into the panorama. */
function writeTurn(out: Float32Array, at: number, rotation: number): void {
  out[at] = Math.cos(rotation);
  out[at + 1] = Math.sin(rotation);
}

let lastKelvin = 0;
let lastFactors: readonly number[] = [1, 1, 1];

/** Factors that make light of this temperature white, of the same luminance. */
function whiteFactors(kelvin = 6504): readonly number[] {
  if (kelvin === lastKelvin) return lastFactors;
  lastKelvin = kelvin;
  const tint = temperatureColor(kelvin);
  return (lastFactors = kelvin === 6504 ? [1, 1, 1] : tint.map((part) => 1 / Math.max(part, 1e-3)));
}
