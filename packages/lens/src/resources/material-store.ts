import { type Material, MATERIAL_FLOATS, packMaterial, TEXTURE_SLOTS } from '@umber-lens/core';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceBuffer, DeviceTexture } from '../gpu/device.js';
import type { Messages } from '#messages';
import type { TextureStore } from './texture-store.js';

/** A material on the GPU: a bind group over a slot of a shared uniform buffer. */
export interface GpuMaterial {
  group: DeviceBindGroup;
  /** Bytes from the start of the group's buffer. */
  offset: number;
  packed: Float32Array;
  textures: (DeviceTexture | undefined)[];
  lastUsed: number;
  page: Page;
}

interface Page {
  buffer: DeviceBuffer;
  free: number[];
}

const SLOTS_A_PAGE = 64;
const SRGB = new Set<string>(['baseColorTexture', 'emissiveTexture']);

/**
 * Keeps materials packed on the GPU. Materials are plain objects that may be written to at any
 * time, so every material that is drawn is packed and compared each frame; only what differs is
 * uploaded.
 */
export class MaterialStore {
  private readonly known = new Map<Material, GpuMaterial>();
  private readonly pages: Page[] = [];
  private readonly slotBytes: number;

  constructor(
    private readonly device: Device,
    private readonly textures: TextureStore,
    private readonly messages: Messages,
  ) {
    const alignment = device.limits.uniformAlignment;
    this.slotBytes = Math.ceil((MATERIAL_FLOATS * 4) / alignment) * alignment;
  }

  get(material: Material, frame: number): GpuMaterial {
    let found = this.known.get(material);
    if (!found) {
      found = this.create(material, frame);
      this.known.set(material, found);
    } else if (found.lastUsed !== frame) {
      this.refresh(material, found, frame);
    }
    found.lastUsed = frame;
    return found;
  }

  sweep(frame: number): void {
    for (const [material, gpu] of this.known) {
      if (gpu.lastUsed >= frame) continue;
      gpu.group.dispose();
      gpu.page.free.push(gpu.offset);
      this.known.delete(material);
    }
  }

  private create(material: Material, frame: number): GpuMaterial {
    let page = this.pages.find(({ free }) => free.length > 0);
    if (!page) {
      const buffer = this.device.createBuffer({
        label: 'materials',
        usage: 'uniform',
        size: this.slotBytes * SLOTS_A_PAGE,
      });
      page = {
        buffer,
        free: Array.from({ length: SLOTS_A_PAGE }, (_, i) => (SLOTS_A_PAGE - 1 - i) * this.slotBytes),
      };
      this.pages.push(page);
    }
    const offset = page.free.pop()!; // a page with a free slot was chosen or made
    const packed = new Float32Array(MATERIAL_FLOATS);
    packMaterial(material, packed, 0);
    this.messages.numbers(material, packed);
    this.device.writeBuffer(page.buffer, offset, packed);
    const textures = TEXTURE_SLOTS.map((slot) => this.textureOf(material, slot, frame));
    return { group: this.bind(material, page, textures), offset, packed, textures, lastUsed: frame, page };
  }

  private refresh(material: Material, gpu: GpuMaterial, frame: number): void {
    if (packMaterial(material, gpu.packed, 0)) {
      this.messages.numbers(material, gpu.packed);
      this.device.writeBuffer(gpu.page.buffer, gpu.offset, gpu.packed);
    }
    let differs = false;
    for (let i = 0; i < TEXTURE_SLOTS.length; i++) {
      const texture = this.textureOf(material, TEXTURE_SLOTS[i]!, frame); // i < length
      if (texture === gpu.textures[i]) continue;
      gpu.textures[i] = texture;
      differs = true;
    }
    if (!differs) return;
    gpu.group.dispose();
    gpu.group = this.bind(material, gpu.page, gpu.textures);
  }

  private textureOf(
    material: Material,
    slot: (typeof TEXTURE_SLOTS)[number],
    frame: number,
  ): DeviceTexture | undefined {
    const use = material[slot];
    return use && this.textures.get(use.texture, SRGB.has(slot), frame);
  }

  private bind(material: Material, page: Page, textures: (DeviceTexture | undefined)[]): DeviceBindGroup {
    const entries: BindGroupEntry[] = [
      { binding: 0, buffer: page.buffer, offset: 0, size: MATERIAL_FLOATS * 4 },
    ];
    TEXTURE_SLOTS.forEach((slot, i) => {
      entries.push({ binding: 1 + i, texture: textures[i] ?? this.textures.white });
      entries.push({ binding: 6 + i, sampler: this.textures.sampler(material[slot]?.texture.sampler) });
    });
    return this.device.createBindGroup({ label: material.name ?? 'material', entries });
  }
}
