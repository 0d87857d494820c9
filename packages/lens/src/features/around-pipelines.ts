import type { CompiledShader } from '@umber-lens/core/engine';
import type { Device, DevicePipeline, DeviceShader, RenderPipelineOptions } from '../gpu/device.js';
import { constantsOf } from '../resources/pipeline-store.js';
import type { FullPipelines } from './full-pipelines.js';

/** Pipelines of a shader that covers a picture, built with what of the picture's flags the shader knows. */
export class AroundPipelines {
  private shader: DeviceShader | undefined;
  /** By what they are built with; and, to find them in each frame, by all flags. */
  private readonly pipelines = new Map<string, DevicePipeline>();
  private readonly byBits = new Map<number, DevicePipeline>();

  /** @param more what else they are built with */
  constructor(
    private readonly device: Device,
    private readonly label: string,
    private readonly compiled: CompiledShader,
    private readonly more: Pick<RenderPipelineOptions, 'depth' | 'sampleCount' | 'targets'>,
  ) {}

  /** To be called outside a pass. */
  of(full: FullPipelines): DevicePipeline {
    let found = this.byBits.get(full.bits);
    if (!found) this.byBits.set(full.bits, (found = this.make(full)));
    return found;
  }

  private make(full: FullPipelines): DevicePipeline {
    const { compiled, device, label, more } = this;
    const constants = constantsOf(full.around(), compiled.overrides);
    // Of those who draw beside things, pixels have as many as of these.
    const sampleCount = more.sampleCount === undefined ? 1 : (full.sampleCount ?? more.sampleCount);
    const key = `${Object.keys(constants).join(' ')} ${sampleCount}`;
    let found = this.pipelines.get(key);
    if (!found) {
      this.shader ??= device.createShader({ label, ...compiled });
      found = device.createRenderPipeline({
        ...more,
        sampleCount,
        label,
        constants,
        shader: this.shader,
      });
      this.pipelines.set(key, found);
    }
    return found;
  }
}
