import {
  inWords,
  LensError,
  type Material,
  type MaterialShader,
  type SettingValue,
  type Texture,
} from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceBuffer, DeviceTexture } from '../gpu/device.js';
import type { Messages } from '#messages';
import type { TextureStore } from './texture-store.js';
import { freeUnused } from './kept.js';

/** Settings of one material on the GPU. */
export interface GpuSettings {
  group: DeviceBindGroup;
  /** The frame in which something in them was other than before. */
  changedAt: number;
  lastUsed: number;
}

interface Entry extends GpuSettings {
  shader: MaterialShader;
  /** The shader's text, to notice that the object was given new contents. */
  wgsl: string;
  buffer: DeviceBuffer | undefined;
  packed: Float32Array;
  textures: DeviceTexture[];
}

/**
 * Keeps the settings of shader materials on the GPU. Like a material's own numbers they may be written to
 * at any time: they are packed and compared each frame, and only what differs is uploaded.
 */
export class SettingsStore {
  private readonly known = new Map<Material, Entry>();
  private readonly blanks = new Map<Several, DeviceTexture>();

  constructor(
    private readonly device: Device,
    private readonly textures: TextureStore,
    private readonly messages: Messages,
  ) {}

  /** Undefined for shaders that have neither settings nor textures. */
  get(material: Material, shader: MaterialShader, frame: number): GpuSettings | undefined {
    if (shader.settingsBytes === 0 && shader.textures.length === 0) return undefined;
    let entry = this.known.get(material);
    if (entry && (entry.shader !== shader || entry.wgsl !== shader.wgsl)) {
      this.free(material, entry);
      entry = undefined;
    }
    if (!entry) this.known.set(material, (entry = this.create(material, shader, frame)));
    else if (entry.lastUsed !== frame) this.refresh(material, entry, frame);
    entry.lastUsed = frame;
    return entry;
  }

  sweep(frame: number): void {
    freeUnused(this.known, frame, (entry, material) => this.free(material, entry));
  }

  private free(material: Material, entry: Entry): void {
    entry.group.dispose();
    entry.buffer?.dispose();
    this.known.delete(material);
  }

  private create(material: Material, shader: MaterialShader, frame: number): Entry {
    this.messages.settings(material, shader);
    const { settingsBytes } = shader;
    const label = `settings of ${material.name ?? shader.file}`;
    const packed = new Float32Array(settingsBytes / 4).fill(Number.NaN);
    const buffer =
      settingsBytes > 0
        ? this.device.createBuffer({ label, usage: 'uniform', size: settingsBytes })
        : undefined;
    const textures = shader.textures.map((setting) => this.textureOf(material, setting, frame));
    const entry = {
      shader,
      wgsl: shader.wgsl,
      buffer,
      packed,
      textures,
      changedAt: frame,
      lastUsed: frame,
    };
    if (buffer) {
      packed.fill(0);
      packSettings(shader, material.settings, packed);
      this.messages.numbers(material, packed);
      this.device.writeBuffer(buffer, 0, packed);
    }
    return { ...entry, group: this.bind(entry, material) };
  }

  private refresh(material: Material, entry: Entry, frame: number): void {
    const { shader, buffer, packed, textures } = entry;
    if (buffer && packSettings(shader, material.settings, packed)) {
      this.messages.numbers(material, packed);
      this.device.writeBuffer(buffer, 0, packed);
      entry.changedAt = frame;
    }
    let differs = false;
    for (let i = 0; i < shader.textures.length; i++) {
      const texture = this.textureOf(material, shader.textures[i]!, frame); // i < length
      if (texture === textures[i]) continue;
      textures[i] = texture;
      differs = true;
    }
    if (!differs) return;
    entry.changedAt = frame;
    this.textures.leavings.note();
    entry.group.dispose();
    entry.group = this.bind(entry, material);
  }

  private textureOf(
    material: Material,
    { kind, name, shape }: MaterialShader['textures'][number],
    frame: number,
  ): DeviceTexture {
    const texture = textureIn(material.settings?.[name]);
    if (shape) return texture ? severalOf(texture, name, shape) : this.blankOf(shape);
    return texture ? this.textures.get(texture, kind === 'color', frame) : this.textures.white;
  }

