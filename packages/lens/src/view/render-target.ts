import type { Image, Texture } from '@umber-lens/core/engine';
import type { Device, DeviceTexture, TextureFormat, TextureShape, TypedNumbers } from '../gpu/device.js';

/** What a target is made with. */
export interface TargetOptions {
  /** Pixels. */
  width: number;
  height: number;
  /**
   * Default `rgba8unorm`: what a screen shows, sRGB-encoded, premultiplied. Those with floats hold linear light, as it is shown:
   * `look.toneMapping: 'none'` and an `exposure` below 0 keep what is brighter than white.
   */
  format?: TextureFormat;
  /** Several pictures: as many as `layers` says, or the six of a cube. `draw` takes the number of one. Default one picture. */
  shape?: TextureShape;
  layers?: number;
}

/** A texture to draw into, to be shown on things and to be read back from. */
export interface RenderTarget {
  readonly width: number;
  readonly height: number;
  readonly format: TextureFormat;
  /**
   * What was drawn into it last, for any texture of a material, setting of a shader or map of an effect: on the same GPU, without being read
   * back. A scene may show the target that it is drawn into: it shows the picture of before then. Of a target with several
   * pictures it is the first.
   */
  readonly texture: Texture;
  /** Its own texture on the GPU, for pipelines made by hand. Another one after a loss of the GPU. */
  readonly deviceTexture: DeviceTexture;
  /**
   * Top row first. `rgba8unorm`: sRGB-encoded RGBA, premultiplied, 4 bytes a pixel. Floats as numbers.
   *
   * @param layer which of several pictures, default the first
   */
  read<T extends TypedNumbers = Uint8Array>(layer?: number): Promise<T>;
  dispose(): void;
}

/** A target with what of it is shown on things. */
export class LensTarget implements RenderTarget {
  readonly width: number;
  readonly height: number;
  readonly format: TextureFormat;
  readonly texture: Texture;
  /** @internal */
  held!: DeviceTexture; // made by the constructor
  private readonly image: Image;

  constructor(
    private device: Device,
    private readonly options: TargetOptions,
    private readonly onDispose: () => void,
  ) {
    const { width, height, format = 'rgba8unorm' } = options;
    this.width = width;
    this.height = height;
    this.format = format;
    const content = { kind: 'target', width, height, source: this } as const;
    this.image = { name: 'target', content, version: 0 };
    this.texture = { image: this.image, sampler: { wrapS: 'clamp-to-edge', wrapT: 'clamp-to-edge' } };
    this.remake(device);
  }

  get deviceTexture(): DeviceTexture {
    return this.held;
  }

  /** After a loss, the same on a new device. */
  remake(device: Device): void {
    const { options, format } = this;
    this.device = device;
    this.held = device.createTexture({ ...options, label: 'target', format, renderable: true });
    this.drawn();
  }

  /** Has what shows it look again. */
  drawn(): void {
    this.image.version!++; // given by the constructor
  }

  async read<T extends TypedNumbers = Uint8Array>(layer = 0): Promise<T> {
    return (await this.device.readTexture(this.held, { layer })) as T;
  }

  dispose(): void {
    this.onDispose();
    this.held.dispose();
  }
}
