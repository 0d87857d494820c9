import {
  type BatchBreak,
  LensError,
  type PictureRegion,
  type Scene,
  type SceneNode,
  type DynamicResolutionOptions,
  type DynamicResolution,
  nearHint,
} from '@umber-lens/core/engine';
import { Messages } from '#messages';
import { CanvasSize } from './view/canvas-size.js';
import type { Comparison, CompareOptions, ComparedDraw } from './figures/compare.js';
import type { Device, DeviceTexture } from './gpu/device.js';
import { openDevice, type OpenDeviceOptions, type OpenedDevice } from './gpu/open-device.js';
import type { CullingStats } from './features/culling/culling.js';
import type { PictureOver } from './frame/frame-plan.js';
import { Ledger } from './ledger/ledger.js';
import type { Look } from './features/look/look.js';
import type { FrameGraph } from './frame/frame-graph.js';
import type { PictureFault } from './inspect/find-faults.js';
import type * as Picking from './inspect/pick.js';
import type { PickHit, PickOptions, PickRegionOptions } from './inspect/pick.js';
import { Renderer } from './view/renderer.js';
import type { DrawSettings } from './features/feature.js';
import { type PartOptions, partOf } from './view/draw-options.js';
import type { SnapshotOptions } from './inspect/snapshot.js';
import type { CanvasOptions } from './view/canvas-show.js';
import { FinishPass } from './frame/finish-pass.js';
import { LensTarget, type RenderTarget, type TargetOptions } from './view/render-target.js';
import { defaultSettings, type FrameView, LensView, settingsWith, type View } from './view/view.js';

export interface LensOptions {
  /** Smooth edges, by four samples a pixel. Default true. */
  antialias?: boolean;
  /** Whether there is a stencil, for materials that ask for it: 4 bytes more a sample. Default false. */
  stencil?: boolean;
  /** Pixels a CSS pixel; left out: the screen's own, followed when it changes. */
  pixelRatio?: number;
  /** The most pixels a CSS pixel that are followed of the screen's own: what is finer is hardly seen. Default: all. */
  maxPixelRatio?: number;
  /**
   * Fewer pixels where frames of `run` take longer than they should, and all of them again where there is time. Default: on
   * where no GPU does the work.
   */
  dynamicResolution?: boolean | DynamicResolutionOptions;
  /** Most texels of all shadow maps together. Default 8 x 1,024 x 1,024: three maps have 1,024 texels a side. */
  shadowTexels?: number;
  /**
   * What happens where a pipeline is not ready. `wait`: the frame waits, and every picture is whole. `placeholder`: no
   * frame waits; things are drawn as they were before, or left out and counted by `ledger.waiting`, until their
   * pipelines are made. Default `wait`. `lens.load(scene)` makes them ahead of time in both.
   */
  pipelines?: 'wait' | 'placeholder';
  /**
   * Milliseconds of a frame in which geometries that are drawn for the first time may be uploaded; the rest follows in the next
   * frames and is counted by `ledger.waiting` until then. At least one is uploaded each frame. Default: all at once.
   */
  uploadMilliseconds?: number;
  /** The same for pipelines that are begun; with `pipelines: 'placeholder'` no frame waits for their end either. */
  pipelineMilliseconds?: number;
  /** The same for the clusters of large scenes: until they are there, things are looked at one by one. Default 2. */
  treeMilliseconds?: number;
  /** How `lens.view` begins; it may be written to afterwards. */
  view?: Partial<View>;
  /** How `lens.look` begins; it may be written to afterwards. */
  look?: Look;
  /**
   * Hears what is likely to be wrong with the picture: an attribute that is missing, a scene without light.
   * Each is said once; builds for production tell what went wrong alone (a part that cannot be loaded, a picture, a pipeline). Heard from the beginning, unlike `lens.on('message', ...)`. Default:
   * the console, unless somebody listens.
   */
  onMessage?: (message: LensError) => void;
}

/** Milliseconds before a lost GPU is tried for again, and at most. */
const FIRST_PAUSE = 250;
const LONGEST_PAUSE = 30_000;
/** Milliseconds before which a GPU that came back is no better than none, where it is lost again. */
const LIVED = 5000;

/** Whether there is a GPU to draw with. */
export type LensState = 'ready' | 'lost' | 'gone';

/** What `Lens.on` tells of, with what listeners are given. */
export interface LensEvents {
  statechange: LensState;
  restored: undefined;
  message: LensError;
}

