import {
  type DrawList,
  MANY_ITEMS,
  type Scene,
  type SceneNode,
  updateCameraView,
} from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceTexture, RenderPass } from '../gpu/device.js';
import type { PassClock } from '../figures/pass-clock.js';
import type { Ledger } from '../ledger.js';
import type { Messages } from '#messages';
import type { LensShaders } from '../shaders/lens-shaders.js';
import { TextureStore } from '../resources/texture-store.js';
import type { Look } from '../light/look.js';
import type { LookFinish } from '../light/look-finish.js';
import type { ShownQuantity } from '../light/show.js';
import type { Surroundings } from '../light/surroundings.js';
import type { FullPipelines } from '../light/full-pipelines.js';
import { SurroundingsLoader } from '../light/surroundings-loader.js';
import type { CullingStats, Culling } from '../cull/culling.js';
import type { FrameCulling } from '../cull/frame-culling.js';
import type { RenderPath } from './render-path.js';
import { CameraState } from './camera-state.js';
import { FinishPass } from './finish-pass.js';
import type { FrameGraph } from './frame-graph.js';
import {
  type FrameAt,
  FramePlan,
  type FrameShape,
  type PlanFormats,
  type PlanPainter,
} from './frame-plan.js';
import { type FrameGiven, FrameUniforms } from './frame-uniforms.js';
import type { PreparedScene } from './prepared-scene.js';
import { type FrameBudgets, ScenePass } from './scene-pass.js';
import { TransientTextures } from './transient-textures.js';

/** Frames after which GPU copies of things that are no longer drawn are freed. */
const KEEP_FRAMES = 120;
/** Milliseconds after which what was let go of is freed where no frame follows. */
const IDLE = 250;

const NOTHING: readonly BindGroupEntry[] = [];

/** Draws scenes: list, opaque, blended, finish. Holds everything that lives from frame to frame. */
export class Renderer {
  readonly look: Look = {};
  show: ShownQuantity = 'shaded';
  renderPath: RenderPath = 'forward';
  readonly culling: Culling = {};
  /** Whether frames in which nothing changed are not drawn. */
  onDemand = false;
  /** Pixels. */
  minPixels = 0;
  frame = 0;
  /** Times passes on the GPU, where that was asked for. */
  clock: PassClock | undefined;
  /** What was drawn last. */
  last: { scene: Scene; camera: SceneNode; target: DeviceTexture } | undefined;
  /** What shaders are told of the picture; time and delta are set by the lens. */
  readonly given: FrameGiven = { exposure: 1, isParallel: false, time: 0, delta: 0, width: 1, height: 1 };
  private readonly textures: TextureStore;
  private readonly uniforms: FrameUniforms;
  /** @internal */
  readonly scenePass: ScenePass;
  private readonly finish: FinishPass;
  private readonly transient: TransientTextures;
  /** By camera node, and by what it draws into. */
  private readonly cameras = new Map<SceneNode, Map<DeviceTexture, CameraState>>();
  private readonly formats: PlanFormats;
  /** @internal */
  readonly around: SurroundingsLoader;
  private readonly plans: FramePlan[] = [];
  private readonly shape: FrameShape = {
    width: 0,
    height: 0,
    readsBehind: false,
    around: 0,
    isDeferred: false,
    choice: 'script',
  };
  private frameCulling: FrameCulling | undefined;
  private cullingLoading: Promise<void> | undefined;
  private readonly fits = (plan: FramePlan): boolean => plan.fits(this.shape);
  private readonly painter: PlanPainter;
  // What the frame at hand is made of, for the painter; set by draw.
  private plan!: FramePlan;
  private readonly at = {} as FrameAt;
  /** What the last picture was made of. */
  private readonly before: {
    plan?: FramePlan;
    target?: DeviceTexture;
    decoded?: number;
    finish?: LookFinish | undefined;
    surroundings?: Surroundings | undefined;
  } = {};
  /** What the scene has around it, where it has something. */
  private surroundings: Surroundings | undefined;
  /** The finish, where the look has something of its own. */
  private lookFinish: LookFinish | undefined;
  private idleTimer: ReturnType<typeof setTimeout> | undefined;
  private readonly onLeave = (): void => {
    this.textures.leavings.note();
    // Pages may draw no more.
    this.idleTimer ??= setTimeout(() => {
      this.idleTimer = undefined;
      if (this.textures.leavings.isPending) this.release();
    }, IDLE);
    (this.idleTimer as { unref?(): void }).unref?.();
  };

