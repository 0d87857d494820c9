import type { CompiledShader } from '@umber-lens/core';
import type { Device, DeviceBuffer, DeviceTexture } from '../gpu/device.js';
import { FinishPass } from '../passes/finish-pass.js';
import type { Look, Vignette } from './look.js';

/** The structure `Look` of finish-look.wgsl. */
const LOOK_FLOATS = 12;

/** The finish with contrast, saturation and a vignette. */
export class LookFinish {
  private readonly buffer: DeviceBuffer;
  private readonly finish: FinishPass;
  private readonly numbers = new Float32Array(LOOK_FLOATS);

  constructor(
    private readonly device: Device,
    shader: CompiledShader,
  ) {
    this.buffer = device.createBuffer({ label: 'look', usage: 'uniform', size: LOOK_FLOATS * 4 });
    this.finish = new FinishPass(device, shader, [{ binding: 1, buffer: this.buffer }]);
  }

  /** To be called outside a pass. */
  prepare({ contrast = 1, saturation = 1, vignette }: Look, aspect: number): void {
    const { size = 0.7, softness = 0.7, roundness = 0, color = BLACK, weight = 0.5 } = vignette ?? NONE;
    const { numbers } = this;
    numbers[0] = contrast;
    numbers[1] = saturation;
    numbers[2] = size;
    numbers[3] = softness;
    numbers[4] = roundness;
    numbers[5] = aspect;
    for (let k = 0; k < 3; k++) numbers[8 + k] = color[k]!; // three by type
    numbers[11] = weight;
    this.device.writeBuffer(this.buffer, 0, numbers);
  }

  draw(source: DeviceTexture, target: DeviceTexture, frame: number): void {
    this.finish.draw(source, target, frame);
  }

  sweep(frame: number): void {
    this.finish.sweep(frame);
  }
}

const BLACK = [0, 0, 0];
const NONE: Vignette = { weight: 0 };
