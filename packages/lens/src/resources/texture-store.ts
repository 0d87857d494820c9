import type { Image, ImageContent, Sampler, Texture } from '@umber-lens/core/engine';
import type { Device, DeviceSampler, DeviceTexture } from '../gpu/device.js';
import { mipLevels } from '../gpu/sizes.js';
import type { Messages } from '#messages';
import { openers } from './packing.js';
import { Leavings } from './leavings.js';
import type { LeveledTextures } from './leveled-textures.js';
import type { TargetTextures } from './target-textures.js';
import { freeUnused } from './kept.js';

interface Entry {
  texture: DeviceTexture;
  version: number;
  lastUsed: number;
}

/** Textures and samplers on the GPU, made when first drawn and kept while drawn. */
export class TextureStore {
  /** One white pixel, in place of textures that are absent or not decoded yet. */
  readonly white: DeviceTexture;
  /** Counts pictures that finished decoding or changed, so that users know to look again. */
  decodedCount = 0;
  /** Told when a material takes another texture. */
  readonly leavings = new Leavings();
  /** By content: images of the same picture share one texture, and one whose content is exchanged has another. */
  private readonly linear = new Map<ImageContent, Entry>();
  private readonly srgb = new Map<ImageContent, Entry>();
  /** Color that is multiplied by alpha. */
  private readonly multiplied = new Map<ImageContent, Entry>();
  private readonly samplers = new Map<string, DeviceSampler>();
  /** Contents that are being made ready, and those that could not be. */
  private readonly preparing = new WeakSet<ImageContent>();
  private leveled: LeveledTextures | undefined;
  private targets: TargetTextures | undefined;
  private opening: Promise<void> | undefined;
  private isDisposed = false;

  constructor(
    private readonly device: Device,
    private readonly messages: Messages,
    /** Loads what shows pictures that were drawn. */
    private readonly openTargets: () => Promise<TargetTextures>,
  ) {
    this.white = device.createTexture({ label: 'white', width: 1, height: 1, format: 'rgba8unorm' });
    device.writeTexture(this.white, new Uint8Array([255, 255, 255, 255]));
    openers.add(this.opener);
  }

  /** @param srgb whether the picture holds sRGB-encoded colour rather than data */
  get({ image }: Texture, srgb: boolean, frame: number): DeviceTexture {
    const { content, version = 0 } = image;
    const map = !srgb ? this.linear : image.premultiply ? this.multiplied : this.srgb;
    let entry = map.get(content);
    if (!entry) {
      if (!this.isReady(content) || (srgb && image.premultiply && !this.targets)) {
        this.prepare(image);
        return this.white;
      }
      map.set(content, (entry = { texture: this.upload(image, srgb), version, lastUsed: frame }));
    } else if (entry.version !== version) {
      entry.version = version;
      this.fill(entry.texture, image, srgb);
      this.decodedCount++;
    }
    entry.lastUsed = frame;
    return entry.texture;
  }

  sampler(sampler: Sampler = {}): DeviceSampler {
    const { magFilter = 'linear', minFilter = 'linear', mipmapFilter = 'linear' } = sampler;
    const { wrapS = 'repeat', wrapT = 'repeat', anisotropy = 4 } = sampler;
    const key = `${magFilter} ${minFilter} ${mipmapFilter} ${wrapS} ${wrapT} ${anisotropy}`;
    let found = this.samplers.get(key);
    if (!found) {
      const isSmooth = magFilter === 'linear' && minFilter === 'linear' && mipmapFilter === 'linear';
      found = this.device.createSampler({
        magFilter,
        minFilter,
        mipmapFilter,
        addressModeU: wrapS,
        addressModeV: wrapT,
        maxAnisotropy: isSmooth ? Math.max(1, Math.min(16, anisotropy)) : 1,
      });
      this.samplers.set(key, found);
    }
    return found;
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    for (const map of [this.linear, this.srgb, this.multiplied])
      freeUnused(map, frame, ({ texture }) => texture.dispose());
  }

