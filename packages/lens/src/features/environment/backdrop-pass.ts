import type { Device, DeviceBindGroup, DevicePipeline, DeviceTexture, RenderPass } from '../../gpu/device.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { AroundPipelines } from '../around-pipelines.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';
import type { FullPipelines } from '../full-pipelines.js';
import type { EnvironmentStore } from './environment-store.js';

/** Draws a panorama where nothing was drawn. */
export class BackdropPass implements Feature {
  private readonly block: UniformBlock;
  private readonly pipelines: AroundPipelines;
  private pipeline: DevicePipeline | undefined;
  private group: DeviceBindGroup | undefined;
  private texture: DeviceTexture | undefined;

  private isShown = false;
  private readonly device: Device;

  constructor(
    { device, shaders, formats }: FeatureHost,
    private readonly environments: EnvironmentStore,
  ) {
    this.device = device;
    this.pipelines = new AroundPipelines(device, 'backdrop', shaders.backdrop, {
      depth: { format: formats.depth, compare: 'equal', write: false },
      targets: [{ format: formats.color }],
      sampleCount: formats.sampleCount,
    });
    this.block = new UniformBlock(device, 'backdrop', 4);
  }

  prepare(
    { scene, state: { view }, given: { height, wholeHeight }, frame }: FrameAt,
    full: FullPipelines,
  ): void {
    const { device, environments } = this;
    const { backdrop, imageLight: environment } = scene;
    this.isShown = backdrop !== undefined;
    if (!backdrop) return;
    // It turns with the environment and is as bright, unless it says otherwise.
    const { panorama, blur = 0, intensity, rotation } = backdrop;
    const texture = environments.panorama(panorama, frame);
    if (texture !== this.texture) {
      this.texture = texture;
      this.group?.dispose();
      this.group = device.createBindGroup({
        label: 'backdrop',
        entries: [
          { binding: 0, buffer: this.block.buffer },
          { binding: 1, texture },
          { binding: 2, sampler: environments.panoramaSampler },
        ],
      });
    }
    this.pipeline = this.pipelines.of(full);
    const { values } = this.block;
    writeTurn(values, 0, rotation ?? environment?.rotation ?? 0);
    values[2] = intensity ?? environment?.intensity ?? 1;
    // As many pixels of the panorama as of the picture; the roughest light is seen as blurred as 16 pixels round.
    const fieldOfView = 2 * Math.atan(wholeHeight / height / view.projection[5]!);
    const pixels = (panorama.height * fieldOfView) / Math.PI;
    const most = Math.max(0, Math.log2(panorama.width / 16));
    values[3] = Math.max(0, Math.log2(pixels / wholeHeight), blur * most);
    this.block.upload();
  }

  drawBehind(pass: RenderPass, frameGroup: DeviceBindGroup): void {
    if (!this.isShown) return;
    pass.setPipeline(this.pipeline!); // made by prepare, as the group
    pass.setBindGroup(0, frameGroup);
    pass.setBindGroup(1, this.group!);
    pass.draw(3);
  }
}

/** Shaders turn directions back, from the world into the panorama. */
export function writeTurn(out: Float32Array, at: number, rotation: number): void {
  out[at] = Math.cos(rotation);
  out[at + 1] = Math.sin(rotation);
}
