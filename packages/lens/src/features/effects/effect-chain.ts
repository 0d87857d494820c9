import type { Effect } from '@umber-lens/core/engine';
import type { EffectShaders } from '../../compiled/lens-shaders.js';
import { FinishPass } from '../../frame/finish-pass.js';
import type { FramePlan, ShownPart } from '../../frame/frame-plan.js';
import type { FrameGraph, GraphTexture } from '../../frame/frame-graph.js';
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
import type { TextureStore } from '../../resources/texture-store.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { type EffectLink, type EffectMoment, stagesOf } from './effect-links.js';
import { entriesOf } from './trade-links.js';

/** Full-screen passes of all effects, by shader and by the format that they draw into. */
class EffectPipelines {
  private readonly shaders = new Map<keyof EffectShaders, DeviceShader>();
  private readonly pipelines = new Map<string, DevicePipeline>();
  /** For those that read between pixels. */
  readonly between: DeviceSampler;

  constructor(
    private readonly device: Device,
    private readonly texts: EffectShaders,
  ) {
    this.between = device.createSampler({ magFilter: 'linear', minFilter: 'linear' });
  }

  for({ shader: name, constants }: EffectLink, format: TextureFormat): DevicePipeline {
    const key = `${name} ${format} ${JSON.stringify(constants)}`;
    let found = this.pipelines.get(key);
    if (!found) {
      let shader = this.shaders.get(name);
      if (!shader)
        this.shaders.set(name, (shader = this.device.createShader({ label: name, ...this.texts[name] })));
      found = this.device.createRenderPipeline({ label: name, shader, constants, targets: [{ format }] });
      this.pipelines.set(key, found);
    }
    return found;
  }
}

/** A link with what it has on the GPU. */
class LinkPass {
  /** The texture that it reads besides, as it is in this frame. */
  texture: DeviceTexture | undefined;
  private readonly block: UniformBlock;
  /** By the first picture that it reads: targets of several sizes take turns. */
  private readonly groups = new Map<
    DeviceTexture,
    { group: DeviceBindGroup; second: DeviceTexture | undefined; lastUsed: number }
  >();
  /** What it reads besides. */
  private readonly table: { values: Float32Array; buffer: DeviceBuffer } | undefined;
  private pipeline: DevicePipeline | undefined;
  private format: TextureFormat | undefined;

  constructor(
    private readonly device: Device,
    private readonly pipelines: EffectPipelines,
    private readonly textures: TextureStore,
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
    if (texture) {
      const given = texture(effects);
      this.texture = given?.image ? this.textures.get(given, false, frame) : this.textures.white;
    }
    const sent = this.table ? this.link.table!.write(this.table.values, effects) : 0; // a link has both or none
    if (sent > 0) this.device.writeBuffer(this.table!.buffer, 0, this.table!.values, 0, sent);
    this.link.write(this.block.values, this.block.words, effects, at);
    this.block.upload();
  }

  draw(
    pass: RenderPass,
    first: DeviceTexture,
    second: DeviceTexture | undefined,
    format: TextureFormat,
    frame: number,
  ): void {
    if (format !== this.format) {
      this.format = format;
      this.pipeline = this.pipelines.for(this.link, format);
    }
    pass.setPipeline(this.pipeline!); // made with its format
    pass.setBindGroup(0, this.groupOf(first, second, frame));
    pass.draw(3);
  }

  private groupOf(first: DeviceTexture, second: DeviceTexture | undefined, frame: number): DeviceBindGroup {
    let held = this.groups.get(first);
    if (held?.second !== second) {
      held?.group.dispose();
      held = undefined;
    }
    if (!held) {
      const entries = [
        { binding: 0, texture: first },
        { binding: 1, buffer: this.block.buffer },
        ...(second ? [{ binding: 2, texture: second }] : []),
        ...(this.table ? [{ binding: 2, buffer: this.table.buffer }] : []),
        ...(this.link.isSampled ? [{ binding: 3, sampler: this.pipelines.between }] : []),
      ];
      const group = this.device.createBindGroup({ label: this.link.name, entries });
      this.groups.set(first, (held = { group, second, lastUsed: frame }));
    }
    held.lastUsed = frame;
    return held.group;
  }

