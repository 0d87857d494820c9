import {
  FEATURE,
  type Fog,
  LensError,
  type Scene,
  type SceneNode,
  temperatureColor,
} from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBuffer, DeviceTexture } from '../gpu/device.js';
import { mipLevels } from '../gpu/sizes.js';
import type {
  FrameAt,
  FramePlan,
  PlanBinding,
  PlanFormats,
  PlanPainter,
  PlanPart,
} from '../passes/frame-plan.js';
import { MOST_LIGHTS, type MoreOfLights } from '../passes/frame-uniforms.js';
import { UniformBlock } from '../resources/uniform-block.js';
import type { FullShaders } from '../shaders/lens-shaders.js';
import { AROUND, FullPipelines } from './full-pipelines.js';
import { Swarming } from '../swarm/swarming.js';
import { DeferredPath } from './deferred-path.js';
import { Bending } from './bending.js';
import { BackdropPass, writeTurn } from './backdrop-pass.js';
import { AreaTables, writeAreaLight } from './area-lights.js';
import { ExposureMeter } from './exposure-meter.js';
import { Inspection } from './inspection.js';
import { EnvironmentStore } from './environment-store.js';
import type { PreparedScene } from '../passes/prepared-scene.js';
import type { RenderPath } from '../passes/render-path.js';
import type { ScenePass } from '../passes/scene-pass.js';
import type { TextureStore } from '../resources/texture-store.js';
import { LayerStore } from './layer-store.js';
import { type ShownQuantity, SHOWS } from './show.js';
import { Peeling } from './peeling.js';
import { Probes } from './probes.js';
import { ShadowMaps, softnessOf } from './shadow-maps.js';
import { LightClusters } from './light-clusters.js';
import { LookFinish } from './look-finish.js';
import { type Look, toneNumber } from './look.js';

/** Floats of the structure `Air` in air.wgsl. */
export const AIR_FLOATS = 56 + 4 * 48 + 4;
/** Passes that a frame may have besides the scene's. */
const PASSES = { shadows: 1, seenThrough: 2, metered: 4, peeled: 8 } as const;
const FOGS = ['linear', 'exponential', 'squared'];

/**
 * What scenes may have around them: an environment's light, fog, a backdrop, another tone curve. Loaded with its
 * shaders when a scene first has some of it.
 */
export class Surroundings implements PlanPart, MoreOfLights {
  /** What full pipelines bind besides, in the frame's group. The array is another one when something in it changed. */
  entries: readonly BindGroupEntry[] = [];
  /** The same for passes that store radiance. */
  radianceEntries: readonly BindGroupEntry[] = [];
  readonly finish: LookFinish;
  readonly backdrop: BackdropPass;
  /** How scenes are looked at otherwise than by their light. */
  readonly inspection: Inspection;
  /** Whether depths are drawn before, and whether light is added after, in the frame at hand. */
  isPrepassed = false;
  isDeferred = false;
  /** Whether lights are looked up by cells, in any number. */
  isClustered = false;
  private readonly environments: EnvironmentStore;
  readonly layers: LayerStore;
  private readonly shadows: ShadowMaps;
  private readonly clusters: LightClusters;
  private readonly areas: AreaTables;
  private readonly bending: Bending;
  readonly swarming: Swarming;
  private readonly probes: Probes;
  private readonly meter: ExposureMeter;
  private readonly peeling: Peeling;
  private readonly deferred: DeferredPath;
  /** Those that bind something, and what each did last. */
  private readonly parts: readonly { readonly entries: readonly BindGroupEntry[] }[];
  private readonly bound: (readonly BindGroupEntry[])[] = [];
  private cube: DeviceTexture | undefined;
  /** In place of the depths of layers. */
  private readonly noDepth: DeviceTexture;
  private readonly air: UniformBlock;
  /** The same, telling that radiance is stored. */
  private readonly radianceAir: UniformBlock;
  private readonly clearRadiance = new Float32Array(4);
  private loaded = 0;
  private readonly uses: (FullPipelines | undefined)[] = [];
  // Of the frame at hand.
  private hasShadows = false;
  private isMetered = false;
  private isPeeled = false;

