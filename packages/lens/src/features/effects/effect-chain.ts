import type { Effect } from '@umber-lens/core/engine';
import type { Messages } from '#messages';
import type { EffectShaders } from '../../compiled/lens-shaders.js';
import { FinishPass } from '../../frame/finish-pass.js';
import type { FramePlan, ShownPart, SurfacePictures } from '../../frame/frame-plan.js';
import type { FrameGraph, GraphTexture } from '../../frame/frame-graph.js';
import type { Device, DeviceTexture, TextureFormat } from '../../gpu/device.js';
import type { FrameGiven } from '../../batches/frame-uniforms.js';
import type { FrameAt, FramesBefore } from '../feature.js';
import { SettingsStore } from '../../resources/settings-store.js';
import type { TextureStore } from '../../resources/texture-store.js';
import { type EffectLink, resolutionOf, stagesOf } from './effect-links.js';
import { type EffectMoment, newMoment, tellMoment } from './effect-moment.js';
import { BLACK, EffectPipelines, LinkPass } from './link-pass.js';
import { ownShaderOf } from './own-link.js';
import { entriesOf } from './trade-links.js';

/** Whence links have what they read besides pictures. */
export interface ChainInputs {
  /** Adds what copies depths, where somebody asks for them. */
  depths(): GraphTexture;
  /** What surfaces are, where they were drawn. */
  surfaces?: SurfacePictures | undefined;
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** What effects on whole pictures are told. */
const moment = newMoment();

/** Members that say how an effect hangs together with others, and what its pipelines are built with. */
const WIRED = ['type', 'in', 'in2', 'result', 'colorInterpolation', 'mode', 'operator', 'noise'] as const;

/** What decides which passes an effect has. */
interface Wiring extends Partial<Record<(typeof WIRED)[number], string | undefined>> {
  /** A name, or a texture. */
  map?: unknown;
  /** Of a table: how many. */
  entries?: number;
  /** Whether it is of some things alone, and whether it makes more pixels than are drawn. */
  isMasked?: boolean;
  isUpscaling?: boolean;
  /** Text of an author's shader. */
  text?: string | undefined;
}

/** Of a part of a larger picture that one's edges count. @param more pixels to one that was drawn */
function tellArea({ left, top, wholeWidth, wholeHeight }: FrameGiven, more: number): void {
  const { area } = moment;
  area.left = -left * more;
  area.top = -top * more;
  area.width = wholeWidth * more;
  area.height = wholeHeight * more;
}

const NOTHING: Wiring = {};
/** What is no effect hangs together with nothing. */
const wiringOf = (effect: Effect | undefined): Wiring => (effect as Wiring | undefined) ?? NOTHING;
const entriesIn = (effect: Effect | undefined): number =>
  effect?.type === 'lut' ? entriesOf((effect as Partial<typeof effect>).table) : 0;
const isMasked = (effect: Effect | null | undefined): boolean => effect?.sees !== undefined;
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
    private readonly device: Device,
    pipelines: EffectPipelines,
    textures: TextureStore,
    settings: SettingsStore,
    effects: readonly Effect[],
    /** Whose effects they are: lists of two owners may be drawn in one frame. */
    private readonly owner: object | undefined,
    /** Puts what was made into a part of a target. */
    private readonly place: FinishPass,
    /** In place of what surfaces are, where nobody drew them. */
    private readonly nothing: DeviceTexture,
  ) {
    this.wiring = effects.map((effect) => {
      const given = wiringOf(effect);
      const own: Wiring = {
        map: nameIn(given.map),
        entries: entriesIn(effect),
        isMasked: isMasked(effect),
        isUpscaling: resolutionOf(effect) < 1,
        text: ownShaderOf(effect)?.wgsl,
      };
      for (const name of WIRED) own[name] = given[name];
      return own;
    });
    const passOf = (link: EffectLink): LinkPass => new LinkPass(device, pipelines, textures, settings, link);
    const { light, shown } = stagesOf(effects, owner !== undefined);
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
      for (const name of WIRED) if (ours[name] !== theirs[name]) return false;
      if (ours.isMasked !== isMasked(effects[i]) || ours.isUpscaling !== resolutionOf(effects[i]) < 1)
        return false;
      if (ours.map !== nameIn(theirs.map) || ours.entries !== entriesIn(effects[i])) return false;
      if (ours.text !== ownShaderOf(effects[i])?.wgsl) return false;
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

  /** The same for the whole picture at hand. */
  prepareFrame(at: FrameAt, before: FramesBefore | undefined): void {
    const { frame, given, settings, whole } = at;
    const { finish } = settings;
    this.lastUsed = frame;
    tellMoment(moment, at, before);
    tellArea(given, 1);
    for (const pass of this.light) {
      // From there on there may be more pixels than were drawn.
      if (pass.link.makesWhole) this.tellWhole(at);
      pass.prepare(finish, frame, moment);
    }
    if (given.width !== whole.width) this.tellWhole(at);
    for (const pass of this.shown) pass.prepare(finish, frame, moment);
  }

  private tellWhole({ given, whole }: FrameAt): void {
    const more = whole.width / given.width;
    moment.scale = given.scale * more;
    moment.height = given.wholeHeight * more;
    tellArea(given, more);
  }

  /** Takes over what the effects say now. To be called outside a pass. */
  prepare(effects: readonly Effect[], frame: number, at: EffectMoment): void {
    this.lastUsed = frame;
    for (const pass of this.light) pass.prepare(effects, frame, at);
    for (const pass of this.shown) pass.prepare(effects, frame, at);
  }

  addShown(plan: FramePlan, given: GraphTexture, target: GraphTexture, isPart: boolean): void {
    const { graph, whole } = plan;
    const { width, height } = whole;
    const inputs = this.inputsOf(plan);
    // What is kept for the next frame is no canvas.
    if (!isPart && this.shown.at(-1)?.link.readsBefore !== true) {
      this.addPasses(graph, whole, given, target, '', inputs);
      return;
    }
    const treated = graph.texture('treated', { width, height, format: 'rgba8unorm' });
    this.addPasses(graph, whole, given, treated, '', inputs);
    graph.pass({
      name: 'place',
      reads: [treated],
      writes: [target],
      run: () => this.place.draw(graph.of(treated), graph.of(target), this.lastUsed, plan.part),
    });
  }

  /**
   * Adds its passes from what is shown to a target.
   *
   * @param of what stands before the names of passes
   * @param inputs what they read besides
   */
  addPasses(
    graph: FrameGraph,
    size: Size,
    given: GraphTexture,
    target: GraphTexture,
    of: string,
    inputs: ChainInputs,
  ): void {
    this.addLinks(this.shown, graph, size, size, given, target, 'rgba8unorm', of, inputs);
  }

  private inputsOf(plan: FramePlan): ChainInputs {
    return { depths: () => plan.flatDepth(), surfaces: plan.surfaces };
  }

  /** Adds its passes on light. @returns what the picture is then */
  addLight(
    plan: FramePlan,
    size: Size,
    picture: GraphTexture,
    of: string,
    given?: ChainInputs,
  ): GraphTexture {
    const { formats, graph } = plan;
    if (this.light.length === 0) return picture;
    const makesWhole = this.light.some(({ link }) => link.makesWhole);
    const { width, height } = makesWhole ? plan.whole : size;
    const treated = graph.texture(`${of}treated light`, { width, height, format: formats.color });
    const inputs = given ?? this.inputsOf(plan);
    this.addLinks(this.light, graph, size, plan.whole, picture, treated, formats.color, of, inputs);
    return treated;
  }

  private addLinks(
    links: readonly LinkPass[],
    graph: FrameGraph,
    drawn: Size,
    whole: Size,
    given: GraphTexture,
    target: GraphTexture,
    format: TextureFormat,
    of: string,
    { depths, surfaces }: ChainInputs,
  ): void {
    const { device } = this;
    const pictures = [given];
    let size = drawn;
    links.forEach((link, i) => {
      const { halvings = 0, reads } = link.link;
      const name = of + link.link.name;
      if (link.link.makesWhole) size = whole;
      const isLast = i === links.length - 1;
      const width = Math.max(1, Math.ceil(size.width / 2 ** halvings));
      const height = Math.max(1, Math.ceil(size.height / 2 ** halvings));
      const into = isLast ? target : graph.texture(name, { width, height, format });
      const [first, second] = reads.map((number) => pictures[number]!); // those before it
      const { readsBefore, readsDepth, readsNormal, readsThings, readsVelocity } = link.link;
      // What moves is told apart by the depths that its ways are of.
      const flat =
        readsVelocity && surfaces ? surfaces.depth : readsDepth || readsVelocity ? depths() : undefined;
      const normal = readsNormal ? surfaces?.normal : undefined;
      const velocity = readsVelocity ? surfaces?.velocity : undefined;
      const things = readsThings ? surfaces?.things : undefined;
      const others: (DeviceTexture | undefined)[] = [];
      const read = [first, second, flat, normal, velocity, things].filter((one) => one !== undefined);
      graph.pass({
        name,
        reads: read,
        ...(readsBefore ? { writes: [into] } : { colors: [{ texture: into, clear: BLACK }] }),
        run: (pass) => {
          const target = graph.of(into);
          others[0] = second ? graph.of(second) : link.texture;
          others[1] = flat && graph.of(flat);
          others[3] = readsNormal ? (normal ? graph.of(normal) : this.nothing) : undefined;
          others[4] = readsVelocity ? (velocity ? graph.of(velocity) : this.nothing) : undefined;
          others[5] = readsThings ? (things ? graph.of(things) : this.nothing) : undefined;
          if (pass) {
            link.draw(pass, graph.of(first!), others, target.format, this.lastUsed);
            return;
          }
          // What it made is kept for the next frame.
          others[2] = link.beforeOf(target, this.lastUsed);
          const open = device.beginRenderPass({
            label: name,
            colorAttachments: [{ texture: target, clearValue: BLACK }],
          });
          link.draw(open, graph.of(first!), others, target.format, this.lastUsed);
          open.end();
          device.copyTexture(target, others[2]);
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
  private readonly nothing: DeviceTexture;
  private readonly settings: SettingsStore;

  constructor(
    private readonly device: Device,
    readonly shaders: EffectShaders,
    private readonly textures: TextureStore,
    messages: Messages,
  ) {
    this.settings = new SettingsStore(device, textures, messages);
    this.pipelines = new EffectPipelines(device, shaders);
    this.place = new FinishPass(device, shaders.place);
    this.nothing = device.createTexture({
      ...{ label: 'no surfaces', width: 1, height: 1, format: 'rgba8unorm' },
      data: new Uint8Array(4),
    });
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
        (found = new EffectChain(
          this.device,
          this.pipelines,
          this.textures,
          this.settings,
          effects,
          owner,
          this.place,
          this.nothing,
        )),
      );
    return found.isEmpty ? undefined : found;
  }

  /** What of a picture's pixels are drawn with a list, along each side. */
  resolutionOf(finish: readonly Effect[]): number {
    let least = 1;
    for (const effect of finish) least = Math.min(least, resolutionOf(effect));
    return least;
  }

  /** Frees what no frame since `frame` has used. */
  sweep(frame: number): void {
    this.place.sweep(frame);
    this.settings.sweep(frame);
    for (let i = this.chains.length - 1; i >= 0; i--) {
      const chain = this.chains[i]!; // i < length
      chain.sweep(frame);
      if (chain.lastUsed >= frame) continue;
      chain.dispose();
      this.chains.splice(i, 1);
    }
  }
}
