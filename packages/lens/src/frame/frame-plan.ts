import type {
  BindGroupEntry,
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DeviceTexture,
  RenderPass,
  TextureFormat,
} from '../gpu/device.js';
import type { DrawVariant } from '../batches/draw-variant.js';
import type { CommandRange } from '../batches/scene-pass.js';
import type { TargetPart } from './finish-pass.js';
import { FrameGraph, type GraphPass, type GraphTexture } from './frame-graph.js';
import type { TransientTextures } from './transient-textures.js';

/** What decides which passes a frame has. */
export interface FrameShape {
  /** Pixels. */
  width: number;
  height: number;
  /** Of the picture that is shown, where fewer are drawn. */
  wholeWidth: number;
  wholeHeight: number;
  /** Whether something asks what lies behind it. */
  readsBehind: boolean;
  /** Which features add passes: a bit of each. */
  features: number;
  /** Of a pixel. */
  sampleCount: number;
  /** What else of features decides which passes there are: see `Surroundings.details`. */
  details: number;
  /** Whether it goes into a part of the target, or over what is there. */
  isPart: boolean;
  /** What treats the shown picture; undefined: nothing does. */
  chain: ShownPart | undefined;
  /** What is drawn over what is shown; undefined: nothing is. */
  over: PictureOver | undefined;
  /** Which layers things are drawn into for themselves: a number for each arrangement. */
  layers: number;
  /** Who chooses what is drawn: the script alone; for swarms the GPU; the GPU, against what hides it. */
  choice: 'script' | 'swarms' | 'hidden';
}

export interface PlanFormats {
  color: TextureFormat;
  depth: TextureFormat;
  /** Of a pixel, where nothing says otherwise. */
  sampleCount: number;
}

/** Who draws in the passes of a plan. */
export interface PlanPainter {
  /** Linear, premultiplied: what the picture begins with. */
  readonly clear: Float32Array;
  /** The scene's lights as shaders read them. */
  readonly lights: DeviceBuffer;
  draw(pass: RenderPass | undefined): void;
  /** Draws opaque things that do not ask what lies behind them, and what is behind all. */
  drawBefore(pass: RenderPass | undefined): void;
  /**
   * The same anew, as what is seen through others.
   *
   * @param entries what is bound besides
   */
  drawRadiance(pass: RenderPass | undefined, entries: readonly BindGroupEntry[]): void;
  /** Draws the opaque things that were seen in the frame before, and those that nothing is known of. */
  drawSeen(pass: RenderPass | undefined): void;
  /** Draws things otherwise than in their colors. */
  drawVariant(
    pass: RenderPass | undefined,
    variant: DrawVariant,
    entries: readonly BindGroupEntry[],
    range: CommandRange,
  ): void;
  /** Turns a linear picture into what is shown, without a look. */
  encode(picture: DeviceTexture, target: DeviceTexture): void;
  /** The frame's group with what is bound besides. */
  groupOf(entries: readonly BindGroupEntry[]): DeviceBindGroup;
  finish(): void;
}

/** A texture of the graph that the scene's pass binds in the frame's group. */
export interface PlanBinding {
  binding: number;
  texture: GraphTexture;
}

/** What effects may ask of what is solid in a picture, one sample a pixel. */
export interface SurfacePictures {
  normal: GraphTexture;
  mirror: GraphTexture | undefined;
  velocity: GraphTexture | undefined;
  /** Bits of things. */
  things: GraphTexture | undefined;
  depth: GraphTexture;
}

/** Whoever adds passes to those of the scene. */
export interface PlanPart {
  /** Adds passes that come before those of all others. */
  addEarly?(plan: FramePlan, painter: PlanPainter): void;
  /** @returns what the scene's pass reads of them */
  addPasses?(plan: FramePlan, painter: PlanPainter): readonly PlanBinding[];
  /** Adds passes right before it, when those of all others stand. @returns what the scene's pass reads of them besides */
  addBefore?(plan: FramePlan, painter: PlanPainter): readonly GraphTexture[];
  /** Adds passes behind it. */
  addAfter?(plan: FramePlan, painter: PlanPainter): void;
}