/** Time of a frame, seconds. */
export interface FrameTime {
  /** Since `run` was called, pauses left out. */
  time: number;
  /** Since the frame before; at most 0.1, so that nothing leaps after a pause. */
  delta: number;
}

/** What `openLens` takes besides: which GPU interface it is. */
export type OpenLensOptions = LensOptions & OpenDeviceOptions;

/**
 * Opens a lens on a canvas, with WebGPU where there is an adapter and else with WebGL2. Without a canvas it
 * draws into targets alone.
 *
 * @throws LensError `lens/no-gpu` saying what the browser lacks
 */
export async function openLens(canvas?: HTMLCanvasElement, options: OpenLensOptions = {}): Promise<Lens> {
  Messages.opening(canvas, options);
  let lens: Lens | undefined;
  // What the GPU finds wrong later on is heard as all else is.
  const onError = (error: LensError): void => (lens ? lens.hear(error) : console.error(error.toString()));
  return (lens = new Lens(await openDevice(canvas, { onError, ...options }), options, canvas));
}

/** @internal A tool over a running page: it stands between what the page draws and the canvas. */
export interface LensTool {
  /** In place of a draw onto the canvas. */
  draw(scene: Scene, camera: SceneNode, options: DrawOptions | undefined): void;
  /** By how much a frame of `run` goes on, seconds; undefined: there is none. @param delta as time passed */
  pace(delta: number): number | undefined;
  /** A frame of `run` ended, whatever became of it. @param now as `requestAnimationFrame` gives it */
  ran(now: number): void;
  /** `run` began or stopped. */
  turned(): void;
}

/** @internal Lenses of the page that have a canvas, for tools that look for one. */
export const pageLenses = new Set<WeakRef<Lens>>();

/** How one frame is drawn. */
export interface DrawOptions extends FrameView, PartOptions {
  /** Left out: the canvas. */
  target?: RenderTarget;
}

/** The runtime: draws scenes through camera nodes into a canvas or a texture. */
export class Lens {
  /** The last frame's accounts. */
  readonly ledger = new Ledger();
  /** @internal */
  renderer: Renderer;
  /** @internal How it draws: what `view` and `look` say. */
  readonly settings: DrawSettings = defaultSettings();
  /** How it draws: render path, culling, what is shown. Its members may be written to at any time. */
  readonly view: View;
  /** @internal */
  tool: LensTool | undefined;
  private readonly messages: Messages;
  private readonly targets = new Set<LensTarget>();
  private ready: Promise<void> | undefined;
  private readonly size: CanvasSize | undefined;
  private pace: DynamicResolution | undefined;
  private readonly stops = new Set<() => void>();
  private readonly own: WeakRef<Lens> | undefined;
  private isDisposed = false;
  private hasFailed = false;
  /** When a GPU came back last, and how often in a row one was lost again soon after. */
  private readonly came = { at: -Infinity, losses: 0 };
  private readonly listeners: { [T in keyof LensEvents]: Set<(event: LensEvents[T]) => void> } = {
    statechange: new Set(),
    restored: new Set(),
    message: new Set(),
  };

  /** @internal Use `openLens` or `lensOn`. */
  constructor(
    private opened: OpenedDevice,
    private readonly options: LensOptions = {},
    readonly canvas?: HTMLCanvasElement,
  ) {
    this.messages = new Messages((message) => this.hear(message));
    this.messages.opened(canvas, 1);
    this.renderer = this.makeRenderer();
    this.view = new LensView(this.settings);
    Object.assign(this.look, options.look);
    const { culling, ...view } = options.view ?? {};
    Object.assign(this.view, view);
    Object.assign(this.view.culling, culling);
    this.ledger.reporter = async () => (await import('./figures/report.js')).report(this);
    if (canvas) pageLenses.add((this.own = new WeakRef(this)));
    this.size = canvas && new CanvasSize(canvas, options.pixelRatio, options.maxPixelRatio);
    const { dynamicResolution = canvas !== undefined && this.device.isSoftware } = options;
    if (dynamicResolution)
      void import('./figures/dynamic-resolution.js').then(({ DynamicResolution }) => {
        this.pace = new DynamicResolution(dynamicResolution === true ? {} : dynamicResolution);
      });
    this.watch();
  }

  /** What it draws with. After a loss of the GPU it is another one. */
  get device(): Device {
    return this.opened.given ?? this.opened.device;
  }

  /** Whether the GPU was lost and is not back yet: until then `draw` does nothing. */
  get isLost(): boolean {
    return this.ready !== undefined;
  }

