import { type CompiledShader, LensError } from '@umber-lens/core/engine';
import type { Device, DeviceTexture } from '../gpu/device.js';
import { FinishPass } from '../frame/finish-pass.js';
import { straightAlpha } from '../resources/straight-alpha.js';
import { CanvasSize } from './canvas-size.js';
import { LensTarget } from './render-target.js';

/** How a further canvas is drawn. */
export interface CanvasOptions {
  /** Pixels to one of CSS. Default: the screen's. */
  pixelRatio?: number;
}

/** A further canvas as a target: what is drawn into it is shown there. */
export class CanvasTarget extends LensTarget {
  private readonly size: CanvasSize;
  /** Where the GPU shows pictures by itself. */
  private shown: DeviceTexture | undefined;
  private place: FinishPass | undefined;
  /** Where it does not. */
  private page: CanvasRenderingContext2D | null = null;
  private frame = 0;
  /** Whether pixels are on their way, and whether later ones are wanted. */
  private isReading = false;
  private isStale = false;

  constructor(
    device: Device,
    private readonly canvas: HTMLCanvasElement,
    { pixelRatio }: CanvasOptions,
    private readonly shader: CompiledShader,
    onDispose: () => void,
  ) {
    super(device, { width: Math.max(1, canvas.width), height: Math.max(1, canvas.height) }, onDispose);
    this.size = new CanvasSize(canvas, pixelRatio);
    this.open(device);
    this.follow();
  }

  override follow(): void {
    this.size.apply();
    const { height, width } = this.canvas;
    if (width === this.width && height === this.height) return;
    this.options = { ...this.options, width, height };
    this.width = width;
    this.height = height;
    this.image.content = { kind: 'target', width, height, source: this };
    this.held.dispose();
    this.remake(this.device);
  }

  override remake(device: Device): void {
    const isOther = device !== this.device;
    super.remake(device);
    if (isOther) this.open(device);
  }

  override drawn(): void {
    super.drawn();
    if (this.shown) {
      this.place!.draw(this.held, this.shown, ++this.frame); // made with it
      this.place!.sweep(this.frame - 1);
      this.device.submit();
    } else void this.show();
  }

  override dispose(): void {
    this.size.dispose();
    this.shown?.dispose();
    super.dispose();
  }

  private open(device: Device): void {
    this.shown = device.openCanvas?.(this.canvas);
    this.place = this.shown && new FinishPass(device, this.shader);
    this.page = this.shown ? null : this.canvas.getContext('2d');
    if (!this.shown && !this.page)
      throw new LensError('lens/canvas', 'the canvas is in use with another kind of context', {
        hint: 'Give addCanvas a canvas that nothing else draws into.',
      });
  }

  /** Where the GPU shows one canvas alone, pixels are read back, and the newest are shown. */
  private async show(): Promise<void> {
    this.isStale = this.isReading;
    if (this.isReading) return;
    this.isReading = true;
    const { height, width } = this;
    try {
      const pixels = straightAlpha(await this.read());
      this.page?.putImageData(new ImageData(pixels, width, height), 0, 0);
    } finally {
      this.isReading = false;
    }
    if (this.isStale) await this.show();
  }
}
