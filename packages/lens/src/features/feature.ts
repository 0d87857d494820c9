import type { CameraView, Effect, PicturePart, Scene, SceneNode } from '@umber-lens/core/engine';
import type { CameraState } from '../batches/camera-state.js';
import type { DrawVariant } from '../batches/draw-variant.js';
import type { FrameGiven } from '../batches/frame-uniforms.js';
import type { PreparedBatch, PreparedScene } from '../batches/prepared-scene.js';
import type { ScenePass } from '../batches/scene-pass.js';
import type { TargetPart } from '../frame/finish-pass.js';
import type { PictureOver, PlanFormats, PlanPart } from '../frame/frame-plan.js';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceTexture, RenderPass } from '../gpu/device.js';
import type { Ledger } from '../ledger/ledger.js';
import type { TextureStore } from '../resources/texture-store.js';
import type { UniformBlock } from '../resources/uniform-block.js';
import type { FullShaders } from '../compiled/lens-shaders.js';
import type { Culling } from './culling/culling.js';
import type { ShownQuantity } from './debug-views/show.js';
import type { RenderPath } from './deferred/render-path.js';
import type { EffectsLoader } from './effects/effects-loader.js';
import type { Flag } from './flags.js';
import type { FullPipelines } from './full-pipelines.js';
import type { Look } from './look/look.js';

/** What part of a target a picture is drawn into, and what stays of what is there. */
export interface DrawPart {
  part: TargetPart;
  /** Whether it begins with the depths of an earlier picture, and whether it leaves its own. */
  keptDepth: boolean;
  keepsDepth: boolean;
}

/** How a picture is drawn: what a view and a look say. Plain values; whoever draws otherwise hands over others. */
export interface DrawSettings {
  renderPath: RenderPath;
  show: ShownQuantity;
  /** Pixels: what is less high is left out. */
  minPixels: number;
  /** Whether frames in which nothing changed are not drawn. */
  onDemand: boolean;
  readonly culling: Culling;
  readonly look: Look;
  /** Effects on the shown picture, one after the other. */
  finish: readonly Effect[];
  /** Left out: the whole target, begun anew. */
  part?: DrawPart | undefined;
  /** What a tool draws over it. */
  over?: PictureOver | undefined;
  /** Left out: the target holds the whole picture. Its size is the target's. */
  tile?: PicturePart | undefined;
  /** Seconds that shaders are told, and seconds since the frame before. */
  time: number;
  delta: number;
}

/** What decides which features a picture has. */
export interface Facts {
  scene: Scene;
  /** In the order in which shaders number them. */
  lights: readonly SceneNode[];
  /** Bits of the layers that the scene's materials have. */
  layers: number;
  settings: DrawSettings;
  /** What is drawn into, where that is known. */
  target?: DeviceTexture;
}

/** The frame at hand: what is drawn, and for whom. */
export interface FrameAt extends Facts {
  prepared: PreparedScene;
  camera: SceneNode;
  target: DeviceTexture;
  /** Of the camera that looks. */
  state: CameraState;
  given: FrameGiven;
  /** Counts frames. */
  frame: number;
  ledger: Ledger;
  /** Pixels that are put together to, where fewer are drawn in each frame. */
  whole: { width: number; height: number };
}

/** What features are made with. */
export interface FeatureHost {
  readonly device: Device;
  readonly shaders: FullShaders;
  readonly formats: PlanFormats;
  readonly scenePass: ScenePass;
  readonly textures: TextureStore;
  /** Most texels of all shadow maps together. */
  readonly shadowTexels: number;
  /** The structure `Air` of air.wgsl, zeroed for each frame; features write what is theirs. */
  readonly air: UniformBlock;
  /** What full pipelines bind besides, in the frame's group. Another array when something in it changed. */
  readonly entries: readonly BindGroupEntry[];
  /** In place of what pictures do not have. */
  readonly nothing: { readonly color: DeviceTexture; readonly depth: DeviceTexture };
  /** How pipelines are built with a set of flags. */
  pipelinesFor(bits: number): FullPipelines;
  /** What shaders are told of a light besides: see `Feature.writeLight`. */
  writeMore(values: Float32Array, words: Uint32Array, at: number, node: SceneNode): void;
  readonly followList: FollowList;
  /** What draws effects, where it is loaded. */
  readonly effects: EffectsLoader;
  /** What moves vertices, or takes parts of surfaces away: passes without light bind this alone. */
  readonly placing: readonly Placing[];
}