  constructor(
    private readonly device: Device,
    private readonly shaders: FullShaders,
    formats: PlanFormats,
    scenePass: ScenePass,
    private readonly textures: TextureStore,
    shadowTexels: number,
    private readonly load: (loading: Promise<void>) => void,
  ) {
    const pipelinesFor = (features: number): FullPipelines => this.pipelinesFor(features);
    this.finish = new LookFinish(device, shaders.finishLook);
    this.environments = new EnvironmentStore(device, shaders);
    this.backdrop = new BackdropPass(device, shaders.backdrop, formats, this.environments);
    this.inspection = new Inspection(device, pipelinesFor);
    this.layers = new LayerStore(device, textures, shaders);
    this.bending = new Bending(device);
    this.swarming = new Swarming(device);
    this.shadows = new ShadowMaps(device, scenePass, shadowTexels, this.swarming, [
      this.bending,
      this.swarming,
    ]);
    this.clusters = new LightClusters(device);
    this.areas = new AreaTables(device);
    this.probes = new Probes(device, shaders, this.environments);
    this.meter = new ExposureMeter(device, shaders.meter);
    this.peeling = new Peeling(device, shaders.layerOver, formats, pipelinesFor);
    this.deferred = new DeferredPath(device, shaders.deferred, formats, pipelinesFor);
    this.parts = [
      this.shadows,
      this.clusters,
      this.areas,
      this.bending,
      this.swarming,
      this.probes,
      this.meter,
    ];
    this.noDepth = device.createTexture({
      label: 'no layer',
      width: 1,
      height: 1,
      format: formats.depth,
      renderable: true,
    });
    this.air = new UniformBlock(device, 'air', AIR_FLOATS);
    this.radianceAir = new UniformBlock(device, 'air', AIR_FLOATS);
  }

  /**
   * How pipelines are built for a scene.
   *
   * @param loaded counts what was loaded: pipelines that stood in are made anew then
   */
  useFor(
    { imageLight: environment, probes }: Scene,
    lights: readonly SceneNode[],
    look: Look,
    show: ShownQuantity,
    path: RenderPath,
    loaded: number,
  ): FullPipelines {
    let [hasShadows, hasSoftShadows, hasAreas] = [false, false, false];
    for (let i = 0; i < lights.length; i++) {
      const { light } = lights[i]!; // i < length
      hasShadows ||= Boolean(light?.shadow);
      hasSoftShadows ||= Boolean(light?.shadow) && softnessOf(light!) > 0; // it has a shadow
      hasAreas ||= light?.type === 'area';
    }
    const features =
      (environment ? AROUND.environment : 0) |
      (hasShadows ? AROUND.shadows : 0) |
      (hasSoftShadows ? AROUND.softShadows : 0) |
      (show === 'shaded' ? 0 : AROUND.inspected) |
      (show === 'overdraw' ? AROUND.overdraw : 0) |
      (show === 'draws' ? AROUND.identified : 0) |
      (show === 'wireframe' ? AROUND.wires : 0) |
      (lights.length > MOST_LIGHTS ? AROUND.clusters : 0) |
      (hasAreas ? AROUND.areas : 0) |
      (probes.length > 0 ? AROUND.probes : 0) |
      (look.automaticExposure && show === 'shaded' ? AROUND.metered : 0) |
      // Single quantities are looked at as they are drawn.
      (path === 'prepass' && show === 'shaded' ? AROUND.prepassed : 0) |
      (path === 'deferred' && show === 'shaded' ? AROUND.deferred : 0);
    this.loaded = loaded;
    return this.pipelinesFor(features);
  }

  /** @param features bits of `AROUND` */
  pipelinesFor(features: number): FullPipelines {
    const known = this.uses[features];
    if (known?.loaded === this.loaded) return known;
    return (this.uses[features] = new FullPipelines(this.shaders, features, this.loaded, this.load));
  }

