import type { Image, Sampler, Texture } from '@umber-lens/core';
import type { Device, DeviceSampler, DeviceTexture } from '../gpu/device.js';
import { mipLevels } from '../gpu/sizes.js';
import { decodeImage } from '../load/decode-image.js';

interface Entry {
  texture: DeviceTexture;
  lastUsed: number;
}

/** Textures and samplers on the GPU, made when first drawn and kept while drawn. */
export class TextureStore {
  /** One white pixel, in place of textures that are absent or not decoded yet. */
  readonly white: DeviceTexture;
  /** Counts pictures that finished decoding, so that users know to look again. */
  decodedCount = 0;
  private readonly linear = new Map<Image, Entry>();
  private readonly srgb = new Map<Image, Entry>();
  private readonly samplers = new Map<string, DeviceSampler>();
  private readonly decoding = new Set<Image>();
  private isDisposed = false;

  constructor(private readonly device: Device) {
    this.white = device.createTexture({ label: 'white', width: 1, height: 1, format: 'rgba8unorm' });
    device.writeTexture(this.white, new Uint8Array([255, 255, 255, 255]));
  }

  /** @param srgb whether the picture holds sRGB-encoded colour rather than data */
  get(texture: Texture, srgb: boolean, frame: number): DeviceTexture {
    const { image } = texture;
    const map = srgb ? this.srgb : this.linear;
    let entry = map.get(image);
    if (!entry) {
      if (image.content.kind === 'encoded') {
        this.decode(image);
        return this.white;
      }
      entry = { texture: this.upload(image, srgb), lastUsed: frame };
      map.set(image, entry);
    }
    entry.lastUsed = frame;
    return entry.texture;
  }

  sampler(sampler: Sampler = {}): DeviceSampler {
    const { magFilter = 'linear', minFilter = 'linear', mipmapFilter = 'linear' } = sampler;
    const { wrapS = 'repeat', wrapT = 'repeat' } = sampler;
    const key = `${magFilter} ${minFilter} ${mipmapFilter} ${wrapS} ${wrapT}`;
    let found = this.samplers.get(key);
    if (!found) {
      const isSmooth = magFilter === 'linear' && minFilter === 'linear' && mipmapFilter !== 'none';
      found = this.device.createSampler({
        magFilter,
        minFilter,
        mipmapFilter,
        addressModeU: wrapS,
        addressModeV: wrapT,
        maxAnisotropy: isSmooth ? 4 : 1,
      });
      this.samplers.set(key, found);
    }
    return found;
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    for (const map of [this.linear, this.srgb]) {
      for (const [image, entry] of map) {
        if (entry.lastUsed >= frame) continue;
        entry.texture.dispose();
        map.delete(image);
      }
    }
  }

  dispose(): void {
    this.isDisposed = true;
  }

  private decode(image: Image): void {
    if (this.decoding.has(image)) return;
    this.decoding.add(image);
    decodeImage(image).then(
      () => {
        if (!this.isDisposed) this.decodedCount++;
        this.decoding.delete(image);
      },
      (error: unknown) => {
        // It stays in `decoding`, so that the same damage is told once and not every frame.
        console.warn(error instanceof Error ? String(error) : 'a picture could not be decoded');
      },
    );
  }

  private upload(image: Image, srgb: boolean): DeviceTexture {
    const content = image.content as Exclude<Image['content'], { kind: 'encoded' }>; // encoded is handled by get
    const { width, height } = content;
    const texture = this.device.createTexture({
      label: image.name ?? image.uri ?? 'image',
      width,
      height,
      format: srgb ? 'rgba8unorm-srgb' : 'rgba8unorm',
      mipLevelCount: mipLevels(width, height),
    });
    if (content.kind === 'pixels') this.device.writeTexture(texture, content.data);
    else this.device.copyExternalImage(texture, content.source);
    this.device.generateMipmaps(texture);
    return texture;
  }
}
