import { LensError } from '@umber-lens/core/engine';
import type { Culling } from './cull/culling.js';
import type { ShownQuantity } from './light/show.js';
import type { Messages } from '#messages';
import { RENDER_PATHS, type RenderPath } from './passes/render-path.js';
import type { Renderer } from './passes/renderer.js';

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
}

/** The view of a lens: after a loss of the GPU another renderer takes it over. */
export class LensView implements View {
  constructor(
    private readonly renderer: () => Renderer,
    private readonly messages: Messages,
  ) {}

  get renderPath(): RenderPath {
    return this.renderer().renderPath;
  }

  /** @throws LensError `lens/path` */
  set renderPath(path: RenderPath) {
    if (!RENDER_PATHS.includes(path))
      throw new LensError('lens/path', `there is no render path "${String(path)}"`, {
        hint: `Use one of ${RENDER_PATHS.join(', ')}.`,
      });
    this.renderer().renderPath = path;
  }

  get show(): ShownQuantity {
    return this.renderer().show;
  }

  /** @throws LensError `lens/show` */
  set show(show: ShownQuantity) {
    this.messages.show(show);
    this.renderer().show = show;
  }

  get minPixels(): number {
    return this.renderer().minPixels;
  }

  set minPixels(pixels: number) {
    this.renderer().minPixels = pixels;
  }

  get onDemand(): boolean {
    return this.renderer().onDemand;
  }

  set onDemand(onDemand: boolean) {
    this.renderer().onDemand = onDemand;
  }

  get culling(): Culling {
    return this.renderer().culling;
  }
}
