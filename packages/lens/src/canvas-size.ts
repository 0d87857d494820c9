/**
 * Keeps a canvas's pixels in step with its size on the page and the pixel ratio, so that it is
 * always sharp and never stretched.
 */
export class CanvasSize {
  private width: number;
  private height: number;
  private readonly observer: ResizeObserver;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly pixelRatio: number | undefined,
  ) {
    fixLayoutSize(canvas);
    const ratio = pixelRatio ?? devicePixelRatio;
    this.width = canvas.clientWidth * ratio;
    this.height = canvas.clientHeight * ratio;
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
    const width = Math.max(1, Math.round(this.width));
    const height = Math.max(1, Math.round(this.height));
    if (canvas.width !== width) canvas.width = width;
    if (canvas.height !== height) canvas.height = height;
  }

  dispose(): void {
    this.observer.disconnect();
  }

  private measure(entry: ResizeObserverEntry): void {
    const exact = this.pixelRatio === undefined ? entry.devicePixelContentBoxSize?.[0] : undefined;
    if (exact) {
      this.width = exact.inlineSize;
      this.height = exact.blockSize;
      return;
    }
    const ratio = this.pixelRatio ?? devicePixelRatio;
    this.width = entry.contentRect.width * ratio;
    this.height = entry.contentRect.height * ratio;
  }
}

/**
 * A canvas without a size in CSS is laid out by its own pixels: following them would make it grow
 * without end on screens with a pixel ratio above 1. Its size is pinned then.
 */
function fixLayoutSize(canvas: HTMLCanvasElement): void {
  const { clientWidth, clientHeight, width, height } = canvas;
  canvas.width = width + 16;
  canvas.height = height + 16;
  if (canvas.clientWidth !== clientWidth) canvas.style.width = `${clientWidth}px`;
  if (canvas.clientHeight !== clientHeight) canvas.style.height = `${clientHeight}px`;
  canvas.width = width;
  canvas.height = height;
}
