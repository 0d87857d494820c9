import {
  MATERIAL_FLOATS,
  type MaterialKind,
  type MaterialPage,
  packMaterial,
  PAGE_SLOTS,
  TEXTURE_SLOTS,
} from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceBuffer, DeviceTexture } from '../gpu/device.js';
import {
  BINDING_BASE_COLOR_SAMPLER,
  BINDING_BASE_COLOR_TEXTURE,
  BINDING_EMISSIVE_SAMPLER,
  BINDING_EMISSIVE_TEXTURE,
  BINDING_MATERIALS,
  BINDING_METALLIC_ROUGHNESS_SAMPLER,
  BINDING_METALLIC_ROUGHNESS_TEXTURE,
  BINDING_NORMAL_SAMPLER,
  BINDING_NORMAL_TEXTURE,
  BINDING_OCCLUSION_SAMPLER,
  BINDING_OCCLUSION_TEXTURE,
} from '../compiled/layouts.js';
import type { Messages } from '#messages';
import type { TextureStore } from './texture-store.js';
import { freeUnused } from './kept.js';

/** A kind of materials on the GPU: the table in which they lie, and the textures that they share. */
export interface GpuMaterial {
  group: DeviceBindGroup;
  textures: (DeviceTexture | undefined)[];
  /** The objects that the textures were made of. */
  of: MaterialKind['traits'];
  lastUsed: number;
}

/** A page of materials in a uniform buffer. */
interface Table {
  buffer: DeviceBuffer;
  packed: Float32Array;
  lastUsed: number;
}

/** In the order of the slots, as those of the samplers. */
const TEXTURE_BINDINGS = [
  BINDING_BASE_COLOR_TEXTURE,
  BINDING_METALLIC_ROUGHNESS_TEXTURE,
  BINDING_NORMAL_TEXTURE,
  BINDING_OCCLUSION_TEXTURE,
  BINDING_EMISSIVE_TEXTURE,
] as const;
const SAMPLER_BINDINGS = [
  BINDING_BASE_COLOR_SAMPLER,
  BINDING_METALLIC_ROUGHNESS_SAMPLER,
  BINDING_NORMAL_SAMPLER,
  BINDING_OCCLUSION_SAMPLER,
  BINDING_EMISSIVE_SAMPLER,
] as const;

const SRGB = new Set<string>(['baseColorTexture', 'emissiveTexture']);

/**
 * Keeps materials packed on the GPU, in tables that shaders read by an instance's number. Materials are plain objects
 * that may be written to at any time, so every material that is drawn is packed and compared each frame; only what
 * differs is uploaded.
 */
export class MaterialStore {
  private readonly known = new Map<MaterialKind, GpuMaterial>();
  private readonly tables = new Map<MaterialPage, Table>();

  constructor(
    private readonly device: Device,
    private readonly textures: TextureStore,
    private readonly messages: Messages,
  ) {}

  get(kind: MaterialKind, frame: number): GpuMaterial {
    const table = this.tableOf(kind.page, frame);
    let found = this.known.get(kind);
    if (!found) {
      const textures = TEXTURE_SLOTS.map((_, i) => this.textureOf(kind, i, frame));
      found = { group: this.bind(kind, table, textures), textures, of: kind.traits, lastUsed: frame };
      this.known.set(kind, found);
    } else if (found.lastUsed !== frame) {
      this.refresh(kind, table, found, frame);
    }
    found.lastUsed = frame;
    return found;
  }

  sweep(frame: number): void {
    freeUnused(this.known, frame, ({ group }) => group.dispose());
    freeUnused(this.tables, frame, ({ buffer }) => buffer.dispose());
  }

  /** Uploads what differs of a page, once a frame. */
  private tableOf(page: MaterialPage, frame: number): Table {
    let table = this.tables.get(page);
    if (!table) {
      const packed = new Float32Array(PAGE_SLOTS * MATERIAL_FLOATS);
      const size = packed.byteLength;
      const buffer = this.device.createBuffer({ label: 'materials', usage: 'uniform', size });
      this.tables.set(page, (table = { buffer, packed, lastUsed: frame - 1 }));
    }
    if (table.lastUsed === frame) return table;
    table.lastUsed = frame;
    const { slots } = page;
    for (let slot = 0; slot < slots.length; slot++) {
      const material = slots[slot];
      const at = slot * MATERIAL_FLOATS;
      if (!material || !packMaterial(material, table.packed, at)) continue;
      this.messages.numbers(material, table.packed.subarray(at, at + MATERIAL_FLOATS));
      this.device.writeBuffer(table.buffer, at * 4, table.packed, at, MATERIAL_FLOATS);
    }
    return table;
  }

  private refresh(kind: MaterialKind, table: Table, gpu: GpuMaterial, frame: number): void {
    let differs = kind.traits !== gpu.of;
    gpu.of = kind.traits;
    for (let i = 0; i < TEXTURE_SLOTS.length; i++) {
      const texture = this.textureOf(kind, i, frame);
      if (texture === gpu.textures[i]) continue;
      gpu.textures[i] = texture;
      differs = true;
    }
    if (!differs) return;
    this.textures.leavings.note();
    gpu.group.dispose();
    gpu.group = this.bind(kind, table, gpu.textures);
  }

  private textureOf({ traits }: MaterialKind, i: number, frame: number): DeviceTexture | undefined {
    const texture = traits.textures[i];
    return texture && this.textures.get(texture, SRGB.has(TEXTURE_SLOTS[i]!), frame); // one a slot
  }

  private bind(
    { traits }: MaterialKind,
    { buffer }: Table,
    textures: (DeviceTexture | undefined)[],
  ): DeviceBindGroup {
    const entries: BindGroupEntry[] = [{ binding: BINDING_MATERIALS, buffer }];
    TEXTURE_SLOTS.forEach((_, i) => {
      // One a slot.
      entries.push({ binding: TEXTURE_BINDINGS[i]!, texture: textures[i] ?? this.textures.white });
      entries.push({
        binding: SAMPLER_BINDINGS[i]!,
        sampler: this.textures.sampler(traits.textures[i]?.sampler),
      });
    });
    return this.device.createBindGroup({ label: 'materials', entries });
  }
}