/**
 * Sends what else a camera, or a light, draws of its list.
 *
 * @param isListed whether the list is other than before
 * @param height pixels of the picture
 * @returns whether what else is drawn is other than before
 */
export type FollowList = (
  state: CameraState,
  scene: Scene,
  view: CameraView,
  isListed: boolean,
  isParallel: boolean,
  height: number,
) => boolean;

/** What is known of the frames before. */
export interface FramesBefore {
  /** Samples that pixels of what stands still hold with this frame; 0 where they are not counted. */
  readonly samples: number;
  /** Where directions were: see velocity.wgsl. Undefined where nothing of them is known. */
  readonly sky: Float32Array | undefined;
  /** By how much of a pixel the picture is shifted: to the right and down. */
  readonly shift: readonly [x: number, y: number];
}

/** What binds something wherever things are drawn. */
export interface Placing {
  readonly entries: readonly BindGroupEntry[];
  /** The frame in which things were last placed or cut otherwise by it: depths that were drawn before are no longer right. */
  readonly changedAt?: number;
}

/**
 * One thing that scenes may have besides plain lights and materials. It is all in one folder: when a scene has it (`wants`, one
 * line in `wants.ts`), what pipelines are built with, what it binds, prepares and draws. Whatever is left out, it has not.
 */
export interface Feature extends PlanPart {
  /** What pipelines of a scene that has it are built with. */
  flagsFor?(facts: Facts): readonly Flag[];
  /** What it binds in the frame's group. Another array when something in it changed. */
  readonly entries?: readonly BindGroupEntry[];
  /** Whether that is bound wherever things are drawn, also without light: it is `Placing` then. */
  readonly isPlacing?: boolean;
  /** See `Placing`. */
  readonly changedAt?: number;
  /** Uploads what changed, and makes what is new; to be called outside a pass, in each frame that is drawn in full. */
  prepare?(at: FrameAt, full: FullPipelines): void;
  /** The same for pictures without light. */
  prepareUnlit?(prepared: PreparedScene, frame: number): void;
  /** Whether the frame at hand has its passes; known when it is prepared. */
  readonly hasPasses?: boolean;
  /** Whether it tells itself what held the frame up. */
  readonly tellsStalls?: boolean;
  /** Whether there may be any number of lights with it. */
  readonly takesAllLights?: boolean;
  /** Begins to make pipelines that the scene will be drawn with. */
  makePipelines?(ready: PreparedBatch, prepared: PreparedScene): void;
  /** Changes what shaders are told of the picture: the structure `Frame` of frame.wgsl, written anew for each frame. */
  adjustFrame?(values: Float32Array): void;
  /** Writes what shaders are told of a light besides: see `LightSource` in lights.wgsl. */
  writeLight?(values: Float32Array, words: Uint32Array, at: number, node: SceneNode): void;
  readonly followList?: FollowList;
  /** How opaque things are drawn before they are drawn in color. */
  readonly ahead?: DrawVariant | undefined;
  /** How all things are drawn once more over the picture. */
  readonly over?: DrawVariant | undefined;
  /** Draws where nothing was drawn, when all that is opaque was. */
  drawBehind?(pass: RenderPass, frameGroup: DeviceBindGroup): void;
  /** Has what a scene holds count as used, though it is not drawn. */
  touch?(ready: PreparedBatch, frame: number): void;
  /** Frees what no scene holds any more, and no frame since `frame` has used. */
  letGo?(frame: number): void;
  /** Frees what no frame since `frame` has used. */
  sweep?(frame: number): void;
}
