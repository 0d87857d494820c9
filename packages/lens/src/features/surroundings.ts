import type { SceneNode } from '@umber-lens/core/engine';
import type { CameraState } from '../batches/camera-state.js';
import type { DrawVariant } from '../batches/draw-variant.js';
import type { MoreOfLights } from '../batches/frame-uniforms.js';
import type { PreparedBatch, PreparedScene } from '../batches/prepared-scene.js';
import type { CommandRange, ScenePass } from '../batches/scene-pass.js';
import type { PlanFormats, PlanPart } from '../frame/frame-plan.js';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceTexture, RenderPass } from '../gpu/device.js';
import type { TextureStore } from '../resources/texture-store.js';
import { UniformBlock } from '../resources/uniform-block.js';
import { AIR_FLOATS, BINDING_AIR, BINDING_BEHIND_COLOR, BINDING_BEHIND_DEPTH } from '../compiled/layouts.js';
import type { FullShaders } from '../compiled/lens-shaders.js';
import { allFeatures } from './all-features.js';
import type { EffectsLoader } from './effects/effects-loader.js';
import type { NodeEffects } from './effects/node-effects.js';
import type { Facts, Feature, FeatureHost, FollowList, FrameAt, Placing } from './feature.js';
import { FullPipelines } from './full-pipelines.js';
import type { KeptDepth } from './kept-depth/kept-depth.js';
import { LookFinish } from './look/look-finish.js';
import type { Surfaces } from './surfaces/surfaces.js';
import type { Swarms } from './swarms/swarms.js';

/**
 * The features that scenes have besides plain lights and materials: loaded with their shaders when a scene first has one.
 * Whoever draws knows them all alike.
 */
export class Surroundings implements FeatureHost, MoreOfLights {
  entries: readonly BindGroupEntry[] = [];
  readonly finish: LookFinish;
  readonly air: UniformBlock;
  readonly nothing: { readonly color: DeviceTexture; readonly depth: DeviceTexture };
  readonly swarms: Swarms;
  /** What is drawn into layers of its own. */
  readonly layers: NodeEffects;
  readonly surfaces: Surfaces;
  private readonly keptDepth: KeptDepth;
  readonly placing: readonly Placing[];
  private readonly features: readonly Feature[];
  /** Those that bind something, and what each did last. */
  private readonly binding: readonly { readonly entries?: readonly BindGroupEntry[] }[];
  private readonly bound: (readonly BindGroupEntry[] | undefined)[] = [];
  private loaded = 0;
  private readonly uses = new Map<number, FullPipelines>();

  constructor(
    readonly device: Device,
    readonly shaders: FullShaders,
    readonly formats: PlanFormats,
    readonly scenePass: ScenePass,
    readonly textures: TextureStore,
    readonly shadowTexels: number,
    private readonly load: (loading: Promise<void>) => void,
    readonly effects: EffectsLoader,
  ) {
    const size = { width: 1, height: 1 };
    this.nothing = {
      color: device.createTexture({ label: 'nothing behind', ...size, format: 'rgba8unorm' }),
      depth: device.createTexture({ label: 'no depth', ...size, format: formats.depth, renderable: true }),
    };
    this.finish = new LookFinish(device, shaders.finishLook);
    this.air = new UniformBlock(device, 'air', AIR_FLOATS);
    const { swarms, layers, keptDepth, surfaces, features } = allFeatures(this);
    this.keptDepth = keptDepth;
    this.surfaces = surfaces;
    this.swarms = swarms;
    this.layers = layers;
    this.features = features;
    this.binding = features.filter(({ entries }) => entries);
    this.placing = features.flatMap((feature) => (feature.isPlacing ? [feature as Placing] : []));
  }

  /** What else decides which passes a picture has: depths that it begins with or leaves, and what is asked of surfaces. */
  get details(): number {
    return this.keptDepth.bits + 4 * this.surfaces.shape;
  }

  /**
   * How pipelines are built for a picture.
   *
   * @param loaded counts what was loaded: pipelines that stood in are made anew then
   */
  useFor(facts: Facts, loaded: number): FullPipelines {
    this.loaded = loaded;
    let bits = 0;
    for (const feature of this.features)
      for (const { bit } of feature.flagsFor?.(facts) ?? NO_FLAGS) bits |= bit;
    return this.pipelinesFor(bits);
  }

  /** The flags of a picture that take parts of surfaces away. */
  cutBits(facts: Facts): number {
    return this.useFor(facts, this.loaded).cutBits;
  }

  pipelinesFor(bits: number): FullPipelines {
    const known = this.uses.get(bits);
    if (known?.loaded === this.loaded) return known;
    const made = new FullPipelines(this.shaders, bits, this.loaded, this.load);
    this.uses.set(bits, made);
    return made;
  }