  /** Frees groups of pictures that no frame since `frame` has read. */
  sweep(frame: number): void {
    freeUnused(this.groups, frame, ({ group }) => group.dispose());
  }

  dispose(): void {
    this.sweep(Infinity);
    this.block.buffer.dispose();
    this.table?.buffer.dispose();
  }
}

interface Size {
  readonly width: number;
  readonly height: number;
}

const BLACK = [0, 0, 0, 0];

/** How an effect hangs together with others, and what its passes are made with. */
interface Wiring {
  type?: string | undefined;
  /** A name, or a texture. */
  map?: unknown;
  in?: string | undefined;
  in2?: string | undefined;
  result?: string | undefined;
  /** What its pipelines are built with. */
  colorInterpolation?: string | undefined;
  mode?: string | undefined;
  operator?: string | undefined;
  noise?: string | undefined;
  /** Of a table: how many. */
  entries?: number;
}

const NOTHING: Wiring = {};
/** What is no effect hangs together with nothing. */
const wiringOf = (effect: Effect | undefined): Wiring => (effect as Wiring | undefined) ?? NOTHING;
const entriesIn = (effect: Effect | undefined): number =>
  effect?.type === 'lut' ? entriesOf((effect as Partial<typeof effect>).table) : 0;
const nameIn = (map: unknown): string | undefined => (typeof map === 'string' ? map : undefined);

/** The passes of a list of effects of certain types; what their members say is read in each frame. */
export class EffectChain implements ShownPart {
  lastUsed = 0;
  /** Those on light, and those on what is shown. */
  private readonly light: readonly LinkPass[];
  private readonly shown: readonly LinkPass[];
  /** By effect: its type, and how it hangs together with others. */
  private readonly wiring: readonly Wiring[];

  constructor(
    device: Device,
    pipelines: EffectPipelines,
    textures: TextureStore,
    effects: readonly Effect[],
    /** Whose effects they are: lists of two owners may be drawn in one frame. */
    private readonly owner: object | undefined,
    /** Puts what was made into a part of a target. */
    private readonly place: FinishPass,
  ) {
    this.wiring = effects.map((effect) => {
      const { map, ...own } = wiringOf(effect);
      const { type, in: source, in2, result, colorInterpolation, mode, operator, noise } = own;
      const wiring = {
        type,
        in: source,
        in2,
        result,
        map: nameIn(map),
        colorInterpolation,
        mode,
        operator,
        noise,
      };
      return { ...wiring, entries: entriesIn(effect) };
    });
    const passOf = (link: EffectLink): LinkPass => new LinkPass(device, pipelines, textures, link);
    const { light, shown } = stagesOf(effects);
    this.light = light.map(passOf);
    this.shown = shown.map(passOf);
  }

  /** Whether a list has the same passes. */
  fits(effects: readonly Effect[], owner: object | undefined): boolean {
    const { wiring } = this;
    if (owner !== this.owner || effects.length !== wiring.length) return false;
    for (let i = 0; i < wiring.length; i++) {
      const ours = wiring[i]!; // i < length
      const theirs = wiringOf(effects[i]);
      if (ours.type !== theirs.type || ours.in !== theirs.in) return false;
      if (ours.in2 !== theirs.in2 || ours.result !== theirs.result) return false;
      if (ours.map !== nameIn(theirs.map) || ours.colorInterpolation !== theirs.colorInterpolation)
        return false;
      if (ours.mode !== theirs.mode || ours.operator !== theirs.operator) return false;
      if (ours.noise !== theirs.noise || ours.entries !== entriesIn(effects[i])) return false;
    }
    return true;
  }

  /** Whether nothing in the list is an effect. */
  get isEmpty(): boolean {
    return this.light.length + this.shown.length === 0;
  }

  /** Whether it treats what is shown, and not light alone. */
  get treatsShown(): boolean {
    return this.shown.length > 0;
  }

  /** Takes over what the effects say now. To be called outside a pass. */
  prepare(effects: readonly Effect[], frame: number, at: EffectMoment): void {
    this.lastUsed = frame;
    for (const pass of this.light) pass.prepare(effects, frame, at);
    for (const pass of this.shown) pass.prepare(effects, frame, at);
  }

