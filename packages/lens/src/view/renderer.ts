import { type DrawList, MANY_ITEMS, type Scene, type SceneNode } from '@umber-lens/core/engine';
import { CameraState } from '../batches/camera-state.js';
import { COLOR, COLOR_AFTER, COLOR_BEFORE, type DrawVariant, RADIANCE } from '../batches/draw-variant.js';
import { type FrameGiven, FrameUniforms, NOTHING_MORE } from '../batches/frame-uniforms.js';
import { type CommandRange, type FrameBudgets, ScenePass } from '../batches/scene-pass.js';
import type { CullingStats } from '../features/culling/culling.js';
import type { FrameCulling } from '../features/culling/frame-culling.js';
import type { DrawSettings } from '../features/feature.js';
import { EffectsLoader } from '../features/effects/effects-loader.js';
import { SurroundingsLoader } from '../features/surroundings-loader.js';
import { FinishPass } from '../frame/finish-pass.js';
import type { FrameGraph } from '../frame/frame-graph.js';
import { FramePlan, type PlanFormats, type PlanPainter, type PlanPart } from '../frame/frame-plan.js';
import { TransientTextures } from '../frame/transient-textures.js';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceTexture, RenderPass } from '../gpu/device.js';
import type { Ledger } from '../ledger/ledger.js';
import type { PassClock } from '../ledger/pass-clock.js';
import type { Messages } from '#messages';
import { TextureStore } from '../resources/texture-store.js';
import type { LensShaders } from '../compiled/lens-shaders.js';
import { type Frame, FRAME_STEPS } from './frame-steps.js';
import { freeUnusedWithin } from '../resources/kept.js';

/** Frames after which GPU copies of things that are no longer drawn are freed. */
export const KEEP_FRAMES = 120;
/** Milliseconds after which what was let go of is freed where no frame follows. */
const IDLE = 250;

const NOTHING = [0, 0, 0, 0];

/** A picture that was drawn: draws it again, where it is handed over. */
export interface Drawn {
  scene: Scene;
  camera: SceneNode;
  target: DeviceTexture;
  settings: DrawSettings;
}

/** What of a lens's options its renderer is made with: see `LensOptions`. */
export interface RendererOptions extends FrameBudgets {
  antialias?: boolean;
  stencil?: boolean;
  pipelines?: 'wait' | 'placeholder';
  shadowTexels?: number;
}