  /**
   * Uploads what changed, and makes what is new. To be called outside a pass.
   *
   * @returns which features have passes in the frame: a bit of each
   */
  prepare(full: FullPipelines, at: FrameAt): number {
    const { air, features } = this;
    const { device } = this;
    const { pending } = at.prepared.stores.pipelines;
    air.values.fill(0);
    let passes = 0;
    let made = 0;
    let milliseconds = 0;
    for (let i = 0; i < features.length; i++) {
      const feature = features[i]!; // i < length
      // Those that are made beside the script hold nothing up.
      const before = device.counts.pipelines - pending.size;
      const start = performance.now();
      feature.prepare?.(at, full);
      const count = device.counts.pipelines - pending.size - before;
      if (count > 0 && !feature.tellsStalls) {
        made += count;
        milliseconds += performance.now() - start;
      }
      if (feature.hasPasses) passes |= 1 << i;
    }
    if (made > 0) at.ledger.stall(`${made} pipelines of what is around`, milliseconds);
    air.upload();
    this.bind();
    return passes;
  }

  /** Those features that have passes in the frame, as `prepare` told. */
  partsOf(passes: number): readonly PlanPart[] {
    return this.features.filter((_, i) => (passes & (1 << i)) !== 0);
  }

  /**
   * Gets a scene's meshes ready to be drawn without light. To be called outside a pass.
   *
   * @returns what full pipelines bind besides, with nothing behind what is drawn
   */
  prepareUnlit(prepared: PreparedScene, frame: number): readonly BindGroupEntry[] {
    for (const feature of this.features) feature.prepareUnlit?.(prepared, frame);
    this.bind();
    return [
      ...this.entries,
      { binding: BINDING_BEHIND_DEPTH, texture: this.nothing.depth },
      { binding: BINDING_BEHIND_COLOR, texture: this.nothing.color },
    ];
  }

  /** Begins to make the pipelines that a batch will be drawn with besides. */
  makePipelines(ready: PreparedBatch, prepared: PreparedScene): void {
    for (const feature of this.features) feature.makePipelines?.(ready, prepared);
  }

  writeMore(values: Float32Array, words: Uint32Array, at: number, node: SceneNode): void {
    for (const feature of this.features) feature.writeLight?.(values, words, at, node);
  }

  adjustFrame(values: Float32Array): void {
    for (const feature of this.features) feature.adjustFrame?.(values);
  }

  readonly followList: FollowList = (state, scene, view, isListed, isParallel, height) => {
    let isOther = false;
    for (const feature of this.features)
      if (feature.followList?.(state, scene, view, isListed, isParallel, height)) isOther = true;
    return isOther;
  };

  /** Whether there may be any number of lights. */
  get takesAllLights(): boolean {
    return this.features.some(takesAll);
  }

  /** Calls back for the variants in which opaque things are drawn ahead. */
  drawAhead(draw: (variant: DrawVariant) => void): void {
    for (const { ahead } of this.features) if (ahead) draw(ahead);
  }

  /** Calls back for the variants in which all things are drawn once more over the picture. */
  drawOver(draw: (variant: DrawVariant) => void): void {
    for (const { over } of this.features) if (over) draw(over);
  }

  /** Draws what is blended, in the order in which it lies with layers. @returns false where there are none */
  drawAmong(pass: RenderPass, state: CameraState, draw: (range: CommandRange) => void): boolean {
    return this.layers.drawAmong(pass, state, draw);
  }

  /** Draws where nothing was drawn, when all that is opaque was. */
  drawBehind(pass: RenderPass, frameGroup: DeviceBindGroup): void {
    for (const feature of this.features) feature.drawBehind?.(pass, frameGroup);
  }

  /** Has what a scene holds count as used, though it is not drawn. */
  touch(ready: PreparedBatch, frame: number): void {
    for (const feature of this.features) feature.touch?.(ready, frame);
  }

  /** Frees what no scene holds any more, and no frame since `frame` has used. */
  letGo(frame: number): void {
    for (const feature of this.features) feature.letGo?.(frame);
  }

  sweep(frame: number): void {
    for (const feature of this.features) feature.sweep?.(frame);
    this.finish.sweep(frame);
  }

  /** Makes the entries anew where something in them is another. */
  private bind(): void {
    const { binding, bound } = this;
    let differs = false;
    for (let i = 0; i < binding.length; i++) {
      const { entries } = binding[i]!; // i < length
      if (bound[i] === entries) continue;
      bound[i] = entries;
      differs = true;
    }
    if (!differs) return;
    this.entries = [
      { binding: BINDING_AIR, buffer: this.air.buffer },
      ...bound.flatMap((entries) => entries ?? []),
    ];
  }
}

const NO_FLAGS: readonly never[] = [];
const takesAll = ({ takesAllLights }: Feature): boolean => takesAllLights === true;
