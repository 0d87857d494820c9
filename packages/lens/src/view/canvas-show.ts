import type { Device, DeviceTexture } from '../gpu/device.js';
import type { FinishPass } from '../frame/finish-pass.js';
import { straightAlpha } from '../resources/straight-alpha.js';
import type { CanvasSize } from './canvas-size.js';
import type { LensTarget, TargetShow } from './render-target.js';

/** How a further canvas is drawn. */
export interface CanvasOptions {
  /** Pixels to one of CSS. Default: the screen's. */
  pixelRatio?: number;
}

/** What is made of modules that every page has: they would be split off if this one asked for them itself. */
export interface CanvasParts {
  target: LensTarget;
  size: CanvasSize;
  /** Puts a picture into another. */
  placeOn(device: Device): FinishPass;
  /** Says that something else draws into the canvas. */
  refuse(): never;
}

/** Shows a target in a further canvas. */
export class CanvasShow implements TargetShow {
  private device: Device | undefined;
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
    private readonly canvas: HTMLCanvasElement,
    private readonly parts: CanvasParts,
  ) {}

  follow(): void {
    const { size, target } = this.parts;
    size.apply();
    target.resize(this.canvas.width, this.canvas.height);
  }

  open(device: Device): void {
    if (device === this.device) return;
    this.device = device;
    this.shown = device.openCanvas?.(this.canvas);
    this.place = this.shown && this.parts.placeOn(device);
    this.page = this.shown ? null : this.canvas.getContext('2d');
    if (!this.shown && !this.page) this.parts.refuse();
  }

  show(): void {
    if (!this.shown) {
      // What a lost GPU does not give comes with the next picture.
      this.readBack().catch(() => undefined);
      return;
    }
    this.place!.draw(this.parts.target.held, this.shown, ++this.frame); // made with it
    this.place!.sweep(this.frame - 1);
    this.device!.submit(); // as above
  }

  dispose(): void {
    this.parts.size.dispose();
    this.shown?.dispose();
  }

  /** Where the GPU shows one canvas alone, pixels are read back, and the newest are shown. */
  private async readBack(): Promise<void> {
    this.isStale = this.isReading;
    if (this.isReading) return;
    this.isReading = true;
    const { target } = this.parts;
    const { height, width } = target;
    try {
      const pixels = straightAlpha(await target.read());
      this.page?.putImageData(new ImageData(pixels, width, height), 0, 0);
    } finally {
      this.isReading = false;
    }
    if (this.isStale) await this.readBack();
  }
}
