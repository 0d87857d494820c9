import {
  type Batch,
  type DrawList,
  FEATURE,
  FULL_SHADER_FEATURES,
  materialFeatures,
  type Material,
  type MaterialKind,
  type MaterialShader,
  PAGE_SLOTS,
  type Scene,
  placedBy,
} from '@umber-lens/core/engine';
import type { Device, DeviceBindGroup, DevicePipeline } from '../gpu/device.js';
import type { Messages } from '#messages';
import type { GeometryStore } from '../resources/geometry-store.js';
import { type GpuGeometry } from '../resources/geometry-store.js';
import type { MaterialStore } from '../resources/material-store.js';
import { type GpuMaterial } from '../resources/material-store.js';
import type { FullUse, PipelineStore } from '../resources/pipeline-store.js';
import type { GpuSettings, SettingsStore } from '../resources/settings-store.js';
import type { ShaderFeeds } from '../resources/shader-feeds.js';
import { TransformStore } from '../resources/transform-store.js';
import type { KeptDraw, Pair } from './draw-variant.js';

/** In place of a layer's bit: some material has a state of its own. */
const HAS_STATE = 1 << 30;

/** What scenes share on the GPU. */
export interface SceneStores {
  geometries: GeometryStore;
  materials: MaterialStore;
  /** Made by the first shader that brings along how. */
  settings: (feeds: ShaderFeeds) => SettingsStore;
  pipelines: PipelineStore;
  /** Milliseconds of a frame in which what is new may be uploaded. */
  uploadMilliseconds: number;
}

/** Frames after which a material that failed is tried again. */
const RETRY_FRAMES = 60;
/** In place of a material that failed: amber, whatever the light. */
const MARKED: Material = { name: 'failed', unlit: true, doubleSided: true, baseColorFactor: [1, 0.35, 0, 1] };
/** Instances say which of 64 materials theirs is: here all of them are the same. */
const MARKED_KIND: MaterialKind = {
  page: { slots: new Array<Material>(PAGE_SLOTS).fill(MARKED), used: PAGE_SLOTS, owner: undefined },
  traits: { bits: 12, textures: [], alone: undefined, shader: undefined, state: undefined },
  members: PAGE_SLOTS,
};

/** A batch with everything its draw needs at hand. */
export interface PreparedBatch {
  batch: Batch;
  features: number;
  geometry: GpuGeometry;
  /** What is drawn of it: all, or its points or edges alone. */
  shape: GpuGeometry;
  /** What variants keep of it, by their numbers. */
  readonly kept: (KeptDraw | undefined)[];
  /** Whether other passes draw it in place of the usual one. */
  isElsewhere: boolean;
  material: GpuMaterial;
  settings: GpuSettings | undefined;
  shader: MaterialShader | undefined;
  /** Whether it asks for what is drawn behind it. */
  readsBehind: boolean;
  /** Text of the material's own shader, to notice that it changed. */
  wgsl: string | undefined;
  /** Plain, and for mirrored nodes; undefined until one draws it. */
  pipelines: Pair;
  /** What it was drawn with before, and can be until those are ready. */
  placeholders: Pair;
  /** Group 3 of full pipelines: the material's layers. */
  layers: DeviceBindGroup | undefined;
}

/** A scene's batches and transforms on the GPU, whichever cameras look at it. */
export class PreparedScene {
  readonly transforms: TransformStore;
  /** By the scene's batch numbers. */
  readonly batches: (PreparedBatch | undefined)[] = [];
  /** Names of the batches while developing, else nothing. */
  labels: readonly string[] = [];
  /** What is drawn before, where a material asks for what lies behind it. */
  behind: unknown;
  /** Brought along by a shader that takes settings by instance. */
  instanceFeeds: ShaderFeeds | undefined;
  /** Whether a shader asks what time it is, or may. */
  isTimed = false;
  /** When no more is to be uploaded in this frame, and whether that is still to come: one thing always is. */
  private until = Infinity;
  private mayUpload = true;
  /** Bits of the layers that its materials have. */
  layers = 0;
  /** Commands of the last list whose pipelines are being made, and that nothing stands in for; and what is not uploaded yet. */
  leftOut = 0;
  /** The colour of each command, where draws are told apart by it. */
  colorOf: ((command: number) => ArrayLike<number>) | undefined;
  lastUsed = 0;
  full: FullUse | undefined;
  private batchesVersion = -1;
  private lightsVersion = -1;
  private readonly failed = new Map<Material, { wgsl: string | undefined; until: number }>();
  private readonly markedOf = new WeakMap<Batch, Batch>();