  constructor(
    private readonly device: Device,
    shaders: LensShaders,
    antialias: boolean,
    shadowTexels: number,
    private readonly messages: Messages,
    private readonly waits: boolean,
    private readonly budgets: FrameBudgets = {},
  ) {
    this.textures = new TextureStore(device);
    this.uniforms = new FrameUniforms(device);
    this.transient = new TransientTextures(device);
    this.finish = new FinishPass(device, shaders.finish);
    this.painter = {
      clear: new Float32Array(4),
      lights: this.uniforms.lightBuffer,
      drawBefore: (pass, entries = this.surroundings?.entries) => this.drawBefore(pass!, entries), // it has attachments
      draw: (pass) => this.drawScene(pass!), // as the one before
      drawSeen: (pass) => this.drawPart(pass!, 'seen', this.groupOf(this.surroundings?.entries)), // as the ones before
      drawWay: (pass, way, entries, isOpaque = false) => {
        const { prepared, state } = this.at;
        const { opaqueCommands, commands } = state.list;
        const [from, to] = isOpaque ? [0, opaqueCommands] : [opaqueCommands, commands];
        this.scenePass.draw(pass!, prepared, state, this.groupOf(entries), from, to, way);
      },
      groupOf: (entries) => this.groupOf(entries),
      finish: () => {
        const { graph, picture, target } = this.plan;
        (this.lookFinish ?? this.finish).draw(graph.of(picture), graph.of(target), this.frame);
      },
    };
    this.formats = {
      // Eight bits of linear colour would show bands in the dark: only where there is nothing better.
      color: device.features.has('float16-renderable') ? 'rgba16float' : 'rgba8unorm',
      depth: 'depth32float',
      sampleCount: antialias ? Math.min(4, device.limits.maxSamples) : 1,
    };
    this.scenePass = new ScenePass(
      device,
      this.textures,
      this.formats,
      shaders.mesh,
      messages,
      this.onLeave,
      waits,
      budgets,
    );
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

  draw(scene: Scene, camera: SceneNode, target: DeviceTexture, ledger: Ledger): void {
    const start = performance.now();
    const { at, device, given, look } = this;
    this.messages.around(scene);
    this.messages.look(look, this.culling);
    const { width, height } = target;
    if (this.last?.scene !== scene || this.last.camera !== camera || this.last.target !== target)
      this.last = { scene, camera, target };
    this.frame++;
    this.scenePass.beginFrame();
    device.counts.resetCommands();
    ledger.beginStalls();
    scene.update();
    if (this.frameCulling) this.frameCulling.followClusters(scene, this);
    else void this.cull(scene);
    const state = this.cameraState(camera, target);
    const { view, list } = state;
    const viewChanged = updateCameraView(view, camera, width / height);
    given.exposure = 2 ** (look.exposure ?? 0);
    given.isParallel = camera.camera?.type === 'orthographic';
    given.width = width;
    given.height = height;
    const prepared = this.scenePass.sceneOf(scene);
    prepared.prepare(this.frame);
    if (this.textures.leavings.isDue(this.frame)) this.letGo(this.frame - 1);
    // Time that nobody asks for would change what is sent in every frame.
    const { time, delta } = given;
    if (this.onDemand && !prepared.isTimed) given.time = given.delta = 0;
    at.scene = scene;
    at.prepared = prepared;
    at.state = state;
    at.lights = this.uniforms.lightsOf(scene);
    at.given = given;
    at.frame = this.frame;
    at.ledger = ledger;
    const full = this.useFor(scene, prepared);
    prepared.setFull(full);
    const surroundings = (this.surroundings = full && this.around.surroundings);
    const around = (full && surroundings?.prepare(full, at, look, this.show)) ?? 0;
    this.lookFinish = this.around.finishFor(look);
    this.lookFinish?.prepare(look, width / height);
    this.uniforms.update(scene, view, given, surroundings);
    given.time = time;
    given.delta = delta;
    const perMetre = (height * view.projection[5]!) / 2; // sixteen numbers
    list.leaveOutSmall(this.minPixels, this.minPixels > 0 ? (given.isParallel ? -perMetre : perMetre) : 0);
    const isListed = list.update(scene, view, viewChanged, prepared.transforms);
    if (isListed) this.messages.list(list, scene);
    this.messages.camera(scene, camera, list.instanceCount, width / height);
    state.instances.upload(list, isListed, this.scenePass.instancesFromStorage);
    const { swarming } = surroundings ?? {};
    const isChosen = this.frameCulling?.choose(this, at, swarming, isListed, width, height) ?? false;
    const isSwarming = swarming?.updateCamera(
      state,
      scene,
      view,
      isListed || isChosen,
      given.isParallel,
      height,
    );
    const { pipelines } = device.counts;
    const before = performance.now();
    prepared.makePipelines(list);
    const made = device.counts.pipelines - pipelines;
    if (made > 0 && this.waits) ledger.stall(`${made} pipelines`, performance.now() - before);
    const { instanceFeeds } = prepared;
    if (instanceFeeds) (state.settings ??= instanceFeeds.instanceSettings(device)).update(list, scene);
    const listed = performance.now();
    ledger.beginFrame(listed - start);

    const plan = (this.plan = this.planFor(width, height, prepared, around));
    const isOther = this.keep(plan, target, scene);
    if (
      this.onDemand &&
      !isOther &&
      !isListed &&
      !isSwarming &&
      !isChosen &&
      !prepared.isTimed &&
      made === 0
    ) {
      // What it reads and sends is as before, and the picture is still there.
      if (device.counts.bytesUploaded === 0) {
        ledger.unchanged++;
        device.submit();
        return;
      }
    }
    plan.graph.bind(plan.target, target);
    plan.graph.run(this.frame, ledger, this.clock);
    device.submit();
    this.clock?.endFrame();
    ledger.endFrame(
      device.counts,
      list.culledCount,
      surroundings?.isClustered ? 0 : this.uniforms.lightsLeftOut,
      prepared.leftOut,
      performance.now() - start,
    );
    ledger.small = list.smallCount;
    ledger.clustersLeft = list.clusters?.left ?? 0;
    if (this.frame % KEEP_FRAMES === 0) this.sweep(this.frame - KEEP_FRAMES + 1);
  }

  /** Notes what a picture is made of besides lists and buffers. @returns whether it is other than before */
  private keep(plan: FramePlan, target: DeviceTexture, { clearColor: color }: Scene): boolean {
    const { before } = this;
    const { clear } = this.painter;
    let isOther =
      plan !== before.plan ||
      target !== before.target ||
      this.textures.decodedCount !== before.decoded ||
      this.lookFinish !== before.finish ||
      this.surroundings !== before.surroundings;
    for (let k = 0; k < 4; k++) {
      const value = k < 3 ? Math.fround(color[k]! * color[3]) : Math.fround(color[3]); // four numbers
      if (clear[k] === value) continue;
      clear[k] = value;
      isOther = true;
    }
    before.plan = plan;
    before.target = target;
    before.decoded = this.textures.decodedCount;
    before.finish = this.lookFinish;
    before.surroundings = this.surroundings;
    return isOther;
  }

  /**
   * Frees at once what no scene holds, and all that is there of a scene.
   *
   * @param scene left out: what scenes hold stays
   */
  release(scene?: Scene): void {
    this.frame++;
    // What was recorded so far may draw with what goes.
    this.device.submit();
    this.textures.leavings.isDue(Infinity);
    if (!scene) {
      this.letGo(this.frame);
      return;
    }
    this.scenePass.forget(scene);
    for (const [camera, byTarget] of this.cameras) {
      if (camera.scene !== scene) continue;
      for (const state of byTarget.values()) state.dispose();
      this.cameras.delete(camera);
    }
    if (this.last?.scene === scene) this.last = undefined;
    this.touch();
    this.sweep(this.frame);
  }

  /** Stops listening to the scenes that were drawn. */
  leave(): void {
    clearTimeout(this.idleTimer);
    this.scenePass.dispose();
  }

  dispose(): void {
    this.leave();
    this.textures.dispose();
    this.device.dispose();
  }

  /** Samples of a pixel. */
  get sampleCount(): number {
    return this.formats.sampleCount;
  }

  /** Samples of a pixel of the last picture: what is gathered first has one. */
  get pictureSamples(): number {
    return (this.plan as FramePlan | undefined)?.shape.isDeferred ? 1 : this.sampleCount;
  }

  /** The last list that was drawn, and whose it is. */
  get lastList(): DrawList | undefined {
    return this.at.state?.list;
  }

  /** Of the last frame. */
  get graph(): FrameGraph | undefined {
    return (this.plan as FramePlan | undefined)?.graph;
  }

  /** Loads what a scene has around it and what its shaders need for that, so that its first picture is whole. */
  async load(scene: Scene): Promise<void> {
    const { loadScene } = await import('./load-scene.js');
    await loadScene(this, scene);
  }

  /** Waits for what is being loaded for the scenes that were drawn. */
  async whenReady(): Promise<void> {
    await this.cullingLoading;
    await this.frameCulling?.whenReady(this);
    await this.around.whenReady();
    await this.scenePass.whenReady();
  }

  /** Loads what culls besides, for a scene that it pays for. */
  cull(scene: Scene): Promise<void> | undefined {
    const { budgets, culling, device } = this;
    if (!culling.occlusion && !culling.gpu && scene.columns.itemCount < MANY_ITEMS) return undefined;
    return (this.cullingLoading ??= import('../cull/frame-culling.js').then(({ FrameCulling: Loaded }) => {
      this.frameCulling = new Loaded(device, budgets.treeMilliseconds);
    }));
  }

  /** What the GPU chose for the last frame; undefined where the script chose. */
  chosen(): Promise<CullingStats> | undefined {
    return (this.at as Partial<FrameAt>).state?.choice?.figures();
  }

  /** @internal */
  useFor(scene: Scene, { layers }: PreparedScene): FullPipelines | undefined {
    const { look, renderPath: path, show } = this;
    return this.around.useFor(scene, this.uniforms.lightsOf(scene), layers !== 0, look, show, path);
  }

  private planFor(width: number, height: number, { behind }: PreparedScene, around: number): FramePlan {
    const { shape, surroundings } = this;
    shape.width = width;
    shape.height = height;
    shape.readsBehind = behind !== undefined;
    shape.around = around;
    shape.isDeferred = this.surroundings?.isDeferred ?? false;
    const { choice } = this.at.state;
    shape.choice = !choice ? 'script' : choice.isHidden ? 'hidden' : 'swarms';
    let plan = this.plans.find(this.fits);
    if (!plan) {
      const formats = shape.isDeferred ? { ...this.formats, sampleCount: 1 } : this.formats;
      plan = new FramePlan(this.device, this.transient, { ...shape }, formats, this.painter, [
        this.frameCulling?.chooser,
        surroundings,
        behind,
      ]);
      this.plans.push(plan);
    }
    plan.lastUsed = this.frame;
    return plan;
  }

  /** Opaque things that do not ask what lies behind them, so that the others may. */
  private drawBefore(pass: RenderPass, entries: readonly BindGroupEntry[] | undefined): void {
    const { prepared, state } = this.at;
    const group = this.groupOf(entries);
    const { isGathered } = prepared;
    // Radiance has no part of what is gathered, and nothing was drawn of it before.
    const isRadiance = entries !== this.surroundings?.entries;
    prepared.isGathered = isGathered && !isRadiance;
    if (isRadiance) this.scenePass.draw(pass, prepared, state, group, 0, state.list.opaqueCommands, 'before');
    else this.drawPart(pass, 'besides', group);
    prepared.isGathered = isGathered;
    this.drawBackdrop(pass, group);
  }

  /** Draws the opaque things that ask for nothing behind them; where nothing was drawn before, all of them. */
  private drawPart(pass: RenderPass, part: 'seen' | 'besides', group: DeviceBindGroup): void {
    const { prepared, state } = this.at;
    const { choice, list } = state;
    if (choice?.isHidden) choice.part = part;
    this.scenePass.draw(pass, prepared, state, group, 0, list.opaqueCommands, 'before');
    if (choice) choice.part = 'both';
  }

  private drawScene(pass: RenderPass): void {
    const { plan, scenePass, surroundings } = this;
    const { ledger, prepared, state } = this.at;
    const isSplit = plan.shape.readsBehind;
    const group = this.groupOf(plan.bindings(surroundings?.entries ?? NOTHING));
    const { opaqueCommands, commands } = state.list;
    if (surroundings?.isPrepassed && !isSplit) {
      scenePass.draw(pass, prepared, state, group, 0, opaqueCommands, 'depth');
      ledger.endPart('depth', true, this.device.counts);
    }
    const { choice } = state;
    if (choice?.isHidden) choice.part = 'besides';
    scenePass.draw(pass, prepared, state, group, 0, opaqueCommands, isSplit ? 'after' : 'all');
    if (choice) choice.part = 'both';
    if (!isSplit) this.drawBackdrop(pass, group);
    ledger.endPart('opaque', true, this.device.counts);
    scenePass.draw(pass, prepared, state, group, opaqueCommands, commands, 'unpeeled');
    if (surroundings?.inspection.drawsEdges)
      scenePass.draw(pass, prepared, state, group, 0, commands, 'edges');
  }

  private groupOf(entries: readonly BindGroupEntry[] | undefined): DeviceBindGroup {
    return this.uniforms.groupFor(this.at.prepared.transforms.buffer!, this.frame, entries); // made by prepare
  }

  private drawBackdrop(pass: RenderPass, group: DeviceBindGroup): void {
    if (this.at.scene.backdrop) this.surroundings?.backdrop.draw(pass, group);
  }

  private cameraState(camera: SceneNode, target: DeviceTexture): CameraState {
    let byTarget = this.cameras.get(camera);
    if (!byTarget) this.cameras.set(camera, (byTarget = new Map()));
    let state = byTarget.get(target);
    if (!state) byTarget.set(target, (state = new CameraState(this.device)));
    state.lastUsed = this.frame;
    return state;
  }

  /** Has what scenes that are not drawn at the moment hold count as used. */
  private touch(): void {
    const { around, frame, scenePass } = this;
    const layers = around.surroundings?.layers;
    scenePass.touch(frame, ({ batch, features }) => layers?.get(batch.material, features, frame));
  }

  /** Frees what no scene holds any more, and no frame since `frame` has used. */
  private letGo(frame: number): void {
    this.touch();
    this.scenePass.sweep(frame);
    this.textures.sweep(frame);
    this.around.surroundings?.letGo(frame);
  }

  private sweep(frame: number): void {
    this.scenePass.sweep(frame);
    this.scenePass.sweepScenes(frame);
    this.frameCulling?.sweep(frame);
    this.uniforms.sweep(frame);
    this.finish.sweep(frame);
    this.textures.sweep(frame);
    this.around.surroundings?.sweep(frame);
    this.transient.sweep(frame);
    for (let i = this.plans.length - 1; i >= 0; i--)
      if (this.plans[i]!.lastUsed < frame) this.plans.splice(i, 1);
    for (const [camera, byTarget] of this.cameras) {
      for (const [target, state] of byTarget) {
        if (state.lastUsed >= frame) continue;
        state.dispose();
        byTarget.delete(target);
      }
      if (byTarget.size === 0) this.cameras.delete(camera);
    }
  }
}
