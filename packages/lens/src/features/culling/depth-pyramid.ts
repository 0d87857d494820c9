import type { ComputePass, ComputePipeline } from '../../gpu/compute.js';
import type { Device, DeviceBindGroup, DeviceBuffer, DeviceTexture } from '../../gpu/device.js';

/** The pipelines that pyramids are built with. */
export interface PyramidPipelines {
  first: ComputePipeline;
  firstOfSamples: ComputePipeline;
  next: ComputePipeline;
}

/** Levels at most: those of 16,384 pixels. */
export const MOST_PYRAMID_LEVELS = 16;
/** Bytes from one step's numbers to the next. */
const STEP = 256;

/**
 * The farthest depths of 2 x 2 pixels, of 2 x 2 of those, and so on up to one for the whole picture, side by side in one
 * buffer of floats: a rectangle of any size is held against at most four of them.
 */
export class DepthPyramid {
  readonly buffer: DeviceBuffer;
  /** By level: where it begins, its width and its height. */
  readonly places: readonly (readonly [start: number, width: number, height: number])[];
  private readonly steps: DeviceBuffer;
  private readonly nextGroup: DeviceBindGroup;
  private firstGroup: DeviceBindGroup | undefined;
  private firstOf: DeviceTexture | undefined;

  /** @param width pixels of the picture */
  constructor(
    private readonly device: Device,
    private readonly pipelines: PyramidPipelines,
    readonly width: number,
    readonly height: number,
  ) {
    const places: [number, number, number][] = [];
    let end = 0;
    for (let [w, h] = [width, height]; places.length < MOST_PYRAMID_LEVELS;) {
      w = (w + 1) >> 1;
      h = (h + 1) >> 1;
      places.push([end, w, h]);
      end += w * h;
      if (w === 1 && h === 1) break;
    }
    this.places = places;
    this.buffer = device.createBuffer({
      label: 'depth pyramid',
      usage: 'storage',
      writable: true,
      size: end * 4,
    });
    const numbers = new Uint32Array((places.length * STEP) / 4);
    places.forEach(([start, w, h], i) => {
      const [before, beforeWidth, beforeHeight] = places[i - 1] ?? [0, width, height];
      numbers.set([w, h, beforeWidth, beforeHeight, start, before], (i * STEP) / 4);
    });
    this.steps = device.createBuffer({
      label: 'steps of the depth pyramid',
      usage: 'uniform',
      data: numbers,
    });
    this.nextGroup = device.createBindGroup({
      entries: [
        { binding: 0, buffer: this.steps, size: 32 },
        { binding: 1, buffer: this.buffer },
      ],
    });
  }

  /** @param depth of the picture that is drawn so far, reversed */
  build(pass: ComputePass, depth: DeviceTexture): void {
    const { first, firstOfSamples, next } = this.pipelines;
    if (this.firstOf !== depth) {
      this.firstGroup?.dispose();
      this.firstOf = depth;
      this.firstGroup = this.device.createBindGroup({
        entries: [
          { binding: 0, buffer: this.steps, size: 16 },
          { binding: 1, texture: depth },
          { binding: 2, buffer: this.buffer },
        ],
      });
    }
    pass.setPipeline(depth.sampleCount > 1 ? firstOfSamples : first);
    pass.setBindGroup(0, this.firstGroup!); // made above
    for (let level = 0; level < this.places.length; level++) {
      const [, width, height] = this.places[level]!; // level < length
      if (level > 0) {
        pass.setPipeline(next);
        pass.setBindGroup(0, this.nextGroup, level * STEP);
      }
      pass.dispatch((width + 7) >> 3, (height + 7) >> 3);
    }
  }

  dispose(): void {
    this.firstGroup?.dispose();
    this.nextGroup.dispose();
    this.steps.dispose();
    this.buffer.dispose();
  }
}
