import { type Effect, LensError } from '@umber-lens/core/engine';
import type { Culling } from '../features/culling/culling.js';
import { type ShownQuantity, SHOWS } from '../features/debug-views/show.js';
import { RENDER_PATHS, type RenderPath } from '../features/deferred/render-path.js';
import type { DrawPart, DrawSettings } from '../features/feature.js';
import type { Look } from '../features/look/look.js';

/** How a lens draws. Every member may be written to at any time, and counts from the next frame on. */
export interface View {
  /**
   * How opaque things are drawn. `forward` (the default): each is lit as it is drawn. `prepass`: their depths are drawn first, so
   * that no pixel is lit twice; pays where much lies behind one another and light is expensive. `deferred`: what surfaces are
   * made of is drawn first, light is added once a pixel, without antialiasing by samples; pays where lights are many.
   */
  renderPath: RenderPath;
  /** A single quantity of the surfaces instead of their light, to find what is wrong. Default `shaded`, the usual picture. */
  show: ShownQuantity;
  /** Pixels: things whose sphere is less high on the screen are left out, and counted by `ledger.small`. Default 0: none is. */
  minPixels: number;
  /** Whether a frame in which nothing changed is not drawn again: the picture of before stays. Default false. */
  onDemand: boolean;
  /** What is left out before it is drawn, and who finds it out. */
  readonly culling: Culling;
  /** Effects on the shown picture, one after the other. Their members may be written to at any frame. Default none. */
  finish: readonly Effect[];
}

/** What may be other for one frame. */
export type FrameView = Partial<View> & { look?: Look };

/** The settings of a lens before anybody wrote to them. */
export const defaultSettings = (): DrawSettings => ({
  renderPath: 'forward',
  show: 'shaded',
  minPixels: 0,
  onDemand: false,
  culling: {},
  look: {},
  finish: [],
  time: 0,
  delta: 0,
});

/** The same settings but for what one frame has otherwise. @throws LensError `lens/path`, `lens/show` */
export function settingsWith(
  settings: DrawSettings,
  {
    culling,
    finish = settings.finish,
    look,
    minPixels = settings.minPixels,
    onDemand = settings.onDemand,
    renderPath = settings.renderPath,
    show = settings.show,
  }: FrameView,
  part?: DrawPart,
): DrawSettings {
  checkPath(renderPath);
  checkShow(show);
  checkFinish(finish);
  return {
    ...settings,
    part,
    finish,
    minPixels,
    onDemand,
    renderPath,
    show,
    culling: { ...settings.culling, ...culling },
    look: { ...settings.look, ...look },
  };
}

/** A lens's settings, checked when they are written. */
export class LensView implements View {
  constructor(private readonly settings: DrawSettings) {}

  get renderPath(): RenderPath {
    return this.settings.renderPath;
  }

  /** @throws LensError `lens/path` */
  set renderPath(path: RenderPath) {
    checkPath(path);
    this.settings.renderPath = path;
  }

  get show(): ShownQuantity {
    return this.settings.show;
  }

  /** @throws LensError `lens/show` */
  set show(show: ShownQuantity) {
    checkShow(show);
    this.settings.show = show;
  }

  get minPixels(): number {
    return this.settings.minPixels;
  }

  set minPixels(pixels: number) {
    this.settings.minPixels = pixels;
  }

  get onDemand(): boolean {
    return this.settings.onDemand;
  }

  set onDemand(onDemand: boolean) {
    this.settings.onDemand = onDemand;
  }

  get culling(): Culling {
    return this.settings.culling;
  }

  get finish(): readonly Effect[] {
    return this.settings.finish;
  }

  /** @throws LensError `lens/finish` */
  set finish(finish: readonly Effect[]) {
    checkFinish(finish);
    this.settings.finish = finish;
  }
}

function checkPath(path: RenderPath): void {
  if (!RENDER_PATHS.includes(path))
    throw new LensError('lens/path', `there is no render path "${String(path)}"`, {
      hint: `Use one of ${RENDER_PATHS.join(', ')}.`,
    });
}

function checkFinish(finish: readonly Effect[]): void {
  if (!Array.isArray(finish))
    throw new LensError('lens/finish', 'a finish is a list of effects', {
      hint: "Give an array: [{ type: 'blur', stdDeviation: 4 }].",
    });
}

function checkShow(show: ShownQuantity): void {
  if (!SHOWS.includes(show))
    throw new LensError('lens/show', `"${String(show)}" cannot be shown`, {
      hint: `Show one of ${SHOWS.join(', ')}.`,
    });
}
