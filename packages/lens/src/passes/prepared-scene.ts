import {
  type Batch,
  type DrawList,
  FEATURE,
  LAYER_FEATURES,
  materialFeatures,
  type MaterialShader,
  type Scene,
} from '@umber-lens/core';
import type { LayerStore } from '../light/layer-store.js';
import type { Device, DeviceBindGroup, DevicePipeline } from '../gpu/device.js';
import type { Messages } from '#messages';
import type { GeometryStore } from '../resources/geometry-store.js';
import { type GpuGeometry } from '../resources/geometry-store.js';
import type { MaterialStore } from '../resources/material-store.js';
import { type GpuMaterial } from '../resources/material-store.js';
import type { FullUse, PipelineStore } from '../resources/pipeline-store.js';
import type { PlanPart } from './frame-plan.js';
import type { GpuSettings, SettingsStore } from '../resources/settings-store.js';
import type { ShaderFeeds } from '../resources/shader-feeds.js';
import { TransformStore } from '../resources/transform-store.js';

/** What scenes share on the GPU. */
export interface SceneStores {
  geometries: GeometryStore;
  materials: MaterialStore;
  /** Made by the first shader that brings along how. */
  settings: (feeds: ShaderFeeds) => SettingsStore;
  pipelines: PipelineStore;
}

/** A batch with everything its draw needs at hand. */
export interface PreparedBatch {
  batch: Batch;
  features: number;
  geometry: GpuGeometry;
  material: GpuMaterial;
  settings: GpuSettings | undefined;
  shader: MaterialShader | undefined;
  /** Text of the material's own shader, to notice that it changed. */
  wgsl: string | undefined;
  pipeline: DevicePipeline | undefined;
  mirroredPipeline: DevicePipeline | undefined;
  /** Group 3 of full pipelines: the material's layers. */
  layers: DeviceBindGroup | undefined;
  /** As lights see it; undefined until one does. */
  shadowPipeline: DevicePipeline | undefined;
}

/** A scene's batches and transforms on the GPU, whichever eyes look at it. */
export class PreparedScene {
  readonly transforms: TransformStore;
  /** By the scene's batch numbers. */
  readonly batches: (PreparedBatch | undefined)[] = [];
  /** Names of the batches while developing, else nothing. */
  labels: readonly string[] = [];
  /** What is drawn before, where a material asks for what lies behind it. */
  behind: PlanPart | undefined;
  /** Brought along by a shader that takes settings by instance. */
  instanceFeeds: ShaderFeeds | undefined;
  /** Bits of the layers that its materials have. */
  layers = 0;
  lastUsed = 0;
  private full: FullUse | undefined;
  private batchesVersion = -1;
  private lightsVersion = -1;

  constructor(
    device: Device,
    private readonly scene: Scene,
    private readonly stores: SceneStores,
    private readonly messages: Messages,
  ) {
    this.transforms = new TransformStore(device, scene);
  }

  /** Whether something is seen through something else. */
  get seesThrough(): boolean {
    return (this.layers & FEATURE.transmission) !== 0;
  }

  /** Begins to load the full variants of the materials' own shaders. */
  loadFull(full: FullUse): void {
    for (const ready of this.batches) if (ready?.shader) this.stores.pipelines.full(ready.shader, full);
  }

  /** Makes what full pipelines bind besides. To be called outside a pass. */
  prepareLayers(store: LayerStore, frame: number): void {
    for (const ready of this.batches)
      if (ready) ready.layers = store.get(ready.batch.material, ready.features, frame);
  }

  /** How pipelines are to be built: with what the scene has around it, or without. */
  setFull(full: FullUse | undefined): void {
    if (full === this.full) return;
    this.full = full;
    for (const ready of this.batches)
      if (ready) ready.pipeline = ready.mirroredPipeline = ready.shadowPipeline = undefined;
  }

  /** Uploads what changed. To be called outside a pass, after `scene.update`. */
  prepare(frame: number): void {
    const { scene } = this;
    const { batches, batchesVersion } = scene.drawables;
    this.lastUsed = frame;
    this.transforms.sync();
    this.behind = undefined;
    this.instanceFeeds = undefined;
    this.layers = 0;
    for (let i = 0; i < batches.length; i++) {
      const batch = batches[i];
      if (batch) this.refresh(i, batch, frame);
      else this.batches[i] = undefined;
    }
    if (this.batchesVersion === batchesVersion && this.lightsVersion === scene.lightsVersion) return;
    this.batchesVersion = batchesVersion;
    this.lightsVersion = scene.lightsVersion;
    this.labels = this.messages.scene(scene);
  }

  /** Begins to make the pipelines of a list's commands: all are under way before the first is waited for. */
  makePipelines({ commands, commandBatch, commandMirrored }: DrawList): void {
    for (let i = 0; i < commands; i++) {
      const ready = this.batches[commandBatch[i]!]; // i < commands, here and below
      if (ready && ready.geometry.count > 0) this.pipelineOf(ready, commandMirrored[i] === 1);
    }
  }

  pipelineOf(ready: PreparedBatch, mirrored: boolean): DevicePipeline {
    const { pipelines } = this.stores;
    const { features, geometry, shader } = ready;
    if (mirrored)
      return (ready.mirroredPipeline ??= pipelines.get(features, geometry, true, shader, this.full));
    return (ready.pipeline ??= pipelines.get(features, geometry, false, shader, this.full));
  }

  /** Of what throws shadows; undefined while its shader is loading. */
  shadowPipelineOf(ready: PreparedBatch): DevicePipeline | undefined {
    const { features, geometry, shader } = ready;
    return (ready.shadowPipeline ??= this.full?.shadow(features, geometry, shader, this.stores.pipelines));
  }

  /** Materials are plain objects that may be written to at any time, so each is looked at every frame. */
  private refresh(number: number, batch: Batch, frame: number): void {
    const { geometries, materials, settings } = this.stores;
    const { material, geometry } = batch;
    const { shader } = material;
    const features = materialFeatures(material, geometry) | (shader?.layers ?? 0);
    this.layers |= features & LAYER_FEATURES;
    let ready = this.batches[number];
    if (ready?.batch !== batch || features !== ready.features || shader?.wgsl !== ready.wgsl) {
      ready = {
        batch,
        features,
        geometry: geometries.get(geometry, frame, shader?.attributes),
        material: materials.get(material, frame),
        settings: undefined,
        shader,
        wgsl: shader?.wgsl,
        pipeline: undefined,
        mirroredPipeline: undefined,
        layers: undefined,
        shadowPipeline: undefined,
      };
      this.batches[number] = ready;
    } else {
      ready.shader = shader;
      ready.material = materials.get(material, frame);
      ready.geometry.lastUsed = frame;
    }
    if (!shader) return;
    const feeds = shader.feeds as ShaderFeeds | undefined;
    ready.settings = feeds && settings(feeds).get(material, shader, frame);
    if (shader.instanceSettings.length > 0) this.instanceFeeds = feeds;
    if (shader.readsBehind.length > 0) this.behind = feeds?.behind;
  }
}
