import type { DrawVariant } from '../../batches/draw-variant.js';
import { DepthVariant } from '../depth-variant.js';
import type { Feature, FrameAt } from '../feature.js';
import { WANTS } from '../wants.js';

/** Depths of opaque things ahead of the picture, so that no pixel is lit twice. */
export class Prepass implements Feature {
  ahead: DrawVariant | undefined;
  private readonly depths = new DepthVariant(false);

  prepare(at: FrameAt): void {
    this.ahead = WANTS.prepass(at) ? this.depths : undefined;
  }
}