  dispose(): void {
    this.isDisposed = true;
    openers.delete(this.opener);
  }

  /** Waits for what shows pictures that were drawn, where somebody asked for it. */
  async whenReady(): Promise<void> {
    await this.opening;
  }

  private open(): Promise<void> {
    return (this.opening ??= this.openTargets().then((targets) => void (this.targets = targets)));
  }

  /** While it lives, pictures are decoded to what its GPU takes. */
  private readonly opener = (): Promise<LeveledTextures> => this.openLeveled();

  /** Levels of textures are a part of their own, loaded when a picture first has some. */
  private async openLeveled(): Promise<LeveledTextures> {
    const { LeveledTextures } = await import('./leveled-textures.js');
    return (this.leveled ??= await LeveledTextures.open(this.device));
  }

  private isReady(content: ImageContent): boolean {
    if (content.kind === 'encoded') return false;
    if (content.kind === 'target') return this.targets !== undefined;
    if (content.kind === 'levels' && !this.leveled?.takes(content)) return false;
    return Math.max(content.width, content.height) <= this.device.limits.maxTextureSize;
  }

  /** Decodes it, fetches what its levels take, or makes it smaller. */
  private prepare(image: Image): void {
    const { content } = image;
    if (this.preparing.has(content)) return;
    this.preparing.add(content);
    this.makeReady(image).then(
      () => {
        this.preparing.delete(content);
        if (!this.isDisposed) this.decodedCount++;
      },
      (error: unknown) => {
        // It stays in `preparing`, so that the same damage is told once and not every frame.
        this.messages.fault('a picture could not be decoded', error);
      },
    );
  }

  private async makeReady(image: Image): Promise<void> {
    const { content } = image;
    if (content.kind === 'target' || image.premultiply) await this.open();
    if (content.kind === 'target') return;
    const { decodeImage } = await import('./decode-image.js');
    if (content.kind === 'levels' && !(await this.openLeveled()).takes(content) && content.encoded) {
      // It was decoded for another GPU.
      image.content = { kind: 'encoded', ...content.encoded };
    }
    await decodeImage(image);
    const { content: made } = image;
    if (made.kind === 'levels') await this.openLeveled();
    const most = this.device.limits.maxTextureSize;
    if (made.kind !== 'encoded' && Math.max(made.width, made.height) > most)
      (await import('./leveled-textures.js')).shrink(image, most, (error) =>
        this.messages.fault('a picture is too large', error),
      );
  }

  private upload(image: Image, srgb: boolean): DeviceTexture {
    const content = image.content as Exclude<ImageContent, { kind: 'encoded' }>; // it is ready
    const label = image.name ?? image.uri ?? 'image';
    if (content.kind === 'levels') return this.leveled!.upload(label, content, srgb); // it is ready
    if (content.kind === 'target') {
      const copy = this.targets!.make(label, content, srgb); // it is ready
      this.targets!.fill(copy, content, image.premultiply === true);
      return copy;
    }
    const { width, height } = content;
    const texture = this.device.createTexture({
      label,
      width,
      height,
      format: srgb ? 'rgba8unorm-srgb' : 'rgba8unorm',
      mipLevelCount: mipLevels(width, height),
    });
    this.fill(texture, image, srgb);
    return texture;
  }

  private fill(texture: DeviceTexture, { content, premultiply = false }: Image, srgb: boolean): void {
    if (content.kind === 'pixels') this.device.writeTexture(texture, content.data);
    else if (content.kind === 'target') {
      this.targets!.fill(texture, content, premultiply); // it was made
      return;
    } else if (content.kind === 'host') this.device.copyExternalImage(texture, content.source);
    else return;
    if (premultiply && srgb) this.targets!.premultiply(texture); // it is ready
    this.device.generateMipmaps(texture);
  }
}