  constructor(
    device: Device,
    readonly scene: Scene,
    readonly stores: SceneStores,
    private readonly messages: Messages,
  ) {
    this.transforms = new TransformStore(device, scene);
  }

  /** How pipelines are to be built: with what the scene has around it, or without. */
  setFull(full: FullUse | undefined): void {
    if (full === this.full) return;
    const wasFull = this.full !== undefined;
    this.full = full;
    this.colorOf = undefined;
    for (const ready of this.batches) {
      if (!ready) continue;
      // What full pipelines bind is not there without surroundings.
      ready.placeholders = wasFull && !full ? [undefined, undefined] : readyOf(ready);
      ready.pipelines = [undefined, undefined];
      ready.shape = ready.geometry;
      ready.kept.length = 0;
      ready.isElsewhere = false;
    }
  }

  /** Uploads what changed. To be called outside a pass, after `scene.update`. */
  prepare(frame: number): void {
    const { scene } = this;
    if (scene.drawables.regroup()) scene.update();
    const { batches, batchesVersion } = scene.drawables;
    this.lastUsed = frame;
    this.transforms.sync();
    this.behind = undefined;
    this.instanceFeeds = undefined;
    this.layers = 0;
    this.isTimed = false;
    const { uploadMilliseconds } = this.stores;
    this.until = uploadMilliseconds === Infinity ? Infinity : performance.now() + uploadMilliseconds;
    this.mayUpload = true;
    for (let i = 0; i < batches.length; i++) {
      const batch = batches[i];
      if (batch) this.refreshSafely(i, batch, frame);
    }
    // Those that came may look at those that went.
    for (let i = 0; i < batches.length; i++) if (!batches[i]) this.batches[i] = undefined;
    if (this.batchesVersion === batchesVersion && this.lightsVersion === scene.lightsVersion) return;
    this.batchesVersion = batchesVersion;
    this.lightsVersion = scene.lightsVersion;
    this.labels = this.messages.scene(scene);
  }

  /** Has all that the scene still holds count as used in a frame. To be called outside a pass. */
  touch(frame: number, more: (ready: PreparedBatch) => void): void {
    const { materials, settings } = this.stores;
    const { batches } = this.scene.drawables;
    for (let i = 0; i < batches.length; i++) {
      const ready = this.batches[i];
      if (!ready || ready.batch !== batches[i]) continue;
      const { batch, geometry, shader } = ready;
      geometry.lastUsed = frame;
      materials.get(batch.kind, frame);
      const feeds = shader?.feeds as ShaderFeeds | undefined;
      if (feeds) settings(feeds).get(batch.material, shader!, frame); // it brings them along
      more(ready);
    }
  }

  /** Begins to make the pipelines of a list's commands: all are under way before the first is waited for. */
  makePipelines({ commands, commandBatch, commandMirrored }: DrawList): void {
    this.leftOut = 0;
    for (let i = 0; i < commands; i++) {
      const ready = this.batches[commandBatch[i]!]; // i < commands, here and below
      if (!ready || (ready.geometry.count > 0 && !this.pipelineSafely(ready, commandMirrored[i]!)))
        this.leftOut++;
    }
  }

  /** The same; where it cannot be made, that is told, and the thing is drawn marked. */
  pipelineSafely(ready: PreparedBatch, mirrored: number): DevicePipeline | undefined {
    try {
      return this.pipelineOf(ready, mirrored);
    } catch (error) {
      this.fail(ready.batch.material, error, this.lastUsed);
      return undefined;
    }
  }

  /**
   * The pipeline, or what stands in for one that is being made; undefined where nothing can.
   *
   * @param mirrored 1 for mirrored nodes, else 0
   */
  pipelineOf(ready: PreparedBatch, mirrored: number): DevicePipeline | undefined {
    const { pipelines } = this.stores;
    const { features, shader, shape } = ready;
    // Plain shaders know nothing of poses and swarms.
    if ((features & (FEATURE.bent | FEATURE.swarm)) !== 0 && !pipelines.full(shader, this.full))
      return undefined;
    if (!ready.pipelines[mirrored] && !pipelines.mayBegin) return ready.placeholders[mirrored];
    const found = (ready.pipelines[mirrored] ??= pipelines.get(
      features,
      shape,
      mirrored === 1,
      shader,
      this.full,
      ready.batch.kind.traits.state,
    ));
    return pipelines.waits || found.isReady ? found : ready.placeholders[mirrored];
  }

