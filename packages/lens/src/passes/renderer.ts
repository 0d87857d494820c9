import { type Scene, type SceneNode, updateCameraView } from '@umber-lens/core';
import type { BindGroupEntry, Device, DeviceTexture, RenderPass } from '../gpu/device.js';
import type { Ledger } from '../ledger.js';
import type { Messages } from '#messages';
import type { LensShaders } from '../shaders/lens-shaders.js';
import { AROUND, type FullUse } from '../resources/pipeline-store.js';
import { TextureStore } from '../resources/texture-store.js';
import type { Look } from '../light/look.js';
import type { LookFinish } from '../light/look-finish.js';
import type { Show } from '../light/show.js';
import type { Surroundings } from '../light/surroundings.js';
import type { ShadowMaps } from '../light/shadow-maps.js';
import { SurroundingsLoader } from '../light/surroundings-loader.js';
import { EyeState } from './eye-state.js';
import { FinishPass } from './finish-pass.js';
import type { FrameGraph } from './frame-graph.js';
import { FramePlan, type FrameShape, type PlanFormats, type PlanPainter } from './frame-plan.js';
import { type FrameGiven, FrameUniforms } from './frame-uniforms.js';
import type { PreparedScene } from './prepared-scene.js';
import { ScenePass } from './scene-pass.js';
import { TransientTextures } from './transient-textures.js';

/** Frames after which GPU copies of things that are no longer drawn are freed. */
const KEEP_FRAMES = 120;

const NOTHING: readonly BindGroupEntry[] = [];

/** Draws scenes: list, opaque, blended, finish. Holds everything that lives from frame to frame. */
export class Renderer {
  exposure = 1;
  readonly look: Look = {};
  show: Show = 'light';
  frame = 0;
  /** What shaders are told of the picture; time and delta are set by the lens. */
  readonly given: FrameGiven = { exposure: 1, isParallel: false, time: 0, delta: 0, width: 1, height: 1 };
  private readonly textures: TextureStore;
  private readonly uniforms: FrameUniforms;
  private readonly scenePass: ScenePass;
  private readonly finish: FinishPass;
  private readonly transient: TransientTextures;
  /** By camera node, and by what it draws into. */
  private readonly eyes = new Map<SceneNode, Map<DeviceTexture, EyeState>>();
  private readonly formats: PlanFormats;
  private readonly around: SurroundingsLoader;
  private readonly plans: FramePlan[] = [];
  private readonly shape: FrameShape = {
    width: 0,
    height: 0,
    readsBehind: false,
    seesThrough: false,
    hasShadows: false,
  };
  private readonly fits = (plan: FramePlan): boolean => plan.fits(this.shape);
  private readonly painter: PlanPainter = {
    clear: new Float32Array(4),
    clearRadiance: new Float32Array(4),
    drawShadows: () => this.shadows?.draw(this.uniforms.lightBuffer),
    drawRadiance: (pass) => this.drawRadiance(pass!), // it has attachments, as the next two have
    drawBefore: (pass) => this.drawBefore(pass!),
    draw: (pass) => this.drawScene(pass!),
    finish: () => {
      const { graph, picture, target } = this.plan!; // set by draw
      (this.lookFinish ?? this.finish).draw(graph.of(picture), graph.of(target), this.frame);
    },
  };
  // What the frame at hand is made of, for the painter.
  private plan: FramePlan | undefined;
  private prepared: PreparedScene | undefined;
  private state: EyeState | undefined;
  private ledger: Ledger | undefined;
  /** What the scene has around it, where it has something. */
  private surroundings: Surroundings | undefined;
  /** Draws the backdrop, where the scene has one. */
  private backdrop: Surroundings | undefined;
  /** The finish, where the look has something of its own. */
  private lookFinish: LookFinish | undefined;
  /** Maps that are out of date. */
  private shadows: ShadowMaps | undefined;