/** Draws scenes: a frame is a list of steps. Holds everything that lives from frame to frame. */
export class Renderer {
  /** Whether frames wait for their pipelines. */
  readonly waits: boolean;
  /** Counts frames. */
  frame = 0;
  /** Times passes on the GPU, where that was asked for. */
  clock: PassClock | undefined;
  /** What was drawn last. */
  last: Drawn | undefined;
  /** What shaders are told of the last picture. */
  readonly given: FrameGiven = {
    exposure: 1,
    isParallel: false,
    time: 0,
    delta: 0,
    width: 1,
    height: 1,
    ...{ left: 0, top: 0, wholeWidth: 1, wholeHeight: 1 },
    scale: 1,
  };
  readonly textures: TextureStore;
  readonly uniforms: FrameUniforms;
  readonly scenePass: ScenePass;
  readonly around: SurroundingsLoader;
  readonly effects: EffectsLoader;
  /** Where it is loaded. */
  frameCulling: FrameCulling | undefined;
  private cullingLoading: Promise<void> | undefined;
  private readonly finish: FinishPass;
  private readonly transient: TransientTextures;
  /** By camera node, and by what it draws into. */
  private readonly cameras = new Map<SceneNode, Map<DeviceTexture, CameraState>>();
  private readonly formats: PlanFormats;
  private readonly plans: FramePlan[] = [];
  private readonly painter: PlanPainter;
  /** The last frame; its steps write it. */
  private readonly at = { given: this.given, shape: {}, whole: {} } as Frame;
  /** What the last picture was made of. */
  private readonly before: {
    plan?: FramePlan;
    target?: DeviceTexture;
    decoded?: number;
    finish?: Frame['finish'];
    surroundings?: Frame['surroundings'];
  } = {};
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
    readonly device: Device,
    shaders: LensShaders,
    readonly messages: Messages,
    private readonly options: RendererOptions = {},
  ) {
    const { antialias = true, pipelines = 'wait', shadowTexels = 8 << 20, stencil = false } = options;
    const waits = (this.waits = pipelines === 'wait');
    this.textures = new TextureStore(device, messages, async () => {
      const [{ TargetTextures }, { place }] = await Promise.all([
        import('../resources/target-textures.js'),
        shaders.effects(),
      ]);
      return new TargetTextures(device, place);
    });
    this.uniforms = new FrameUniforms(device);
    this.transient = new TransientTextures(device);
    this.finish = new FinishPass(device, shaders.finish);
    this.painter = {
      clear: new Float32Array(4),
      lights: this.uniforms.lightBuffer,
      // All but the finish have attachments.
      draw: (pass) => this.drawScene(pass!),
      drawBefore: (pass) => this.drawBefore(pass!),
      drawRadiance: (pass, entries) => this.drawRadiance(pass!, entries),
      drawSeen: (pass) => this.drawPart(pass!, 'seen', COLOR_BEFORE, this.groupOf(this.entries)),
      drawVariant: (pass, variant, entries, range) => {
        const { prepared, state } = this.at;
        this.scenePass.draw(pass!, prepared, state, this.groupOf(entries), variant, range);
      },
      groupOf: (entries) => this.groupOf(entries),
      encode: (picture, shown) => this.finish.draw(picture, shown, this.frame),
      finish: () => {
        const { finish, frame, plan } = this.at;
        const { graph, lit, part, shown, target } = plan;
        const into = shown === target ? part : undefined;
        (finish ?? this.finish).draw(graph.of(lit), graph.of(shown), frame, into);
      },
    };
    this.formats = {
      // Eight bits of linear colour would show bands in the dark: only where there is nothing better.
      color: device.features.has('float16-renderable') ? 'rgba16float' : 'rgba8unorm',
      depth: !stencil
        ? 'depth32float'
        : device.features.has('depth32float-stencil8')
          ? 'depth32float-stencil8'
          : 'depth24plus-stencil8',
      sampleCount: antialias ? Math.min(4, device.limits.maxSamples) : 1,
    };
    const { formats, textures } = this;
    this.scenePass = new ScenePass(
      device,
      textures,
      formats,
      shaders.mesh,
      messages,
      this.onLeave,
      waits,
      options,
    );
    this.effects = new EffectsLoader(device, shaders, textures, messages);
    this.around = new SurroundingsLoader(
      device,
      shaders,
      formats,
      this.scenePass,
      textures,
      shadowTexels,
      messages,
      this.effects,
    );
    if (device.canvasTexture) this.finish.makePipeline(device.canvasTexture.format);
  }

  /** @param settings how; whoever draws otherwise hands over others */
  draw(scene: Scene, camera: SceneNode, target: DeviceTexture, settings: DrawSettings, ledger: Ledger): void {
    const { at, last } = this;
    at.start = performance.now();
    if (
      last?.scene !== scene ||
      last.camera !== camera ||
      last.target !== target ||
      last.settings !== settings
    )
      this.last = { scene, camera, target, settings };
    at.scene = scene;
    at.camera = camera;
    at.target = target;
    at.settings = settings;
    at.ledger = ledger;
    at.frame = ++this.frame;
    for (const step of FRAME_STEPS) if (step(this, at)) return;
  }

  /**
   * Notes what a picture is made of besides lists and buffers.
   *
   * @returns whether it is other than before
   */
  keep({ finish, plan, scene: { clearColor }, surroundings, target }: Frame): boolean {
    // Over what is there nothing is put where nothing is drawn.
    const color = plan.part?.isOver ? NOTHING : clearColor;
    const { before } = this;
    const { clear } = this.painter;
    let isOther =
      plan !== before.plan ||
      target !== before.target ||
      this.textures.decodedCount !== before.decoded ||
      finish !== before.finish ||
      surroundings !== before.surroundings;
    for (let k = 0; k < 4; k++) {
      const value = k < 3 ? Math.fround(color[k]! * color[3]) : Math.fround(color[3]); // four numbers
      if (clear[k] === value) continue;
      clear[k] = value;
      isOther = true;
    }
    before.plan = plan;
    before.target = target;
    before.decoded = this.textures.decodedCount;
    before.finish = finish;
    before.surroundings = surroundings;
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

  /** Stops listening to the scenes that were drawn, and timing. */
  leave(): void {
    clearTimeout(this.idleTimer);
    this.scenePass.dispose();
    this.textures.dispose();
    this.clock?.dispose();
    this.clock = undefined;
  }

  dispose(): void {
    this.leave();
    this.device.dispose();
  }

  /** Samples of a pixel. */
  get sampleCount(): number {
    return this.formats.sampleCount;
  }

  /** Samples of a pixel of the last picture: what is gathered first has one. */
  get pictureSamples(): number {
    return this.lastPlan?.shape.sampleCount ?? this.sampleCount;
  }

  /** The last list that was drawn, and whose it is. */
  get lastList(): DrawList | undefined {
    return (this.at as Partial<Frame>).state?.list;
  }

  /** Of the last frame. */
  get graph(): FrameGraph | undefined {
    return this.lastPlan?.graph;
  }

  private get lastPlan(): FramePlan | undefined {
    return (this.at as Partial<Frame>).plan;
  }

  /** Loads what a scene has around it and what its shaders need for that, so that its first picture is whole. */
  async load(scene: Scene, settings: DrawSettings, target?: DeviceTexture): Promise<void> {
    const { loadScene } = await import('./load-scene.js');
    await loadScene(this, scene, settings, target);
  }

  /** Waits for what is being loaded for the scenes that were drawn. */
  async whenReady(settings: DrawSettings): Promise<void> {
    await this.cullingLoading;
    await this.frameCulling?.whenReady(settings);
    await this.around.whenReady();
    await this.effects.whenReady();
    await this.textures.whenReady();
    await this.scenePass.whenReady();
  }

  /** Loads what culls besides, for a scene that it pays for. */
  cull(scene: Scene, { culling }: DrawSettings): Promise<void> | undefined {
    if (!culling.occlusion && !culling.gpu && scene.columns.itemCount < MANY_ITEMS) return undefined;
    return (this.cullingLoading ??= import('../features/culling/frame-culling.js').then(
      ({ FrameCulling: Loaded }) => {
        this.frameCulling = new Loaded(this.device, this.options.treeMilliseconds);
      },
    ));
  }

  /** What the GPU chose for the last frame; undefined where the script chose. */
  chosen(): Promise<CullingStats> | undefined {
    const { state } = this.at as Partial<Frame>;
    return state && this.frameCulling?.stats(state);
  }

  /** The plan of a frame's shape; made with those who add passes, where there is none. */
  planFor({ passes, prepared, shape, surroundings }: Frame): FramePlan {
    let plan: FramePlan | undefined;
    for (const known of this.plans) if (known.fits(shape)) plan = known;
    if (!plan) {
      plan = new FramePlan(this.device, this.transient, { ...shape }, this.formats, this.painter, [
        ...(surroundings?.partsOf(passes) ?? []),
        this.frameCulling?.chooser,
        prepared.behind as PlanPart | undefined, // shaders bring along no others
      ]);
      this.plans.push(plan);
    }
    plan.lastUsed = this.frame;
    return plan;
  }

  /** What is kept for a camera that draws into a target. */
  cameraState(camera: SceneNode, target: DeviceTexture): CameraState {
    let byTarget = this.cameras.get(camera);
    if (!byTarget) this.cameras.set(camera, (byTarget = new Map()));
    let state = byTarget.get(target);
    if (!state) byTarget.set(target, (state = new CameraState(this.device)));
    state.lastUsed = this.frame;
    return state;
  }

  /** Frees what no scene holds any more, and no frame since `frame` has used. */
  letGo(frame: number): void {
    this.touch();
    this.scenePass.sweep(frame);
    this.textures.sweep(frame);
    this.around.surroundings?.letGo(frame);
  }

  /** Frees what no frame since `frame` has used. */
  sweep(frame: number): void {
    this.scenePass.sweep(frame);
    this.scenePass.sweepScenes(frame);
    this.frameCulling?.sweep(frame);
    this.uniforms.sweep(frame);
    this.finish.sweep(frame);
    this.effects.sweep(frame);
    this.textures.sweep(frame);
    this.around.surroundings?.sweep(frame);
    this.transient.sweep(frame);
    for (let i = this.plans.length - 1; i >= 0; i--)
      if (this.plans[i]!.lastUsed < frame) this.plans.splice(i, 1);
    freeUnusedWithin(this.cameras, frame, (state) => state.dispose());
  }

  /** Has what scenes that are not drawn at the moment hold count as used. */
  private touch(): void {
    const { around, frame, scenePass } = this;
    scenePass.touch(frame, (ready) => around.surroundings?.touch(ready, frame));
  }

  /** What is bound besides in the frame at hand. */
  private get entries(): readonly BindGroupEntry[] {
    return this.at.surroundings?.entries ?? NOTHING_MORE;
  }

  private groupOf(entries: readonly BindGroupEntry[]): DeviceBindGroup {
    return this.uniforms.groupFor(this.at.prepared.transforms.buffer!, this.frame, entries); // made by prepare
  }

  private drawBefore(pass: RenderPass): void {
    const group = this.groupOf(this.entries);
    this.drawPart(pass, 'besides', COLOR_BEFORE, group);
    this.at.surroundings?.drawBehind(pass, group);
  }

  private drawRadiance(pass: RenderPass, entries: readonly BindGroupEntry[]): void {
    const { prepared, state, surroundings } = this.at;
    const group = this.groupOf(entries);
    this.scenePass.draw(pass, prepared, state, group, RADIANCE, 'opaque');
    surroundings?.drawBehind(pass, group);
  }

  /** Draws opaque things: where what is hidden is left out, those that were seen before, or what came besides. */
  private drawPart(
    pass: RenderPass,
    part: 'seen' | 'besides',
    variant: DrawVariant,
    group: DeviceBindGroup,
  ): void {
    const { prepared, state } = this.at;
    const { choice } = state;
    if (choice?.isHidden) choice.part = part;
    this.scenePass.draw(pass, prepared, state, group, variant, 'opaque');
    if (choice) choice.part = 'both';
  }

  private drawScene(pass: RenderPass): void {
    const { device, scenePass } = this;
    const { ledger, plan, prepared, state, surroundings } = this.at;
    const isSplit = plan.shape.readsBehind;
    const group = this.groupOf(plan.bindings(this.entries));
    if (!isSplit)
      surroundings?.drawAhead((variant) => {
        scenePass.draw(pass, prepared, state, group, variant, 'opaque');
        ledger.endPart('depth', true, device.counts);
      });
    this.drawPart(pass, 'besides', isSplit ? COLOR_AFTER : COLOR, group);
    if (!isSplit) surroundings?.drawBehind(pass, group);
    ledger.endPart('opaque', true, device.counts);
    const blended = (range: CommandRange): void => scenePass.draw(pass, prepared, state, group, COLOR, range);
    if (!surroundings?.drawAmong(pass, state, blended)) blended('blended');
    surroundings?.drawOver((variant) => scenePass.draw(pass, prepared, state, group, variant, 'all'));
  }
}
