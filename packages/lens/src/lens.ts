import { LensError, type Scene, type SceneNode } from '@umber-lens/core';
import { CanvasSize } from './canvas-size.js';
import type { Device, DeviceTexture } from './gpu/device.js';
import { Webgl2Device } from './gpu/webgl2/webgl2-device.js';
import { Ledger } from './ledger.js';
import { Renderer } from './passes/renderer.js';

export interface LensOptions {
  /** Smooth edges, by four samples a pixel. Default true. */
  antialias?: boolean;
  /** Pixels a CSS pixel; left out: the screen's own, followed when it changes. */
  pixelRatio?: number;
  /** Factor on all light before tone mapping. Default 1. */
  exposure?: number;
}

/** Time of a frame, seconds. */
export interface FrameTime {
  /** Since `run` was called, pauses left out. */
  time: number;
  /** Since the frame before; at most 0.1, so that nothing leaps after a pause. */
  delta: number;
}

/**
 * Opens a lens on a canvas.
 *
 * @throws LensError `lens/no-gpu` when the browser offers no WebGL2
 */
export function openLens(canvas: HTMLCanvasElement, options: LensOptions = {}): Promise<Lens> {
  const gl = canvas.getContext('webgl2', {
    alpha: true,
    antialias: false,
    depth: false,
    stencil: false,
    premultipliedAlpha: true,
    powerPreference: 'high-performance',
  });
  if (!gl) {
    return Promise.reject(
      new LensError('lens/no-gpu', 'this browser offers no WebGL2 for the canvas', {
        hint: 'Turn hardware acceleration on, or see whether the canvas is in use with another kind of context.',
      }),
    );
  }
  return Promise.resolve(new Lens(new Webgl2Device(gl), options, canvas));
}

/** A lens on a device of the caller's: the way to draw without a page. */
export function lensOn(device: Device, options: LensOptions = {}): Lens {
  return new Lens(device, options);
}

/** A texture to draw into and read back from. */
export interface Target {
  readonly width: number;
  readonly height: number;
  readonly texture: DeviceTexture;
  /** sRGB-encoded RGBA, premultiplied, 4 bytes a pixel, top row first. */
  read(): Promise<Uint8Array>;
  dispose(): void;
}

/** The runtime: draws scenes through camera nodes into a canvas or a texture. */
export class Lens {
  /** The last frame's accounts. */
  readonly ledger = new Ledger();
  private readonly renderer: Renderer;
  private readonly size: CanvasSize | undefined;
  private readonly stops = new Set<() => void>();
  private isDisposed = false;

  /** @internal Use `openLens` or `lensOn`. */
  constructor(
    readonly device: Device,
    options: LensOptions = {},
    readonly canvas?: HTMLCanvasElement,
  ) {
    this.renderer = new Renderer(device, options.antialias ?? true);
    this.renderer.exposure = options.exposure ?? 1;
    this.size = canvas && new CanvasSize(canvas, options.pixelRatio);
  }

  get exposure(): number {
    return this.renderer.exposure;
  }

  set exposure(exposure: number) {
    if (!(exposure > 0 && exposure < Infinity)) {
      throw new LensError('lens/exposure', `the exposure cannot be ${exposure}`, {
        hint: 'Give a number above 0.',
      });
    }
    this.renderer.exposure = exposure;
  }

  /**
   * Draws a scene through a camera node, into the canvas or into a target.
   *
   * @throws LensError `camera/missing` when the node carries no camera, `lens/disposed`
   */
  draw(scene: Scene, eye: SceneNode, target?: Target): void {
    if (this.isDisposed) throw new LensError('lens/disposed', 'the lens has been disposed of');
    this.size?.apply();
    const texture = target?.texture ?? this.device.canvasTexture;
    if (!texture) {
      throw new LensError('lens/no-target', 'this lens has no canvas', { hint: 'Give draw() a target.' });
    }
    this.renderer.draw(scene, eye, texture, this.ledger);
  }

  /** A texture to draw into. Pixels. */
  createTarget(size: { width: number; height: number }): Target {
    const texture = this.device.createTexture({
      label: 'target',
      ...size,
      format: 'rgba8unorm',
      renderable: true,
    });
    return {
      ...size,
      texture,
      read: async () => (await this.device.readTexture(texture)) as Uint8Array,
      dispose: () => texture.dispose(),
    };
  }

  /**
   * Calls `frame` before every repaint, and not while the page is hidden. Time stands still
   * meanwhile.
   *
   * @returns a function that stops it
   */
  run(frame: (time: FrameTime) => void): () => void {
    const time: FrameTime = { time: 0, delta: 0 };
    let request = 0;
    let last = -1;
    let countedFrom = -1;
    let counted = 0;
    const step = (now: number): void => {
      request = requestAnimationFrame(step);
      time.delta = last < 0 ? 0 : Math.min(0.1, (now - last) / 1000);
      time.time += time.delta;
      last = now;
      if (countedFrom < 0) countedFrom = now;
      else if (++counted && now - countedFrom >= 500) {
        this.ledger.framesPerSecond = (counted * 1000) / (now - countedFrom);
        countedFrom = now;
        counted = 0;
      }
      this.renderer.given.time = time.time;
      this.renderer.given.delta = time.delta;
      frame(time);
    };
    const watch = (): void => {
      cancelAnimationFrame(request);
      last = -1;
      countedFrom = -1;
      counted = 0;
      if (!document.hidden) request = requestAnimationFrame(step);
    };
    const stop = (): void => {
      cancelAnimationFrame(request);
      document.removeEventListener('visibilitychange', watch);
      this.stops.delete(stop);
    };
    document.addEventListener('visibilitychange', watch);
    this.stops.add(stop);
    watch();
    return stop;
  }

  /** Frees everything on the GPU and stops what `run` started. The ledger counts nothing living then. */
  dispose(): void {
    if (this.isDisposed) return;
    this.isDisposed = true;
    for (const stop of [...this.stops]) stop();
    this.size?.dispose();
    this.renderer.dispose();
    this.ledger.countLiving(this.device.counts);
  }
}