/** Whoever adds passes to what is shown. */
export interface ShownPart {
  /** Whether it treats what is shown, and not light alone. */
  readonly treatsShown: boolean;
  /** Adds passes on light, before what is shown is made of it. @returns what the picture is then */
  addLight(plan: FramePlan, size: FrameShape, picture: GraphTexture, of: string): GraphTexture;
  /** Adds passes from what is shown to the target. @param isPart whether only a part of it is drawn into: see `plan.part` */
  addShown(plan: FramePlan, shown: GraphTexture, target: GraphTexture, isPart: boolean): void;
}

/** @internal Whoever draws over a finished picture, and is hidden by what stands before it there. */
export interface PictureOver {
  /**
   * Called outside of passes, when the picture is in the target.
   *
   * @param depth one sample a pixel; it may have fewer pixels than the target
   */
  drawOver(depth: DeviceTexture, target: DeviceTexture): void;
}

/** The graph of one shape of frame, with the textures that its passes hand to each other. */
export class FramePlan {
  readonly graph: FrameGraph;
  /** The linear picture, all samples averaged. */
  readonly picture: GraphTexture;
  /** The same, where a feature has added to it what it shows itself. */
  drawnPicture: GraphTexture;
  /** The same, when effects on light were at it. */
  readonly lit: GraphTexture;
  /** Pixels that the picture is put together to. */
  readonly whole: { width: number; height: number };
  /** What is drawn into: of several samples a pixel, or the picture itself. */
  readonly drawn: GraphTexture;
  readonly depth: GraphTexture;
  readonly target: GraphTexture;
  /** What the finish draws into: the target, or what effects begin with. */
  readonly shown: GraphTexture;
  /** What effects may ask of surfaces, where they are drawn. */
  surfaces: SurfacePictures | undefined;
  lastUsed = 0;
  /** Where in the target the picture of the frame at hand goes; undefined: everywhere. */
  part: TargetPart | undefined;
  private readonly read: readonly PlanBinding[];
  private readonly bound: DeviceTexture[] = [];
  private flat: GraphTexture | undefined;
  private boundExtras: readonly BindGroupEntry[] | undefined;
  private entries: readonly BindGroupEntry[] = [];
  /** Whether a pass before has drawn into the picture: what it left there stays. */
  private isBegun = false;

  /** @param parts those that the shape asks for */
  constructor(
    readonly device: Device,
    pool: TransientTextures,
    readonly shape: FrameShape,
    readonly formats: PlanFormats,
    private readonly painter: PlanPainter,
    parts: readonly (PlanPart | undefined)[],
  ) {
    const { color: format, depth: depthFormat } = formats;
    const { width, height, sampleCount } = shape;
    const graph = (this.graph = new FrameGraph(device, pool));
    const size = { width, height };
    this.whole = { width: shape.wholeWidth, height: shape.wholeHeight };
    const picture = (this.picture = this.drawnPicture = graph.texture('picture', { ...size, format }));
    this.depth = graph.texture('depth', { ...size, format: depthFormat, sampleCount });
    this.drawn = sampleCount > 1 ? graph.texture('samples', { ...size, format, sampleCount }) : picture;
    this.target = graph.outside('target');
    for (const part of parts) part?.addEarly?.(this, painter);
    this.read = parts.flatMap((part) => part?.addPasses?.(this, painter) ?? []);
    const put = parts.flatMap((part) => part?.addBefore?.(this, painter) ?? []);
    graph.pass({
      name: 'scene',
      parts: ['opaque', 'blended'],
      isScene: true,
      reads: [...this.readTextures, ...put],
      ...this.attach(this.drawn === picture ? undefined : picture),
      run: (pass) => painter.draw(pass),
    });
    for (const part of parts) part?.addAfter?.(this, painter);
    const { chain } = shape;
    this.lit = chain ? chain.addLight(this, shape, this.drawnPicture, '') : this.drawnPicture;
    const isTreated = chain?.treatsShown === true;
    this.shown = isTreated ? graph.texture('shown', { ...this.whole, format: 'rgba8unorm' }) : this.target;
    graph.pass({ name: 'finish', reads: [this.lit], writes: [this.shown], run: () => painter.finish() });
    if (isTreated) chain.addShown(this, this.shown, this.target, shape.isPart);
    if (shape.over) this.addOver(shape.over);
    graph.compile();
  }

