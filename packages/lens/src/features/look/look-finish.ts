import type { CompiledShader } from '@umber-lens/core/engine';
import type { Device, DeviceTexture } from '../../gpu/device.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { FinishPass } from '../../frame/finish-pass.js';
import { LOOK } from '../../wgsl/layouts.js';
import type { Look, Vignette } from './look.js';

/** The finish with contrast, saturation and a vignette. */
export class LookFinish {
  private readonly block: UniformBlock;
  private readonly finish: FinishPass;

  constructor(device: Device, shader: CompiledShader) {
    this.block = new UniformBlock(device, 'look', LOOK.floats);
    this.finish = new FinishPass(device, shader, [{ binding: 1, buffer: this.block.buffer }]);
  }

  /** To be called outside a pass. */
  prepare({ contrast = 1, saturation = 1, vignette }: Look, aspect: number): void {
    const { size = 0.7, softness = 0.7, roundness = 0, color = BLACK, weight = 0.5 } = vignette ?? NONE;
    const { values: numbers } = this.block;
    numbers[LOOK.contrast] = contrast;
    numbers[LOOK.saturation] = saturation;
    numbers[LOOK.size] = size;
    numbers[LOOK.softness] = softness;
    numbers[LOOK.roundness] = roundness;
    numbers[LOOK.aspect] = aspect;
    for (let k = 0; k < 3; k++) numbers[LOOK.color + k] = color[k]!; // three by type
    numbers[LOOK.weight] = weight;
    this.block.upload();
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
