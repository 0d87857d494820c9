import {
  LAYER_FEATURES,
  LAYER_TEXTURES,
  LAYERS_FLOATS,
  type Material,
  packLayers,
  packTransform,
  type TextureUse,
} from '@umber-lens/core/engine';
import type { PreparedBatch, PreparedScene } from '../../batches/prepared-scene.js';
import type {
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceTexture,
} from '../../gpu/device.js';
import { BINDING_LAYER_SAMPLER, BINDING_LAYER_TEXTURES, BINDING_LAYERS } from '../../compiled/layouts.js';
import { mipLevels } from '../../gpu/sizes.js';
import type { TextureStore } from '../../resources/texture-store.js';
import type { FullShaders } from '../../compiled/lens-shaders.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';
import { freeUnused } from '../../resources/kept.js';

/** Most pixels of a side of a layer: larger pictures are scaled down. */
const MOST_PIXELS = 2048;

interface GpuLayers {
  group: DeviceBindGroup;
  buffer: DeviceBuffer;
  /** Undefined without textures. */
  array: DeviceTexture | undefined;
  packed: Float32Array;
  /** What the array was made of, by texture. */
  made: readonly (DeviceTexture | undefined)[];
  lastUsed: number;
}

/**
 * Layers of materials on the GPU: their numbers, and their textures together in one array, so that a material with all of
 * them still draws where a shader may read sixteen textures. Pictures of different sizes are scaled to the largest.
 */
export class MaterialLayers implements Feature {
  /** Of materials without layers. */
  private readonly nothing: GpuLayers;
  private readonly known = new Map<Material, GpuLayers>();
  private readonly white: DeviceTexture;
  private pipeline: DevicePipeline | undefined;
  private readonly fresh = new Float32Array(LAYERS_FLOATS);

  private readonly device: Device;
  private readonly textures: TextureStore;
  private readonly shaders: FullShaders;

  constructor({ device, textures, shaders }: FeatureHost) {
    this.device = device;
    this.textures = textures;
    this.shaders = shaders;
    const size = { width: 1, height: 1, format: 'rgba8unorm' } as const;
    this.white = device.createTexture({ label: 'no layers', shape: '2d-array', layers: 1, ...size });
    device.writeTexture(this.white, new Uint8Array([255, 255, 255, 255]));
    this.nothing = this.make({}, [], 0);
  }

  prepare({ prepared, frame }: FrameAt): void {
    this.prepareUnlit(prepared, frame);
  }

  prepareUnlit({ batches }: PreparedScene, frame: number): void {
    for (const ready of batches)
      if (ready) ready.layers = this.get(ready.batch.material, ready.features, frame);
  }

  touch({ batch, features }: PreparedBatch, frame: number): void {
    this.get(batch.material, features, frame);
  }

  letGo(frame: number): void {
    this.sweep(frame);
  }

  /** What a material's pipelines bind as group 3. To be called outside a pass. */
  private get(material: Material, features: number, frame: number): DeviceBindGroup {
    if ((features & LAYER_FEATURES) === 0) return this.nothing.group;
    const pictures = LAYER_TEXTURES.map(({ key, isColor }) => {
      const use = material[key] as TextureUse | undefined;
      const texture = use && this.textures.get(use.texture, isColor, frame);
      // What is still being decoded counts as absent.
      return texture === this.textures.white ? undefined : texture;
    });
    let found = this.known.get(material);
    if (!found || pictures.some((picture, i) => picture !== found!.made[i])) {
      if (found) {
        this.free(found);
        this.textures.leavings.note();
      }
      this.known.set(material, (found = this.make(material, pictures, frame)));
    } else {
      this.pack(material, pictures, this.fresh);
      if (this.fresh.some((value, i) => value !== found!.packed[i])) {
        found.packed.set(this.fresh);
        this.device.writeBuffer(found.buffer, 0, this.fresh);
      }
    }
    found.lastUsed = frame;
    return found.group;
  }

  sweep(frame: number): void {
    freeUnused(this.known, frame, (layers) => this.free(layers));
  }

  private pack(
    material: Material,
    pictures: readonly (DeviceTexture | undefined)[],
    out: Float32Array,
  ): void {
    let next = 0;
    const layers = LAYER_TEXTURES.map((_, i) => (pictures[i] ? next++ : -1));
    packLayers(material, out, packTransform, (i) => layers[i]!); // one for each texture
  }

  private make(
    material: Material,
    pictures: readonly (DeviceTexture | undefined)[],
    frame: number,
  ): GpuLayers {
    const { device } = this;
    const packed = new Float32Array(LAYERS_FLOATS);
    this.pack(material, pictures, packed);
    const buffer = device.createBuffer({ label: 'layers', usage: 'uniform', data: packed });
    const array = this.makeArray(pictures);
    const first = LAYER_TEXTURES.find((_, i) => pictures[i]);
    const sampler = (first && (material[first.key] as TextureUse).texture.sampler) ?? {};
    const group = device.createBindGroup({
      label: `layers of ${material.name ?? 'a material'}`,
      entries: [
        { binding: BINDING_LAYERS, buffer },
        { binding: BINDING_LAYER_TEXTURES, texture: array ?? this.white },
        { binding: BINDING_LAYER_SAMPLER, sampler: this.textures.sampler(sampler) },
      ],
    });
    return { group, buffer, array, packed, made: pictures, lastUsed: frame };
  }

  /** Draws each picture into a layer of its own. */
  private makeArray(pictures: readonly (DeviceTexture | undefined)[]): DeviceTexture | undefined {
    const { device } = this;
    const present = pictures.flatMap((picture, i) =>
      picture ? [{ picture, isColor: LAYER_TEXTURES[i]!.isColor }] : [],
    ); // one for each
    if (present.length === 0) return undefined;
    const side = (of: 'width' | 'height'): number =>
      Math.min(MOST_PIXELS, Math.max(...present.map(({ picture }) => picture[of])));
    const [width, height] = [side('width'), side('height')];
    const array = device.createTexture({
      label: 'layers',
      shape: '2d-array',
      layers: present.length,
      width,
      height,
      format: 'rgba8unorm',
      mipLevelCount: mipLevels(width, height),
      renderable: true,
    });
    this.pipeline ??= device.createRenderPipeline({
      label: 'to layer',
      shader: device.createShader({ label: 'to layer', ...this.shaders.toLayer }),
      targets: [{ format: 'rgba8unorm' }],
    });
    const sampler = this.textures.sampler({ wrapS: 'clamp-to-edge', wrapT: 'clamp-to-edge' });
    present.forEach(({ picture, isColor }, layer) => {
      const level = Math.max(0, Math.log2(picture.width / width), Math.log2(picture.height / height));
      const data = new Float32Array([isColor ? 1 : 0, level, 0, 0]);
      const buffer = device.createBuffer({ label: 'to layer', usage: 'uniform', data });
      const group = device.createBindGroup({
        label: 'to layer',
        entries: [
          { binding: 0, buffer },
          { binding: 1, texture: picture },
          { binding: 2, sampler },
        ],
      });
      const pass = device.beginRenderPass({
        label: 'to layer',
        colorAttachments: [{ texture: array, layer, clearValue: [0, 0, 0, 0] }],
      });
      pass.setPipeline(this.pipeline!);
      pass.setBindGroup(0, group);
      pass.draw(3);
      pass.end();
      device.submit();
      group.dispose();
      buffer.dispose();
    });
    device.generateMipmaps(array);
    return array;
  }

  private free({ group, buffer, array }: GpuLayers): void {
    group.dispose();
    buffer.dispose();
    array?.dispose();
  }
}
