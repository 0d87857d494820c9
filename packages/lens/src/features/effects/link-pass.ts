import type { Effect, Material, MaterialShader } from '@umber-lens/core/engine';
import type { EffectShaders } from '../../compiled/lens-shaders.js';
import type {
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceSampler,
  DeviceShader,
  DeviceTexture,
  RenderPass,
  TextureFormat,
} from '../../gpu/device.js';
import { freeUnused } from '../../resources/kept.js';
import type { SettingsStore } from '../../resources/settings-store.js';
import type { TextureStore } from '../../resources/texture-store.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import type { EffectLink } from './effect-links.js';
import type { EffectMoment } from './effect-moment.js';

/** Where nothing is. */
export const BLACK = [0, 0, 0, 0];

/** Full-screen passes of all effects, by shader and by the format that they draw into. */
export class EffectPipelines {
  /** By name, and those of authors by their text: files change while serving. */
  private readonly shaders = new Map<string, DeviceShader>();
  private readonly pipelines = new Map<string, DevicePipeline>();
  /** For those that read between pixels. */
  readonly between: DeviceSampler;

  constructor(
    private readonly device: Device,
    private readonly texts: EffectShaders,
  ) {
    // What is at one edge of a picture is not seen at the other.
    this.between = device.createSampler({
      ...{ magFilter: 'linear', minFilter: 'linear' },
      ...{ addressModeU: 'clamp-to-edge', addressModeV: 'clamp-to-edge' },
    });
  }

  for({ shader: given, constants }: EffectLink, format: TextureFormat): DevicePipeline {
    const own = typeof given === 'string' ? undefined : given;
    const name = own ? own.wgsl : (given as string);
    const key = `${name} ${format} ${JSON.stringify(constants)}`;
    let found = this.pipelines.get(key);
    if (!found) {
      const label = own ? own.file : name;
      let shader = this.shaders.get(name);
      if (!shader) {
        const text = own ?? this.texts[given as keyof EffectShaders];
        this.shaders.set(name, (shader = this.device.createShader({ label, ...text })));
      }
      found = this.device.createRenderPipeline({ label, shader, constants, targets: [{ format }] });
      this.pipelines.set(key, found);
    }
    return found;
  }
}

/** A link with what it has on the GPU. */
export class LinkPass {
  /** The texture that it reads besides, as it is in this frame. */
  texture: DeviceTexture | undefined;
  private readonly block: UniformBlock;
  /** By the first picture that it reads: targets of several sizes take turns. */
  private readonly groups = new Map<
    DeviceTexture,
    { group: DeviceBindGroup; others: readonly (DeviceTexture | undefined)[]; lastUsed: number }
  >();
  /** What it made of the frame before, by whose picture it is: for those who ask. */
  private readonly before = new Map<object, { texture: DeviceTexture; lastUsed: number }>();
  private viewer: object | undefined;
  private own: DeviceBindGroup | undefined;
  /** What it reads besides. */
  private readonly table: { values: Float32Array; buffer: DeviceBuffer } | undefined;
  private pipeline: DevicePipeline | undefined;
  private format: TextureFormat | undefined;

  constructor(
    private readonly device: Device,
    private readonly pipelines: EffectPipelines,
    private readonly textures: TextureStore,
    private readonly settings: SettingsStore,
    readonly link: EffectLink,
  ) {
    this.block = new UniformBlock(device, link.name, link.floats);
    if (!link.table) return;
    const values = new Float32Array(link.table.floats);
    const size = values.byteLength;
    this.table = { values, buffer: device.createBuffer({ label: link.name, usage: 'storage', size }) };
  }

  prepare(effects: readonly Effect[], frame: number, at: EffectMoment): void {
    const { texture } = this.link;
    this.viewer = at.viewer;
    if (texture) {
      const given = texture(effects);
      this.texture = given?.image ? this.textures.get(given, false, frame) : this.textures.white;
    }
    const sent = this.table ? this.link.table!.write(this.table.values, effects) : 0; // a link has both or none
    if (sent > 0) this.device.writeBuffer(this.table!.buffer, 0, this.table!.values, 0, sent);
    const { settings, shader } = this.link;
    // Effects have settings as materials do.
    if (settings)
      this.own = this.settings.get(settings(effects) as Material, shader as MaterialShader, frame)?.group;
    this.link.write(this.block.values, this.block.words, effects, at);
    this.block.upload();
  }

  /** What it made of the frame before; nothing at first. To be called outside a pass. */
  beforeOf({ width, height, format }: DeviceTexture, frame: number): DeviceTexture {
    const viewer = this.viewer!; // told by prepare
    let found = this.before.get(viewer);
    if (found?.texture.width !== width || found.texture.height !== height) {
      found?.texture.dispose();
      const texture = this.device.createTexture({
        label: `${this.link.name} before`,
        ...{ width, height, format },
        renderable: true,
      });
      this.device.beginRenderPass({ colorAttachments: [{ texture, clearValue: BLACK }] }).end();
      this.before.set(viewer, (found = { texture, lastUsed: frame }));
    }
    found.lastUsed = frame;
    return found.texture;
  }

  /** @param others what it reads besides: a second picture, depths, what it made of the frame before */
  draw(
    pass: RenderPass,
    first: DeviceTexture,
    others: readonly (DeviceTexture | undefined)[],
    format: TextureFormat,
    frame: number,
  ): void {
    if (format !== this.format) {
      this.format = format;
      this.pipeline = this.pipelines.for(this.link, format);
    }
    pass.setPipeline(this.pipeline!); // made with its format
    pass.setBindGroup(0, this.groupOf(first, others, frame));
    if (this.own) pass.setBindGroup(2, this.own);
    pass.draw(3);
  }

  private groupOf(
    first: DeviceTexture,
    others: readonly (DeviceTexture | undefined)[],
    frame: number,
  ): DeviceBindGroup {
    let held = this.groups.get(first);
    if (held && !others.every((texture, k) => texture === held!.others[k])) {
      held.group.dispose();
      held = undefined;
    }
    if (!held) {
      const [second, depth, before, normal, velocity, things] = others;
      const entries = [
        { binding: 0, texture: first },
        { binding: 1, buffer: this.block.buffer },
        ...(second ? [{ binding: 2, texture: second }] : []),
        ...(this.table ? [{ binding: 2, buffer: this.table.buffer }] : []),
        ...(this.link.isSampled ? [{ binding: 3, sampler: this.pipelines.between }] : []),
        ...(depth ? [{ binding: 4, texture: depth }] : []),
        ...(before ? [{ binding: 5, texture: before }] : []),
        ...(normal ? [{ binding: 6, texture: normal }] : []),
        ...(velocity ? [{ binding: 7, texture: velocity }] : []),
        ...(things ? [{ binding: 8, texture: things }] : []),
      ];
      const group = this.device.createBindGroup({ label: this.link.name, entries });
      this.groups.set(first, (held = { group, others: [...others], lastUsed: frame }));
    }
    held.lastUsed = frame;
    return held.group;
  }

  /** Frees groups of pictures that no frame since `frame` has read. */
  sweep(frame: number): void {
    freeUnused(this.groups, frame, ({ group }) => group.dispose());
    freeUnused(this.before, frame, ({ texture }) => texture.dispose());
  }

  dispose(): void {
    this.sweep(Infinity);
    this.block.buffer.dispose();
    this.table?.buffer.dispose();
  }
}