  constructor(
    private readonly device: Device,
    shaders: LensShaders,
    antialias: boolean,
    shadowTexels: number,
    messages: Messages,
  ) {
    this.textures = new TextureStore(device);
    this.uniforms = new FrameUniforms(device);
    this.transient = new TransientTextures(device);
    this.finish = new FinishPass(device, shaders.finish);
    this.formats = {
      // Eight bits of linear colour would show bands in the dark: only where there is nothing better.
      color: device.features.has('float16-renderable') ? 'rgba16float' : 'rgba8unorm',
      depth: 'depth32float',
      sampleCount: antialias ? Math.min(4, device.limits.maxSamples) : 1,
    };
    this.scenePass = new ScenePass(device, this.textures, this.formats, shaders.mesh, messages);
    this.around = new SurroundingsLoader(
      device,
      shaders,
      this.formats,
      this.scenePass,
      this.textures,
      shadowTexels,
    );
    if (device.canvasTexture) this.finish.makePipeline(device.canvasTexture.format);
  }

  draw(scene: Scene, eye: SceneNode, target: DeviceTexture, ledger: Ledger): void {
    const start = performance.now();
    const { device } = this;
    const { width, height } = target;
    this.frame++;
    device.counts.resetCommands();
    ledger.beginStalls();
    scene.update();
    const state = this.eyeState(eye, target);
    const { view, list } = state;
    const viewChanged = updateCameraView(view, eye, width / height);
    const { given } = this;
    given.exposure = this.exposure;
    given.isParallel = eye.camera?.type === 'orthographic';
    given.width = width;
    given.height = height;
    const prepared = this.scenePass.sceneOf(scene);
    prepared.prepare(this.frame);
    const lights = this.uniforms.lightsOf(scene);
    const full = this.around.useFor(scene, lights, prepared.layers !== 0, this.look, this.show);
    prepared.setFull(full);
    const surroundings = full && this.around.surroundings;
    const shadows = full && (full.features & AROUND.shadows) !== 0 ? surroundings?.shadows : undefined;
    shadows?.prepare(scene, prepared, lights, view, given, this.textures.decodedCount, ledger);
    const isClustered = full !== undefined && (full.features & AROUND.clusters) !== 0;
    if (isClustered) surroundings?.clusters.prepare(scene, lights, view, shadows?.infoOf);
    surroundings?.prepare(scene, view, this.look, this.show, height, this.frame, ledger);
    if (surroundings) prepared.prepareLayers(surroundings.layers, this.frame);
    this.surroundings = surroundings;
    this.lookFinish = this.around.finishFor(this.look);
    this.lookFinish?.prepare(this.look, width / height);
    this.backdrop = scene.background.backdrop && surroundings;
    this.uniforms.update(scene, view, given, shadows?.infoOf);
    const { transforms } = prepared;
    if (list.update(scene, view, viewChanged, transforms)) state.instances.upload(list);
    const { pipelines } = device.counts;
    const before = performance.now();
    prepared.makePipelines(list);
    const made = device.counts.pipelines - pipelines;
    if (made > 0) ledger.stall(`${made} pipelines`, performance.now() - before);
    if (prepared.takesInstanceSettings) state.settings.update(list, scene);
    const listed = performance.now();
    ledger.beginFrame(listed - start);

    this.shadows = shadows?.isDirty ? shadows : undefined;
    const plan = this.planFor(width, height, prepared, surroundings !== undefined);
    const { color } = scene.background;
    this.writeClearRadiance(color);
    for (let k = 0; k < 3; k++) this.painter.clear[k] = color[k]! * color[3];
    this.painter.clear[3] = color[3];
    plan.graph.bind(plan.target, target);
    this.plan = plan;
    this.prepared = prepared;
    this.state = state;
    this.ledger = ledger;
    plan.graph.run(this.frame, ledger);
    device.submit();
    ledger.endFrame(
      device.counts,
      list.culledCount,
      isClustered ? 0 : this.uniforms.lightsLeftOut,
      performance.now() - start,
    );
    if (this.frame % KEEP_FRAMES === 0) this.sweep(this.frame - KEEP_FRAMES + 1);
  }

  dispose(): void {
    this.textures.dispose();
    this.device.dispose();
  }

  /** Of the last frame. */
  get graph(): FrameGraph | undefined {
    return this.plan?.graph;
  }

  /** Loads what a scene has around it and what its shaders need for that, so that its first picture is whole. */
  async load(scene: Scene): Promise<void> {
    const prepared = this.scenePass.sceneOf(scene);
    scene.update();
    prepared.prepare(this.frame);
    const use = (): FullUse | undefined =>
      this.around.useFor(scene, this.uniforms.lightsOf(scene), prepared.layers !== 0, this.look, this.show);
    use();
    this.around.finishFor(this.look);
    await this.whenReady();
    const full = use();
    if (full) prepared.loadFull(full);
    await this.whenReady();
  }