  /** `ready`; `lost` while the GPU is gone and tried for again; `gone` where it will not come back: open another lens. */
  get state(): LensState {
    return this.hasFailed ? 'gone' : this.isLost ? 'lost' : 'ready';
  }

  /**
   * Calls back for what happens to the lens: `statechange` when `state` is another; `restored` after the GPU was lost and
   * everything is there again (what was made from `device` by hand is to be made anew then); `message` for what is likely to be
   * wrong with the picture, while developing.
   *
   *     lens.on('statechange', (state) => { banner.hidden = state === 'ready'; });
   *
   * @returns a function that stops it
   * @throws LensError `lens/event` for a name that is no event
   */
  on<T extends keyof LensEvents>(type: T, listener: (event: LensEvents[T]) => void): () => void {
    const own = this.listeners[type] as Set<(event: LensEvents[T]) => void> | undefined;
    if (!own)
      throw new LensError('lens/event', `a lens knows no event "${String(type)}"`, {
        hint: nearHint(String(type), Object.keys(this.listeners)),
      });
    // The same function may be given twice, and each is stopped by itself.
    const entry = (event: LensEvents[T]): void => listener(event);
    own.add(entry);
    return () => void own.delete(entry);
  }

  /** @internal */
  hear(message: LensError): void {
    // A tool's camera stands in no scene of the page.
    if (this.tool && message.code === 'camera/other-scene') return;
    for (const listener of this.listeners.message) listener(message);
    const { onMessage } = this.options;
    if (onMessage) onMessage(message);
    else if (this.listeners.message.size === 0) console.warn(message.toString());
  }

  private tellState(): void {
    if (this.isLost) this.ledger.framesPerSecond = 0;
    for (const listener of this.listeners.statechange) listener(this.state);
  }

  /**
   * Resolves when there is a GPU to draw with (at once, unless it was lost) and when what the drawn scenes have around
   * them is loaded: the first pictures of a scene with an image light or fog are drawn without.
   */
  async whenReady(): Promise<void> {
    await this.ready;
    await this.renderer.whenReady(this.settings);
  }

  /**
   * Loads what a scene has around it (image light, fog, shadows, layers of its materials) and makes its pipelines beside
   * the script, so that its first picture is whole and waits for nothing. Without, the first pictures are drawn without
   * what is around it.
   */
  async load(scene: Scene): Promise<void> {
    await this.ready;
    const { held } = [...this.targets].find(({ held }) => held.metres ?? held.samples) ?? {};
    await this.renderer.load(scene, this.settings, held);
  }

  private makeRenderer(): Renderer {
    const { device, shaders } = this.opened;
    return new Renderer(device, shaders, this.messages, this.options);
  }

  private watch(): void {
    this.opened.onLoss(() => {
      if (this.isDisposed) return;
      this.ready = this.restore();
      this.ready.catch((error: unknown) => {
        this.hasFailed = true;
        this.tellState();
        this.messages.fault('the GPU did not come back', error);
      });
      this.tellState();
    });
  }

  /** Everything on the GPU is a copy of what the scene holds, so a new renderer makes it again. */
  private async restore(): Promise<void> {
    const { reopen } = this.opened;
    if (!reopen) {
      throw new LensError('device/lost', 'the GPU device was lost', {
        hint: 'Open a new lens on a new device.',
      });
    }
    const wereTimed = this.timesPasses;
    this.renderer.leave();
    const opened = await this.again(reopen);
    if (!opened) return;
    this.opened = opened;
    if (this.isDisposed) return opened.release();
    this.renderer = this.makeRenderer();
    if (wereTimed) await this.timePasses(true);
    for (const target of this.targets) target.remake(this.opened.device);
    this.ready = undefined;
    this.watch();
    this.tellState();
    for (const listener of this.listeners.restored) listener(undefined);
  }

  /**
   * Opens a device again, with growing pauses, and after some of them on the other interface; undefined when nobody waits. One that is lost
   * again and again goes on with the pauses.
   */
  private async again(reopen: (attempt: number) => Promise<OpenedDevice>): Promise<OpenedDevice | undefined> {
    const { came } = this;
    came.losses = performance.now() - came.at < LIVED ? came.losses + 1 : 0;
    for (let attempt = 0; ; attempt++) {
      // A driver that starts anew takes some seconds.
      const times = Math.max(attempt, came.losses);
      if (times > 0) {
        const pause = Math.min(LONGEST_PAUSE, FIRST_PAUSE * 2 ** (times - 1));
        await new Promise((resolve) => setTimeout(resolve, pause));
      }
      if (this.isDisposed) return undefined;
      try {
        const opened = await reopen(times);
        came.at = performance.now();
        return opened;
      } catch {
        // Not yet.
      }
    }
  }