  /** Black, in place of what is not given. */
  private blankOf(shape: Several): DeviceTexture {
    let found = this.blanks.get(shape);
    if (!found) {
      const options = { label: `no ${shape}`, width: 1, height: 1, format: 'rgba8unorm' } as const;
      found = this.device.createTexture({ ...options, shape, layers: shape === 'cube' ? 6 : 1 });
      this.blanks.set(shape, found);
    }
    return found;
  }

  private bind({ shader, buffer, textures }: Omit<Entry, 'group'>, material: Material): DeviceBindGroup {
    const entries: BindGroupEntry[] = buffer ? [{ binding: 0, buffer }] : [];
    shader.textures.forEach(({ name, binding, samplerBinding }, i) => {
      entries.push({ binding, texture: textures[i]! }); // one a texture of the shader
      if (samplerBinding === undefined) return;
      const sampler = this.textures.sampler(textureIn(material.settings?.[name])?.sampler);
      entries.push({ binding: samplerBinding, sampler });
    });
    return this.device.createBindGroup({ label: `settings of ${material.name ?? shader.file}`, entries });
  }
}

type Several = NonNullable<MaterialShader['textures'][number]['shape']>;

/** All pictures of a target. @throws LensError `material/setting` */
function severalOf({ image: { content } }: Texture, name: string, shape: Several): DeviceTexture {
  const target = content.kind === 'target' ? (content.source as { whole(): DeviceTexture }) : undefined;
  const whole = target?.whole();
  if (whole?.shape !== shape)
    throw new LensError(
      'material/setting',
      `the setting "${name}" is ${whole ? `of shape ${whole.shape}` : 'a picture'}`,
      {
        hint: `Give the texture of a target: lens.createTarget({ shape: '${shape}', … }).`,
      },
    );
  return whole;
}

/** The texture of a setting: by itself, or as `loadTexture` and models give it. */
export const textureIn = (value: SettingValue | undefined): Texture | undefined => {
  if (typeof value !== 'object' || value === null) return undefined;
  return 'image' in value ? value : 'texture' in value ? value.texture : undefined;
};

const noNumber = (name: string, type: string, given: unknown): LensError =>
  new LensError('material/setting', `the setting "${name}" is ${inWords(given)}`, {
    hint: `Its type is ${type}.`,
  });

/**
 * Writes settings as their structure lies in a uniform buffer; what is not given has its default. Columns
 * of matrices with three rows are padded to four floats.
 *
 * @returns whether any number differs from what `out` held
 */
export function packSettings(
  shader: MaterialShader,
  given: Material['settings'],
  out: Float32Array,
): boolean {
  let differs = false;
  const whole = new Uint32Array(out.buffer, out.byteOffset, out.length);
  const integers = new Int32Array(out.buffer, out.byteOffset, out.length);
  for (let i = 0; i < shader.settings.length; i++) {
    const { name, type, offset, default: usual } = shader.settings[i]!; // i < length
    const value = given?.[name];
    const source = value === undefined || textureIn(value) ? usual : (value as number | ArrayLike<number>);
    if (typeof source !== 'number' && typeof (source as ArrayLike<number> | null)?.length !== 'number')
      throw noNumber(name, type, source);
    if (typeof source === 'string') throw noNumber(name, type, source);
    const target =
      type === 'u32' || type.endsWith('<u32>')
        ? whole
        : type === 'i32' || type.endsWith('<i32>')
          ? integers
          : out;
    const at = offset / 4;
    if (typeof source === 'number') {
      if (target[at] === (target === out ? Math.fround(source) : source)) continue;
      target[at] = source;
      differs = true;
      continue;
    }
    const rows = type.startsWith('mat') ? Number(type[5]) : source.length;
    const step = rows === 3 && type.startsWith('mat') ? 4 : rows;
    for (let k = 0; k < source.length; k++) {
      const place = at + Math.floor(k / rows) * step + (k % rows);
      const number = source[k]!; // k < length
      if (target[place] === (target === out ? Math.fround(number) : number)) continue;
      target[place] = number;
      differs = true;
    }
  }
  return differs;
}
