import type { Image, Texture } from '@umber-lens/core/engine';
import { mipLevels } from '../gpu/sizes.js';
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
  /**
   * Whether cubes and arrays have smaller levels of detail, made when a shader reads what was drawn. `texture` of a target with one picture
   * always has them. Default false.
   */
  levels?: boolean;
  /** Samples of a pixel while it is drawn into: 1, or 4 for smooth edges. Default: what the lens was opened with. */
  samples?: 1 | 4;
  /** Whether `depth` tells how far away what was drawn is. Default false. */
  depth?: boolean;
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
  /**
   * Of a target that was made with `depth`: metres along the camera's way of looking to what is opaque, in red; 0 where nothing is. For a setting
   * of a shader, as data.
   */
  readonly depth: Texture | undefined;
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

/** Shows elsewhere what is drawn into a target. */
export interface TargetShow {
  /** Before it is drawn into. */
  follow(): void;
  /** On another device, too. @throws LensError `lens/canvas` */
  open(device: Device): void;
  show(): void;
  dispose(): void;
}

/** A target with what of it is shown on things. */
export class LensTarget implements RenderTarget {
  width: number;
  height: number;
  readonly format: TextureFormat;
  readonly texture: Texture;
  readonly depth: Texture | undefined;
  /** @internal */
  held!: DeviceTexture; // made by the constructor
  /** @internal Where it is shown. */
  shown: TargetShow | undefined;
  /** @internal Metres, where they are asked for. */
  metres: LensTarget | undefined;
  private readonly image: Image;
  /** Of the picture that its levels were made of. */
  private leveled = 0;

  constructor(
    private device: Device,
    private options: TargetOptions,
    private readonly onDispose: () => void,
  ) {
    const { width, height, format = 'rgba8unorm' } = options;
    this.width = width;
    this.height = height;
    this.format = format;
    const content = { kind: 'target', width, height, source: this } as const;
    this.image = { name: 'target', content, version: 0 };
    this.texture = { image: this.image, sampler: { wrapS: 'clamp-to-edge', wrapT: 'clamp-to-edge' } };
    if (options.depth) {
      this.metres = new LensTarget(device, { width, height, format: 'r16float' }, () => undefined);
      const sampler = { magFilter: 'nearest', minFilter: 'nearest', mipmapFilter: 'nearest' } as const;
      this.depth = { image: this.metres.image, sampler: { ...this.texture.sampler, ...sampler } };
    }
    this.remake(device);
  }

  get deviceTexture(): DeviceTexture {
    return this.held;
  }

  /** @internal Has it as large as where it is shown. */
  resize(width: number, height: number): void {
    if (width === this.width && height === this.height) return;
    this.options = { ...this.options, width, height };
    this.width = width;
    this.height = height;
    this.image.content = { kind: 'target', width, height, source: this };
    this.held.dispose();
    this.remake(this.device);
  }

  /** After a loss, the same on a new device. */
  remake(device: Device): void {
    const { options, format } = this;
    const { height, layers, levels = false, shape, width } = options;
    this.device = device;
    this.held = device.createTexture({
      ...{ label: 'target', width, height, format, renderable: true },
      ...(shape ? { shape } : {}),
      ...(layers === undefined ? {} : { layers }),
      ...(levels ? { mipLevelCount: mipLevels(width, height) } : {}),
    });
    this.metres?.remake(device);
    this.shown?.open(device);
    if (options.samples) this.held.samples = Math.min(options.samples, device.limits.maxSamples);
    if (this.metres) this.held.metres = this.metres.held;
    this.touch();
  }

  /** When something was drawn into it. */
  drawn(): void {
    this.touch();
    this.shown?.show();
  }

  /** Has what shows it look again. */
  private touch(): void {
    this.image.version!++; // given by the constructor
    this.metres?.touch();
  }

  /** @internal Its texture, for those who read all of its pictures: with its levels. To be called outside a pass. */
  whole(): DeviceTexture {
    const { version } = this.image;
    if (this.held.mipLevelCount > 1 && this.leveled !== version) this.device.generateMipmaps(this.held);
    this.leveled = version!; // given by the constructor
    return this.held;
  }

  async read<T extends TypedNumbers = Uint8Array>(layer = 0): Promise<T> {
    return (await this.device.readTexture(this.held, { layer })) as T;
  }

  dispose(): void {
    this.onDispose();
    this.shown?.dispose();
    this.metres?.dispose();
    this.held.dispose();
  }
}