  /** How light is shown: exposure, tone mapping, white balance. Its members may be written to at any time. */
  get look(): Look {
    return this.settings.look;
  }

  /**
   * Reads back what the GPU chose for the last frame; undefined where the script chose: see `culling`. Waits for the GPU, so
   * it is for figures and not for every frame.
   */
  async cullingStats(): Promise<CullingStats | undefined> {
    return this.renderer.chosen();
  }

  /**
   * Draws a scene through a camera node, into the canvas or into a target.
   *
   * @param options where to, and what is other than in `view` and `look` for this frame alone
   * @throws LensError `camera/missing` when the node carries no camera, `lens/disposed`, `lens/no-target`, `lens/viewport`,
   *   `lens/layer`
   */
  draw(scene: Scene, camera: SceneNode, options?: DrawOptions): void {
    if (this.tool && !options?.target) this.tool.draw(scene, camera, options);
    else this.drawPast(scene, camera, options);
  }

  /** @internal The same, past a tool. @param over draws over the finished picture */
  drawPast(scene: Scene, camera: SceneNode, options?: DrawOptions, over?: PictureOver): void {
    const target = options?.target as LensTarget | undefined;
    target?.shown?.follow();
    let { settings } = this;
    if (options && !isTargetAlone(options)) {
      if (!target) this.followCanvas();
      const texture = target?.held ?? this.device.canvasTexture;
      const part = texture && partOf(options, texture, () => (target ? 1 : this.canvasScale));
      if (part) this.messages.part(texture, part);
      settings = settingsWith(settings, options, part);
    }
    if (over) settings = { ...settings, over };
    this.drawWith(settings, scene, camera, target?.held);
    target?.drawn();
  }

  /** Brings the canvas's pixels up to date with its place on the page. */
  private followCanvas(): void {
    this.size?.apply();
    this.opened.follow?.();
  }

  /** Pixels of the canvas to one of CSS. */
  private get canvasScale(): number {
    const { canvas, device } = this;
    const width = canvas?.clientWidth ?? 0;
    return width > 0 ? (device.canvasTexture?.width ?? width) / width : 1;
  }

  /** @internal Draws with settings that are not the lens's own. */
  drawWith(settings: DrawSettings, scene: Scene, camera: SceneNode, target?: DeviceTexture): void {
    if (this.isDisposed) throw new LensError('lens/disposed', 'the lens has been disposed of');
    Messages.drawing(scene, camera);
    // Between its loss and the event that tells of it, a GPU takes nothing either.
    if (this.isLost || this.device.isGone) return;
    this.followCanvas();
    const texture = target ?? this.device.canvasTexture;
    if (!texture) {
      throw new LensError('lens/no-target', 'this lens has no canvas', { hint: 'Give draw() a target.' });
    }
    // A canvas that is not laid out has no pixels.
    if (texture.width === 0 || texture.height === 0) return;
    this.renderer.draw(scene, camera, texture, settings, this.ledger);
  }

  /**
   * Frees on the GPU, at once, what no drawn scene holds any more: meshes, textures and swarms that were removed or replaced.
   * Without it they go within the next frames, or a quarter of a second after the last one.
   *
   * @param scene frees all that is there of this scene, too: it is uploaded again when it is drawn again
   */
  release(scene?: Scene): void {
    if (!this.isDisposed && !this.isLost) this.renderer.release(scene);
  }

  /** @internal What was drawn last. */
  get drawnScene(): Scene | undefined {
    return this.renderer.last?.scene;
  }

  /** @internal The last frame's passes, for `describeFrame`. */
  get frameGraph(): FrameGraph | undefined {
    return this.renderer.graph;
  }

  /**
   * Tells shaders what time it is. `run` does this by itself; call it where you draw without.
   *
   * @param time seconds
   * @param delta seconds since the frame before
   */
  setTime(time: number, delta = 0): void {
    this.settings.time = time;
    this.settings.delta = delta;
  }