  /**
   * What a pass that draws the scene draws into: cleared for the first one, as it was left for others.
   *
   * @param resolve receives the samples, averaged
   */
  attach(resolve?: GraphTexture): Pick<GraphPass, 'colors' | 'depth'> {
    const { depth, drawn, isBegun, painter } = this;
    this.isBegun = true;
    return {
      colors: [
        { texture: drawn, ...(resolve ? { resolve } : {}), ...(isBegun ? {} : { clear: painter.clear }) },
      ],
      depth: { texture: depth, ...(isBegun ? {} : { clear: 0 }) },
    };
  }

  /** Depths of what is drawn, one sample a pixel, for passes behind the scene's: they are copied once, where they have several. */
  flatDepth(): GraphTexture {
    const { depth, device, graph, shape } = this;
    if (shape.sampleCount === 1) return depth;
    if (this.flat) return this.flat;
    const { height, width } = shape;
    const flat = (this.flat = graph.texture('depth of pixels', {
      width,
      height,
      format: this.formats.depth,
    }));
    graph.pass({
      name: 'copy depth',
      reads: [depth],
      writes: [flat],
      run: () => device.copyDepth(graph.of(depth), graph.of(flat)),
    });
    return flat;
  }

  private addOver(over: PictureOver): void {
    const { graph, target } = this;
    const flat = this.flatDepth();
    const run = (): void => over.drawOver(graph.of(flat), graph.of(target));
    graph.pass({ name: 'over', reads: [flat], writes: [target], run });
  }

  /** What the scene pass binds besides `extras`: what was drawn before it. The same array while its textures are. */
  bindings(extras: readonly BindGroupEntry[]): readonly BindGroupEntry[] {
    const { bound, graph, read } = this;
    if (read.length === 0) return extras;
    let differs = this.boundExtras !== extras;
    for (let i = 0; i < read.length; i++) {
      const texture = graph.of(read[i]!.texture); // i < length
      if (bound[i] === texture) continue;
      bound[i] = texture;
      differs = true;
    }
    if (differs) {
      this.boundExtras = extras;
      this.entries = [...extras, ...read.map(({ binding }, i) => ({ binding, texture: bound[i]! }))]; // one each
    }
    return this.entries;
  }

  /** What the scene's pass reads of what was drawn before it. */
  get readTextures(): readonly GraphTexture[] {
    return this.read.map(({ texture }) => texture);
  }

  /** Whether a frame of this shape has the same passes. */
  fits({
    width,
    height,
    wholeWidth,
    wholeHeight,
    readsBehind,
    features,
    sampleCount,
    chain,
    choice,
    details,
    isPart,
    layers,
    over,
  }: FrameShape): boolean {
    const { shape } = this;
    return (
      shape.width === width &&
      shape.height === height &&
      shape.wholeWidth === wholeWidth &&
      shape.wholeHeight === wholeHeight &&
      shape.readsBehind === readsBehind &&
      shape.features === features &&
      shape.sampleCount === sampleCount &&
      shape.chain === chain &&
      shape.over === over &&
      shape.layers === layers &&
      shape.isPart === isPart &&
      shape.details === details &&
      shape.choice === choice
    );
  }
}