  /**
   * Uploads what changed, and makes what is new. To be called outside a pass.
   *
   * @returns which passes a frame has besides
   * @throws LensError `fog/kind`, `look/tone`
   */
  prepare(
    full: FullPipelines,
    { scene, prepared, state, lights, given, frame, ledger }: FrameAt,
    look: Look,
    show: ShownQuantity,
  ): number {
    const { clusters, device, environments, shadows } = this;
    const { view } = state;
    const { imageLight: environment, backdrop, clearColor, fog } = scene;
    this.bending.prepare(scene, frame);
    this.swarming.prepare(prepared, frame);
    const start = performance.now();
    const { pending } = prepared.stores.pipelines;
    // Those that are made beside the script hold nothing up.
    const before = device.counts.pipelines - pending.size;
    if (full.hasShadows)
      shadows.prepare(scene, prepared, lights, view, given, this.textures.decodedCount, ledger);
    this.hasShadows = full.hasShadows;
    if (full.has('areas')) this.areas.load();
    this.prepareMeter(full, look, given.delta);
    this.isClustered = full.has('clusters');
    if (this.isClustered) clusters.prepare(scene, lights, view, this);
    for (const ready of prepared.batches)
      if (ready) ready.layers = this.layers.get(ready.batch.material, ready.features, frame);
    this.inspection.prepare(prepared, full, show, frame);
    this.isPrepassed = full.has('prepassed');
    this.isDeferred = full.has('deferred');
    this.deferred.prepare(prepared, full, frame);
    const wasPeeled = this.isPeeled;
    this.isPeeled = look.transparency === 'peeled' && show === 'shaded';
    if (wasPeeled && !this.isPeeled) for (const ready of prepared.batches) delete ready?.ways.peel;
    if (this.isPeeled) this.peeling.prepare(prepared, full, frame);
    if (backdrop) this.backdrop.prepare(backdrop, environment, view, given.height, full, frame);
    const made = device.counts.pipelines - pending.size - before;
    if (made > 0) ledger.stall(`${made} pipelines of what is around`, performance.now() - start);
    const { values: air, words } = this.air;
    this.writeClearRadiance(clearColor, given.exposure);
    air.fill(0);
    let { nothing: cube } = environments;
    if (environment) {
      const found = environments.environment(environment.panorama, frame);
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
    this.probes.prepare(scene.probes, frame, ledger, air, 56);
    words[56 + 4 * 48] = scene.probes.length;
    this.air.upload();
    this.radianceAir.values.set(air);
    this.radianceAir.values[55] = 1;
    this.radianceAir.upload();
    this.bind(cube);
    return (
      (full.hasShadows && shadows.isDirty ? PASSES.shadows : 0) |
      ((prepared.layers & FEATURE.transmission) !== 0 ? PASSES.seenThrough : 0) |
      (this.isMetered ? PASSES.metered : 0) |
      (this.isPeeled ? PASSES.peeled : 0)
    );
  }

  /**
   * Gets a scene's meshes ready to be drawn without light. To be called outside a pass.
   *
   * @returns what full pipelines bind besides, with nothing behind what is drawn
   */
  prepareUnlit(scene: Scene, prepared: PreparedScene, frame: number): readonly BindGroupEntry[] {
    const { environments, layers, noDepth } = this;
    this.bending.prepare(scene, frame);
    this.swarming.prepare(prepared, frame);
    for (const ready of prepared.batches)
      if (ready) ready.layers = layers.get(ready.batch.material, ready.features, frame);
    this.bind(this.cube ?? environments.nothing);
    return [
      ...this.entries,
      { binding: 2, texture: noDepth },
      { binding: 3, texture: environments.nothingBehind },
    ];
  }

  /** Shadow maps: they outlive the frame, and whoever draws light reads them. */
  addEarly({ graph, shape }: FramePlan, painter: PlanPainter): void {
    if ((shape.around & PASSES.shadows) === 0) return;
    const maps = graph.outside('shadow maps');
    graph.pass({ name: 'shadows', writes: [maps], run: () => this.shadows.draw(painter.lights) });
  }

  /** Radiance of what is opaque, weighted, in all levels, where something is seen through another. */
  addPasses(plan: FramePlan, painter: PlanPainter): PlanBinding[] {
    const { device } = this;
    const { formats, graph, shape } = plan;
    const { around, width, height } = shape;
    const { color: format, depth: depthFormat, sampleCount } = formats;
    if (shape.isDeferred) this.deferred.addPasses(plan, painter, () => this.entries);
    if ((around & PASSES.seenThrough) === 0) return [];
    const size = { width, height };
    const radiance = graph.texture('radiance', { ...size, format, mipLevelCount: mipLevels(width, height) });
    const samples =
      sampleCount > 1 ? graph.texture('radiance samples', { ...size, format, sampleCount }) : undefined;
    const clear = this.clearRadiance;
    graph.pass({
      name: 'radiance',
      colors: [samples ? { texture: samples, resolve: radiance, clear } : { texture: radiance, clear }],
      depth: {
        texture: graph.texture('radiance depth', { ...size, format: depthFormat, sampleCount }),
        clear: 0,
      },
      run: (pass) => painter.drawBefore(pass, this.radianceEntries),
    });
    graph.pass({
      name: 'blur radiance',
      reads: [radiance],
      writes: [radiance],
      run: () => device.generateMipmaps(graph.of(radiance)),
    });
    return [{ binding: 7, texture: radiance }];
  }

  /** The clear colour as the light that is seen through things, weighted. */
  private writeClearRadiance(color: ArrayLike<number>, exposure: number): void {
    const { clearRadiance } = this;
    let most = 0;
    for (let k = 0; k < 3; k++) most = Math.max(most, (clearRadiance[k] = color[k]! / exposure)); // three and alpha
    clearRadiance[3] = 1 / (1 + most);
    for (let k = 0; k < 3; k++) clearRadiance[k]! /= 1 + most;
  }

  /** The picture is measured when it is whole. */
  addAfter(plan: FramePlan, painter: PlanPainter): void {
    const { graph, picture, shape } = plan;
    if ((shape.around & PASSES.peeled) !== 0)
      this.peeling.addAfter(plan, painter, (of) => of.bindings(this.entries));
    if ((shape.around & PASSES.metered) === 0) return;
    graph.pass({
      name: 'meter',
      reads: [picture],
      writes: [graph.outside('exposure')],
      run: () => this.meter.measure(graph.of(picture)),
    });
  }

  private prepareMeter(full: FullPipelines, { automaticExposure }: Look, delta: number): void {
    const isMetered = full.has('metered');
    if (isMetered) {
      if (!this.isMetered) this.meter.reset();
      this.meter.prepare(typeof automaticExposure === 'object' ? automaticExposure : {}, delta);
    }
    this.isMetered = isMetered;
  }

  /** Shadow maps, and the extent of area lights. */
  writeMore(values: Float32Array, words: Uint32Array, at: number, node: SceneNode): void {
    if (this.hasShadows) words[at + 13] = this.shadows.infoOf(node);
    const { light } = node;
    if (light?.type === 'area') writeAreaLight(values, at, light, node.scene.columns.world, node.row * 12);
  }

  /** Frees what no scene holds any more, and no frame since `frame` has used. */
  letGo(frame: number): void {
    this.swarming.letGo();
    this.inspection.sweep(frame);
    this.layers.sweep(frame);
  }

  sweep(frame: number): void {
    this.environments.sweep(frame);
    this.bending.sweep(frame);
    this.swarming.sweep(frame);
    this.shadows.sweep();
    this.inspection.sweep(frame);
    this.peeling.sweep(frame);
    this.deferred.sweep(frame);
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

  /** Makes the entries anew where something in them is another. */
  private bind(cube: DeviceTexture): void {
    const { bound, parts } = this;
    let differs = cube !== this.cube;
    for (let i = 0; i < parts.length; i++) {
      const { entries } = parts[i]!; // i < length
      if (bound[i] === entries) continue;
      bound[i] = entries;
      differs = true;
    }
    if (!differs) return;
    this.cube = cube;
    this.entries = this.entriesWith(this.air.buffer, cube);
    this.radianceEntries = this.entriesWith(this.radianceAir.buffer, cube);
  }

  private entriesWith(buffer: DeviceBuffer, cube: DeviceTexture): BindGroupEntry[] {
    const { environments, noDepth } = this;
    return [
      { binding: 5, buffer },
      { binding: 7, texture: environments.nothingBehind },
      { binding: 8, texture: cube },
      { binding: 9, sampler: environments.cubeSampler },
      { binding: 18, texture: noDepth },
      { binding: 19, texture: noDepth },
      ...this.bound.flat(),
    ];
  }
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
