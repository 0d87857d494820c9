import type { CompiledShader } from '@umber-lens/core/engine';
import type { Device, DeviceTexture } from '../../gpu/device.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { FinishPass, type TargetPart } from '../../frame/finish-pass.js';
import {
  LOOK_ASPECT,
  LOOK_COLOR,
  LOOK_CONTRAST,
  LOOK_FLOATS,
  LOOK_PART,
  LOOK_ROUNDNESS,
  LOOK_SATURATION,
  LOOK_SIZE,
  LOOK_SOFTNESS,
  LOOK_WEIGHT,
} from '../../compiled/layouts.js';
import type { FrameGiven } from '../../batches/frame-uniforms.js';
import type { Look, Vignette } from './look.js';

/** The finish with contrast, saturation and a vignette. */
export class LookFinish {
  private readonly block: UniformBlock;
  private readonly finish: FinishPass;

  constructor(device: Device, shader: CompiledShader) {
    this.block = new UniformBlock(device, 'look', LOOK_FLOATS);
    this.finish = new FinishPass(device, shader, [{ binding: 1, buffer: this.block.buffer }]);
  }

  /** To be called outside a pass. */
  prepare(
    { contrast = 1, saturation = 1, vignette }: Look,
    { width, height, left, top, wholeWidth, wholeHeight }: FrameGiven,
  ): void {
    const { size = 0.7, softness = 0.7, roundness = 0, color = BLACK, weight = 0.5 } = vignette ?? NONE;
    const { values: numbers } = this.block;
    numbers[LOOK_CONTRAST] = contrast;
    numbers[LOOK_SATURATION] = saturation;
    numbers[LOOK_SIZE] = size;
    numbers[LOOK_SOFTNESS] = softness;
    numbers[LOOK_ROUNDNESS] = roundness;
    numbers[LOOK_ASPECT] = wholeWidth / wholeHeight;
    numbers[LOOK_PART] = left / wholeWidth;
    numbers[LOOK_PART + 1] = top / wholeHeight;
    numbers[LOOK_PART + 2] = width / wholeWidth;
    numbers[LOOK_PART + 3] = height / wholeHeight;
    for (let k = 0; k < 3; k++) numbers[LOOK_COLOR + k] = color[k]!; // three by type
    numbers[LOOK_WEIGHT] = weight;
    this.block.upload();
  }

  draw(source: DeviceTexture, target: DeviceTexture, frame: number, part?: TargetPart): void {
    this.finish.draw(source, target, frame, part);
  }

  sweep(frame: number): void {
    this.finish.sweep(frame);
  }
}

const BLACK = [0, 0, 0];
const NONE: Vignette = { weight: 0 };