  addShown(plan: FramePlan, given: GraphTexture, target: GraphTexture, isPart: boolean): void {
    const { graph, shape } = plan;
    if (!isPart) {
      this.addPasses(graph, shape, given, target, '');
      return;
    }
    const { width, height } = shape;
    const treated = graph.texture('treated', { width, height, format: 'rgba8unorm' });
    this.addPasses(graph, shape, given, treated, '');
    graph.pass({
      name: 'place',
      reads: [treated],
      writes: [target],
      run: () => this.place.draw(graph.of(treated), graph.of(target), this.lastUsed, plan.part),
    });
  }

  /** Adds its passes from what is shown to a target. @param of what stands before the names of passes */
  addPasses(graph: FrameGraph, size: Size, given: GraphTexture, target: GraphTexture, of: string): void {
    this.addLinks(this.shown, graph, size, given, target, 'rgba8unorm', of);
  }

  /** Adds its passes on light. @returns what the picture is then */
  addLight({ formats, graph }: FramePlan, size: Size, picture: GraphTexture, of: string): GraphTexture {
    if (this.light.length === 0) return picture;
    const { width, height } = size;
    const treated = graph.texture(`${of}treated light`, { width, height, format: formats.color });
    this.addLinks(this.light, graph, size, picture, treated, formats.color, of);
    return treated;
  }

  private addLinks(
    links: readonly LinkPass[],
    graph: FrameGraph,
    size: Size,
    given: GraphTexture,
    target: GraphTexture,
    format: TextureFormat,
    of: string,
  ): void {
    const pictures = [given];
    links.forEach((link, i) => {
      const { halvings = 0, reads } = link.link;
      const name = of + link.link.name;
      const isLast = i === links.length - 1;
      const width = Math.max(1, Math.ceil(size.width / 2 ** halvings));
      const height = Math.max(1, Math.ceil(size.height / 2 ** halvings));
      const into = isLast ? target : graph.texture(name, { width, height, format });
      const [first, second] = reads.map((number) => pictures[number]!); // those before it
      graph.pass({
        name,
        reads: second ? [first!, second] : [first!], // each reads one at least
        colors: [{ texture: into, clear: BLACK }],
        run: (pass) => {
          const other = second ? graph.of(second) : link.texture;
          link.draw(pass!, graph.of(first!), other, graph.of(into).format, this.lastUsed); // it has an attachment
        },
      });
      pictures.push(into);
    });
  }

  sweep(frame: number): void {
    for (const pass of [...this.light, ...this.shown]) pass.sweep(frame);
  }

  dispose(): void {
    for (const pass of [...this.light, ...this.shown]) pass.dispose();
  }
}

/** Chains of the lists of effects that were drawn lately. */
export class EffectChains {
  private readonly pipelines: EffectPipelines;
  private readonly chains: EffectChain[] = [];
  private readonly place: FinishPass;

  constructor(
    private readonly device: Device,
    readonly shaders: EffectShaders,
    private readonly textures: TextureStore,
  ) {
    this.pipelines = new EffectPipelines(device, shaders);
    this.place = new FinishPass(device, shaders.place);
  }

  /**
   * Undefined where nothing in the list is an effect.
   *
   * @param owner whose list it is; left out: the picture's
   */
  chainFor(effects: readonly Effect[], owner?: object): EffectChain | undefined {
    let found: EffectChain | undefined;
    for (const chain of this.chains) if (chain.fits(effects, owner)) found = chain;
    if (!found)
      this.chains.push(
        (found = new EffectChain(this.device, this.pipelines, this.textures, effects, owner, this.place)),
      );
    return found.isEmpty ? undefined : found;
  }

  /** Frees what no frame since `frame` has used. */
  sweep(frame: number): void {
    this.place.sweep(frame);
    for (let i = this.chains.length - 1; i >= 0; i--) {
      const chain = this.chains[i]!; // i < length
      chain.sweep(frame);
      if (chain.lastUsed >= frame) continue;
      chain.dispose();
      this.chains.splice(i, 1);
    }
  }
}