  /** Waits for what is being loaded for the scenes that were drawn. */
  whenReady(): Promise<void> {
    return this.around.whenReady();
  }

  /** The clear colour as the light that is seen through things. */
  private writeClearRadiance(color: readonly number[]): void {
    const { clearRadiance } = this.painter;
    let most = 0;
    for (let k = 0; k < 3; k++) most = Math.max(most, (clearRadiance[k] = color[k]! / this.exposure)); // three and alpha
    clearRadiance[3] = 1 / (1 + most);
    for (let k = 0; k < 3; k++) clearRadiance[k]! /= 1 + most;
  }

  private planFor(
    width: number,
    height: number,
    { readsBehind, seesThrough }: PreparedScene,
    isFull: boolean,
  ): FramePlan {
    const { shape } = this;
    shape.width = width;
    shape.height = height;
    shape.readsBehind = readsBehind;
    shape.seesThrough = isFull && seesThrough;
    shape.hasShadows = this.shadows !== undefined;
    let plan = this.plans.find(this.fits);
    if (!plan) {
      plan = new FramePlan(this.device, this.transient, { ...shape }, this.formats, this.painter);
      this.plans.push(plan);
    }
    plan.lastUsed = this.frame;
    return plan;
  }

  /** Light of what is opaque and nothing is seen through. */
  private drawRadiance(pass: RenderPass): void {
    const { scenePass, prepared, state, surroundings } = this;
    const group = this.uniforms.groupFor(
      prepared!.transforms.buffer!, // made by prepare, here and below
      this.frame,
      surroundings?.radianceEntries,
    );
    scenePass.draw(pass, prepared!, state!, group, 0, state!.list.opaqueCommands, 'before');
    this.backdrop?.drawBackdrop(pass, group);
  }

  /** Opaque things that do not ask what lies behind them, so that the others may. */
  private drawBefore(pass: RenderPass): void {
    const { scenePass, prepared, state, surroundings } = this;
    const group = this.uniforms.groupFor(prepared!.transforms.buffer!, this.frame, surroundings?.entries);
    scenePass.draw(pass, prepared!, state!, group, 0, state!.list.opaqueCommands, 'before');
    this.backdrop?.drawBackdrop(pass, group);
  }

  private drawScene(pass: RenderPass): void {
    const { scenePass, uniforms, frame, surroundings } = this;
    const plan = this.plan!; // set by draw, here and below
    const prepared = this.prepared!;
    const state = this.state!;
    const isSplit = plan.shape.readsBehind;
    const group = uniforms.groupFor(
      prepared.transforms.buffer!,
      frame,
      plan.bindings(surroundings?.entries ?? NOTHING),
    );
    const { opaqueCommands, commands } = state.list;
    scenePass.draw(pass, prepared, state, group, 0, opaqueCommands, isSplit ? 'after' : 'all');
    if (!isSplit) this.backdrop?.drawBackdrop(pass, group);
    this.ledger!.endPart('opaque', true, this.device.counts);
    scenePass.draw(pass, prepared, state, group, opaqueCommands, commands);
  }

  private eyeState(eye: SceneNode, target: DeviceTexture): EyeState {
    let byTarget = this.eyes.get(eye);
    if (!byTarget) this.eyes.set(eye, (byTarget = new Map()));
    let state = byTarget.get(target);
    if (!state) byTarget.set(target, (state = new EyeState(this.device)));
    state.lastUsed = this.frame;
    return state;
  }

  private sweep(frame: number): void {
    this.scenePass.sweep(frame);
    this.uniforms.sweep(frame);
    this.finish.sweep(frame);
    this.textures.sweep(frame);
    this.around.surroundings?.sweep(frame);
    this.transient.sweep(frame);
    for (let i = this.plans.length - 1; i >= 0; i--)
      if (this.plans[i]!.lastUsed < frame) this.plans.splice(i, 1);
    for (const [eye, byTarget] of this.eyes) {
      for (const [target, state] of byTarget) {
        if (state.lastUsed >= frame) continue;
        state.dispose();
        byTarget.delete(target);
      }
      if (byTarget.size === 0) this.eyes.delete(eye);
    }
  }
}