  /** What goes wrong with one material is said once, and its things are drawn marked: the rest of the picture is as it was. */
  private refreshSafely(number: number, batch: Batch, frame: number): void {
    const { material } = batch;
    const failure = this.failed.get(material);
    if (failure && failure.wgsl === material.shader?.wgsl && frame < failure.until) {
      this.refresh(number, this.marked(batch), frame);
      return;
    }
    try {
      this.refresh(number, batch, frame);
      if (failure) this.failed.delete(material);
    } catch (error) {
      this.fail(material, error, frame);
      this.refresh(number, this.marked(batch), frame);
    }
  }

  /** Has what a material is on drawn marked from now on. It is tried again now and then: it may have been mended. */
  fail(material: Material, error: unknown, frame: number): void {
    if (!this.failed.has(material)) this.messages.failed(material, error);
    this.failed.set(material, { wgsl: material.shader?.wgsl, until: frame + RETRY_FRAMES });
  }

  /** The same batch with a material that is seen to be none of the scene's. */
  private marked(batch: Batch): Batch {
    let found = this.markedOf.get(batch);
    if (!found) this.markedOf.set(batch, (found = { ...batch, material: MARKED, kind: MARKED_KIND }));
    return found;
  }

  /** Materials are plain objects that may be written to at any time, so each is looked at every frame. */
  private refresh(number: number, batch: Batch, frame: number): void {
    const { geometries, materials, settings } = this.stores;
    const { material, geometry } = batch;
    const { shader } = material;
    const features = materialFeatures(material, geometry) | (shader?.layers ?? 0);
    this.layers |= features & FULL_SHADER_FEATURES;
    // Plain shaders know of no state either.
    if (batch.kind.traits.state) this.layers |= HAS_STATE;
    let ready = this.batches[number];
    if (
      ready &&
      geometry.version !== ready.geometry.version &&
      !geometries.update(geometry, ready.geometry)
    ) {
      // It lies elsewhere from now on.
      this.batches[number] = ready = undefined;
    }
    if (ready?.batch !== batch || features !== ready.features || shader?.wgsl !== ready.wgsl) {
      if (!ready && !this.mayUpload) return;
      const own =
        placedBy(geometry) === 'instances'
          ? shader && [...shader.attributes, ...shader.instanceSettings]
          : shader?.attributes;
      const gpu = geometries.get(geometry, frame, own);
      ready = {
        placeholders: this.placeholdersFor(batch, ready, features),
        batch,
        features,
        geometry: gpu,
        shape: gpu,
        kept: [],
        isElsewhere: false,
        material: materials.get(batch.kind, frame),
        settings: undefined,
        shader,
        readsBehind: (shader?.readsBehind.length ?? 0) > 0 || (features & FEATURE.transmission) !== 0,
        wgsl: shader?.wgsl,
        pipelines: [undefined, undefined],
        layers: undefined,
      };
      this.batches[number] = ready;
      batch.before = undefined;
      if (this.until < Infinity) this.mayUpload = performance.now() < this.until;
    } else {
      ready.shader = shader;
      ready.material = materials.get(batch.kind, frame);
      ready.geometry.lastUsed = frame;
    }
    if (!shader) return;
    this.isTimed ||= shader.isTimed;
    const feeds = shader.feeds as ShaderFeeds | undefined;
    ready.settings = feeds && settings(feeds).get(material, shader, frame);
    if (shader.instanceSettings.length > 0 && placedBy(geometry) !== 'instances') this.instanceFeeds = feeds;
    if (shader.readsBehind.length > 0) this.behind = feeds?.behind;
  }

  /** What a batch, or the one that its things were in before, was drawn with. */
  private placeholdersFor(batch: Batch, before: PreparedBatch | undefined, features: number): Pair {
    const old = batch.before ? this.batches.find((ready) => ready?.batch === batch.before) : before;
    const isSame = old !== undefined && (old.batch === batch || old.batch === batch.before);
    return isSame && canPlaceholder(old, batch, features) ? readyOf(old) : [undefined, undefined];
  }
}

/** Pipelines that can be drawn with at once. */
function readyOf({ pipelines, placeholders }: PreparedBatch): Pair {
  const of = (i: 0 | 1): DevicePipeline | undefined =>
    pipelines[i]?.isReady ? pipelines[i] : placeholders[i];
  return [of(0), of(1)];
}

/** Whether a batch can be drawn as it was before its material changed: with all that this binds. */
function canPlaceholder({ features: before, wgsl }: PreparedBatch, now: Batch, features: number): boolean {
  return wgsl === now.material.shader?.wgsl && (before & FULL_SHADER_FEATURES & ~features) === 0;
}