  /**
   * The nearest thing at a place of the picture, as it stands and is bent now; undefined where there is none. The first
   * time what it is looked up in is built in the background. Ready at once, and without a lens: `castRay` with `cameraRay`.
   *
   *     canvas.onclick = async ({ offsetX, offsetY }) => {
   *       const hit = await lens.pick(scene, camera, offsetX, offsetY);
   *       if (hit) console.log(hit.node.name, hit.point);
   *     };
   *
   * @param x CSS pixels from the canvas's left, as `offsetX` of events
   * @param y from its top
   * @throws LensError `camera/missing`, `lens/no-target` without a canvas or `size`, `pick/no-float` where `exact` is
   *   asked of a GPU that cannot draw floats
   */
  async pick(
    scene: Scene,
    camera: SceneNode,
    x: number,
    y: number,
    options?: PickOptions,
  ): Promise<PickHit | undefined> {
    return (await picking()).pick(this, scene, camera, x, y, options);
  }

  /** Everything at a place of the picture, the nearest first; of each primitive of a node its nearest triangle. See `pick`. */
  async pickAll(
    scene: Scene,
    camera: SceneNode,
    x: number,
    y: number,
    options?: Omit<PickOptions, 'exact' | 'radius'>,
  ): Promise<PickHit[]> {
    return (await picking()).pickAll(this, scene, camera, x, y, options);
  }

  /**
   * The nodes in a rectangle of the picture, hidden ones too; with `exact`, those that can be seen there. See `pick`.
   *
   * @param region CSS pixels
   */
  async pickRegion(
    scene: Scene,
    camera: SceneNode,
    region: PictureRegion,
    options?: PickRegionOptions,
  ): Promise<SceneNode[]> {
    return (await picking()).pickRegion(this, scene, camera, region, options);
  }

  /**
   * Looks for what only the GPU knows: colors of shaders that are infinite or no number (black on one GPU, white on another),
   * and marched shapes that are cut off by too small a geometry. Draws the scene some more times, in little, and reads it
   * back. Of each node the first place is given.
   *
   *     for (const { text } of await lens.findFaults(scene, camera)) console.warn(text);
   *
   * @throws LensError `camera/missing`
   */
  async findFaults(scene: Scene, camera: SceneNode): Promise<PictureFault[]> {
    return (await import('./inspect/find-faults.js')).findFaults(this, scene, camera);
  }

  /**
   * The last picture anew, as a file: as it is, with its alpha, whatever the canvas has become since. What is larger than the GPU
   * takes at once is drawn in tiles.
   *
   *     const blob = await lens.snapshot({ width: 3840 });
   *     link.href = URL.createObjectURL(blob);
   *
   * @throws LensError `lens/no-picture` before the first, `lens/snapshot` for a size that cannot be
   */
  async snapshot(options: SnapshotOptions = {}): Promise<Blob> {
    return (await import('./inspect/snapshot.js')).snapshot(this, options);
  }

  /**
   * Draws two ways in turn and tells which one is faster, by how much and how sure that is, or that it cannot tell and how
   * many more frames it would take. `verdictText` puts the verdict into words.
   *
   *     const { verdict } = await lens.compare({
   *       a: () => { swarm.detail = 1; lens.draw(scene, camera); },
   *       b: () => { swarm.detail = 0.5; lens.draw(scene, camera); },
   *     });
   *
   * @throws LensError `compare/turns`, `compare/no-clock` where times of the GPU are asked for and it has none
   */
  async compare(ways: { a: ComparedDraw; b: ComparedDraw }, options?: CompareOptions): Promise<Comparison> {
    return (await import('./figures/compare.js')).compare(this, ways, options);
  }

  /**
   * Whether passes are timed on the GPU from now on: `ledger.passes` tells `gpuMilliseconds` then, a frame or two late.
   *
   * @returns false where the GPU cannot tell
   */
  async timePasses(on: boolean): Promise<boolean> {
    const { renderer } = this;
    if (!on) {
      renderer.clock?.dispose();
      renderer.clock = undefined;
    } else if (!renderer.clock) {
      const { PassClock } = await import('./ledger/pass-clock.js');
      renderer.clock = await PassClock.begin(this.opened.device);
    }
    return renderer.clock !== undefined;
  }

  get timesPasses(): boolean {
    return this.renderer.clock !== undefined;
  }

  /** The draws of the last frame, and why each was not merged with the one before it. */
  async batchBreaks(): Promise<BatchBreak[]> {
    const { batchBreaks } = await import('./figures/batch-breaks.js');
    const { lastList } = this.renderer;
    return lastList ? batchBreaks(lastList) : [];
  }

