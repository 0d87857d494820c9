/** Frames without news after which it is looked anew, since no event tells of a transform. */
const QUIET = 12;
/** For so many frames after a change it is looked each time: what moves goes on moving. */
const LIVELY = 30;

/**
 * Where a canvas lies on the screen. To ask the browser costs a tenth of a millisecond, so it is asked when something is heard that
 * moves it, else every twelfth frame, and in each frame while it moves.
 */
export class CanvasPlace {
  /** CSS pixels. */
  place = new DOMRect();
  private wait = 0;
  private lively = LIVELY;
  private readonly heard = new AbortController();
  private readonly sizes: ResizeObserver;

  constructor(private readonly element: HTMLElement) {
    const { signal } = this.heard;
    const stir = (): void => {
      this.lively = LIVELY;
    };
    // What scrolls within the page is heard on the way down.
    addEventListener('scroll', stir, { signal, capture: true, passive: true });
    addEventListener('resize', stir, { signal });
    addEventListener('transitionrun', stir, { signal, capture: true });
    addEventListener('animationstart', stir, { signal, capture: true });
    this.sizes = new ResizeObserver(stir);
    for (const one of [element, document.body, document.documentElement]) this.sizes.observe(one);
  }

  /** Once a frame. @returns whether it lies elsewhere than before */
  look(): boolean {
    if (this.lively === 0 && ++this.wait < QUIET) return false;
    this.wait = 0;
    if (this.lively > 0) this.lively--;
    const now = this.element.getBoundingClientRect();
    const { height, left, top, width } = this.place;
    if (now.left === left && now.top === top && now.width === width && now.height === height) return false;
    this.lively = LIVELY;
    this.place = now;
    return true;
  }

  dispose(): void {
    this.heard.abort();
    this.sizes.disconnect();
  }
}
