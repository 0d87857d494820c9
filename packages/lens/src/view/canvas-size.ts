/**
 * Keeps a canvas's pixels in step with its size on the page and the pixel ratio, so that it is
 * always sharp and never stretched.
 */
export class CanvasSize {
  /** Of the content, in CSS pixels. */
  private cssWidth: number;
  private cssHeight: number;
  /** The same in pixels of the screen. */
  private width = 1;
  private height = 1;
  /** The ratio that `width` and `height` are right for. */
  private ratio = 0;
  /** Share of the full width and height. */
  scale = 1;
  /** Undefined in a worker, where the canvas itself tells its size. */
  private readonly observer: ResizeObserver | undefined;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly pixelRatio: number | undefined,
    /** The most that is followed of the screen's own. */
    private readonly maxPixelRatio = Infinity,
  ) {
    this.cssWidth = canvas.clientWidth;
    this.cssHeight = canvas.clientHeight;
    if (typeof ResizeObserver === 'undefined') {
      this.apply();
      return;
    }
    fixLayoutSize(canvas);
    this.observer = new ResizeObserver((entries) => {
      const entry = entries[entries.length - 1];
      if (entry) this.measure(entry);
    });
    try {
      this.observer.observe(canvas, { box: 'device-pixel-content-box' });
    } catch {
      this.observer.observe(canvas);
    }
    this.apply();
  }

  /** Sets the canvas's pixels where they differ from what the page asks for. */
  apply(): void {
    const { canvas } = this;
    // Asked for each frame: not every change of the screen is told to observers.
    const ratio = this.wantedRatio();
    const isTold =
      !this.observer && (canvas.clientWidth !== this.cssWidth || canvas.clientHeight !== this.cssHeight);
    if (ratio !== this.ratio || isTold) {
      if (isTold) {
        this.cssWidth = canvas.clientWidth;
        this.cssHeight = canvas.clientHeight;
      }
      this.ratio = ratio;
      this.width = this.cssWidth * ratio;
      this.height = this.cssHeight * ratio;
    }
    const width = Math.max(1, Math.round(this.width * this.scale));
    const height = Math.max(1, Math.round(this.height * this.scale));
    if (canvas.width !== width) canvas.width = width;
    if (canvas.height !== height) canvas.height = height;
  }

  dispose(): void {
    this.observer?.disconnect();
  }

  private wantedRatio(): number {
    // Workers have no screen: the page's ratio comes with the canvas.
    const { pixelRatio = 1 } = this.canvas as { pixelRatio?: number };
    const screens = (globalThis.devicePixelRatio as number | undefined) ?? pixelRatio;
    return this.pixelRatio ?? Math.min(screens, this.maxPixelRatio);
  }

  private measure({ contentRect, devicePixelContentBoxSize }: ResizeObserverEntry): void {
    const ratio = this.wantedRatio();
    this.cssWidth = contentRect.width;
    this.cssHeight = contentRect.height;
    this.ratio = ratio;
    this.width = contentRect.width * ratio;
    this.height = contentRect.height * ratio;
    const isScreens = this.pixelRatio === undefined && ratio === devicePixelRatio;
    const exact = isScreens ? devicePixelContentBoxSize?.[0] : undefined;
    // A browser that only plays at another ratio counts the pixels of the real screen: no use then.
    if (!exact || Math.abs(exact.inlineSize - this.width) > 2 || Math.abs(exact.blockSize - this.height) > 2)
      return;
    this.width = exact.inlineSize;
    this.height = exact.blockSize;
  }
}

/**
 * A canvas without a size in CSS is laid out by its own pixels: following them would make it grow
 * without end on screens with a pixel ratio above 1. Its size is pinned then.
 */
export function fixLayoutSize(canvas: HTMLCanvasElement): void {
  const { clientWidth, clientHeight, width, height } = canvas;
  canvas.width = width + 16;
  canvas.height = height + 16;
  if (canvas.clientWidth !== clientWidth) canvas.style.width = `${clientWidth}px`;
  if (canvas.clientHeight !== clientHeight) canvas.style.height = `${clientHeight}px`;
  canvas.width = width;
  canvas.height = height;
}