  /**
   * A texture to draw into.
   *
   * @throws LensError `device/texture` for a size or a format that the GPU does not have
   */
  createTarget(options: TargetOptions): RenderTarget {
    const target = new LensTarget(this.opened.device, options, () => this.targets.delete(target));
    this.targets.add(target);
    return target;
  }

  /**
   * A further canvas on the same GPU, with all that is uploaded: what `draw` is given as its target is shown there. Its pixels follow its place on the
   * page. WebGL2 shows one canvas alone, so pixels are read back for others there, and shown a frame or two later.
   *
   *     const plan = await lens.addCanvas(document.querySelector('#plan')!);
   *     lens.run(() => {
   *       lens.draw(scene, camera);
   *       lens.draw(scene, above, { target: plan });
   *     });
   *
   * @throws LensError `lens/canvas` where something else draws into it
   */
  async addCanvas(canvas: HTMLCanvasElement, options: CanvasOptions = {}): Promise<RenderTarget> {
    const { device, shaders } = this.opened;
    const [{ CanvasShow }, { place }] = await Promise.all([
      import('./view/canvas-show.js'),
      shaders.effects(),
    ]);
    const refuse = (): never => {
      throw new LensError('lens/canvas', 'the canvas is in use with another kind of context', {
        hint: 'Give addCanvas a canvas that nothing else draws into.',
      });
    };
    const target = this.createTarget({ width: 1, height: 1 }) as LensTarget;
    const size = new CanvasSize(canvas, options.pixelRatio);
    const placeOn = (on: Device): FinishPass => new FinishPass(on, place);
    target.shown = new CanvasShow(canvas, { target, size, placeOn, refuse });
    try {
      target.shown.open(device);
    } catch (error) {
      target.dispose();
      throw error;
    }
    target.shown.follow();
    return target;
  }

  /**
   * Calls `frame` before every repaint, and not while the page is hidden. Time stands still
   * meanwhile.
   *
   * @returns a function that stops it
   */
  run(frame: (time: FrameTime) => void): () => void {
    // Workers have none, and no turn to draw either while their page is hidden.
    const page = globalThis.document as Document | undefined;
    const time: FrameTime = { time: 0, delta: 0 };
    let request = 0;
    let last = -1;
    let countedFrom = -1;
    let counted = 0;
    const step = (now: number): void => {
      request = requestAnimationFrame(step);
      const passed = last < 0 ? 0 : Math.min(0.1, (now - last) / 1000);
      const paced = this.tool ? this.tool.pace(passed) : passed;
      time.delta = paced ?? 0;
      if (last >= 0 && this.size && this.pace?.frame(now - last, now))
        this.ledger.resolution = this.size.scale = this.pace.scale;
      time.time += time.delta;
      last = now;
      if (countedFrom < 0) countedFrom = now;
      else if (++counted && now - countedFrom >= 500) {
        this.ledger.framesPerSecond = this.isLost ? 0 : (counted * 1000) / (now - countedFrom);
        countedFrom = now;
        counted = 0;
      }
      try {
        if (paced === undefined) return;
        this.setTime(time.time, time.delta);
        frame(time);
      } finally {
        this.tool?.ran(now);
      }
    };
    const watch = (): void => {
      cancelAnimationFrame(request);
      last = -1;
      countedFrom = -1;
      counted = 0;
      if (!page?.hidden) request = requestAnimationFrame(step);
    };
    const stop = (): void => {
      cancelAnimationFrame(request);
      page?.removeEventListener('visibilitychange', watch);
      this.stops.delete(stop);
      this.tool?.turned();
    };
    page?.addEventListener('visibilitychange', watch);
    this.stops.add(stop);
    this.tool?.turned();
    watch();
    return stop;
  }

  /** @internal Whether `run` calls someone before every repaint. */
  get isRunning(): boolean {
    return this.stops.size > 0;
  }

  /** Frees everything on the GPU and stops what `run` started. The ledger counts nothing living then. */
  dispose(): void {
    if (this.isDisposed) return;
    this.isDisposed = true;
    if (this.own) pageLenses.delete(this.own);
    for (const stop of [...this.stops]) stop();
    this.messages.opened(this.canvas, -1);
    this.size?.dispose();
    this.renderer.dispose();
    this.ledger.countLiving(this.device.counts);
    this.opened.release();
  }
}

/** Loaded by whoever first picks. */
const picking = (): Promise<typeof Picking> => import('./inspect/pick.js');

/** Whether options say nothing but where to. */
function isTargetAlone(options: DrawOptions): boolean {
  for (const name in options) if (name !== 'target') return false;
  return true;
}
