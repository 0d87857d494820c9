import {
  type Effect,
  effectReach,
  NONE,
  type OutlineEffect,
  ScreenBounds,
  type SceneNode,
  SHOWN,
} from '@umber-lens/core/engine';
import type { CameraState } from '../../batches/camera-state.js';
import type { DrawVariant } from '../../batches/draw-variant.js';
import type { FrameGiven } from '../../batches/frame-uniforms.js';
import type { CommandRange } from '../../batches/scene-pass.js';
import type { GraphTexture } from '../../frame/frame-graph.js';
import type { FramePlan, PlanPainter } from '../../frame/frame-plan.js';
import type {
  BindGroupEntry,
  Device,
  DeviceBindGroup,
  DevicePipeline,
  DeviceTexture,
  RenderPass,
} from '../../gpu/device.js';
import { freeUnused } from '../../resources/kept.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import {
  BINDING_FRAME,
  FRAME_CROP,
  FRAME_FLOATS,
  FRAME_ORIGIN,
  PUT_LAYER_DEPTH,
  PUT_LAYER_FLOATS,
  PUT_LAYER_LEAST,
  PUT_LAYER_MOST,
  PUT_LAYER_OCCLUDED,
  PUT_LAYER_ORIGIN,
} from '../../compiled/layouts.js';
import type { FrameAt } from '../feature.js';
import type { EffectChain } from './effect-chain.js';
import { type EffectArea, newMoment, tellMoment } from './effect-moment.js';

/** Layers are as large as what they hold, in so many steps of the picture: one that grows keeps its textures for a while. */
const STEPS = 8;
const LEAST_STEP = 32;
const NOTHING = [0, 0, 0, 0];

/** Who draws what is blended of a layer, with the layers within it. */
interface DrawsAmong {
  drawAmong(
    pass: RenderPass,
    state: CameraState,
    draw: (range: CommandRange) => void,
    outer: NodeLayer,
  ): boolean;
}

/** Where the layer of a node lies, pixels of the picture that it is put into. */
export interface LayerPlace {
  /** Its upper left, in the picture. */
  left: number;
  top: number;
  /** What of it is its own: see `EffectArea`. */
  area: Readonly<EffectArea>;
  /** Of the picture. */
  width: number;
  height: number;
}

/** Is given what the effects of a node came to, while the picture is drawn, outside of passes. */
export type LayerTap = (result: DeviceTexture, at: LayerPlace) => void;

/** The layer of a node with effects, as it lies in the picture at hand. */
export class NodeLayer {
  /** The layer that it is put into; undefined: the picture. */
  outer: NodeLayer | undefined;
  /** How many layers it lies in. */
  level = 0;
  chain: EffectChain | undefined;
  /** Pixels of its textures. */
  width = 0;
  height = 0;
  /** Metres along the camera's way of looking. */
  distance = 0;
  isPut = false;
  /** Who is given what it came to. */
  tap: LayerTap | undefined;
  /** Whether a line around it is seen where it is hidden. */
  private isSeenThrough = false;
  lastUsed = 0;
  readonly bounds = new ScreenBounds();
  /** Where its upper left lies in the picture. Pixels. */
  private left = 0;
  private top = 0;
  /** What its effects are told; its area is where its own pixels would lie if the picture had no edges. */
  private readonly moment = newMoment();
  private readonly variant: DrawVariant;
  private readonly frameBlock: UniformBlock;
  private readonly block: UniformBlock;
  private base: readonly BindGroupEntry[] | undefined;
  private entries: readonly BindGroupEntry[] = [];
  /** What is put: as its passes left it in the frame at hand. */
  private result: DeviceTexture | undefined;
  private depth: DeviceTexture | undefined;
  private readonly groups = new Map<
    DeviceTexture,
    { group: DeviceBindGroup; depth: DeviceTexture; lastUsed: number }
  >();
  private state: CameraState | undefined;
  private given: FrameGiven | undefined;
  /** How far effects carry what it holds, those within it counted; and those within it alone. Pixels. */
  private readonly reach = [0, 0];
  private readonly innerReach = [0, 0];

  constructor(
    private readonly device: Device,
    readonly node: SceneNode,
  ) {
    this.frameBlock = new UniformBlock(device, 'frame of a layer', FRAME_FLOATS);
    this.block = new UniformBlock(device, 'layer', PUT_LAYER_FLOATS);
    this.variant = {
      takes: ({ batch }) => batch.apart.layer === node,
      shapeOf: ({ shape }) => shape,
      pipelineOf: (ready, mirrored, scene) => scene.pipelineOf(ready, mirrored),
    };
  }

  /** Finds out what of the picture is covered by what is below the node, without what effects make of it. */
  measure({ camera: { camera }, scene: { columns }, state, given }: FrameAt): void {
    const { bounds, node } = this;
    this.state = state;
    this.given = given;
    this.innerReach.fill(0);
    bounds.reset();
    const near = camera?.type === 'perspective' ? camera.znear : -Infinity;
    for (let row = node.row; row !== NONE; row = columns.nextInSubtree(row, node.row)) {
      if ((columns.flags[row]! & SHOWN) === 0) continue;
      for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!)
        bounds.grow(state.view, near, columns.worldSphere, item * 4);
    }
  }

  /** Finds out how large its textures are to be, and where they lie; those within it were asked before. */
  lay(): void {
    const { bounds, innerReach, node, outer, reach } = this;
    const { area } = this.moment;
    const { width, height, scale } = this.given!; // it was measured, here and below
    for (const axis of [0, 1] as const) {
      const own = innerReach[axis]! + Math.ceil(effectReach(node.effects, axis) * scale);
      reach[axis] = Math.min(axis === 0 ? width : height, own);
      // What is put into another has to have room there.
      if (outer) outer.innerReach[axis] = Math.max(outer.innerReach[axis]!, reach[axis]!);
    }
    const [across, down] = reach as [number, number];
    // One pixel more: edges are smoothed.
    const left = Math.floor(((bounds.left + 1) / 2) * width) - across - 1;
    const right = Math.ceil(((bounds.right + 1) / 2) * width) + across + 1;
    const top = Math.floor(((1 - bounds.top) / 2) * height) - down - 1;
    const bottom = Math.ceil(((1 - bounds.bottom) / 2) * height) + down + 1;
    this.width = this.height = 0;
    if (right <= 0 || left >= width || bottom <= 0 || top >= height) return;
    // What lies beyond the picture's edges counts as far as effects may carry it into the picture.
    this.left = Math.max(left, -across);
    this.top = Math.max(top, -down);
    const most = this.device.limits.maxTextureSize;
    this.width = roomFor(Math.min(right, width + across) - this.left, width, most);
    this.height = roomFor(Math.min(bottom, height + down) - this.top, height, most);
    const isBounded = Number.isFinite(left + right + top + bottom);
    area.left = (isBounded ? left : 0) - this.left;
    area.top = (isBounded ? top : 0) - this.top;
    area.width = isBounded ? right - left : width;
    area.height = isBounded ? bottom - top : height;
  }

  /** Takes over what its effects say now. To be called outside a pass. */
  begin(at: FrameAt): void {
    const { block, bounds, chain, moment, node, outer } = this;
    const { area } = moment;
    tellMoment(moment, at);
    const { isParallel, projection } = moment;
    const { frame } = at;
    this.lastUsed = frame;
    chain?.prepare(node.effects, frame, moment);
    this.distance = Math.min((bounds.nearest + bounds.farthest) / 2, Number.MAX_VALUE);
    // Sixteen numbers; the last row of a perspective is 0 0 -1 0.
    const depth =
      (projection[14]! - projection[10]! * this.distance) / (isParallel ? 1 : Math.max(1e-6, this.distance));
    const { values } = block;
    values[PUT_LAYER_ORIGIN] = this.left - (outer?.left ?? 0);
    values[PUT_LAYER_ORIGIN + 1] = this.top - (outer?.top ?? 0);
    values[PUT_LAYER_DEPTH] = Math.min(1, Math.max(0, depth));
    values[PUT_LAYER_LEAST] = Math.max(0, area.left);
    values[PUT_LAYER_LEAST + 1] = Math.max(0, area.top);
    values[PUT_LAYER_MOST] = Math.min(this.width, area.left + area.width);
    values[PUT_LAYER_MOST + 1] = Math.min(this.height, area.top + area.height);
    const line = node.effects.find(isSeenThrough)?.occludedColor;
    this.isSeenThrough = line !== undefined;
    for (let k = 0; k < 4; k++)
      values[PUT_LAYER_OCCLUDED + k] = line ? (k < 3 ? line[k]! * line[3] : line[3]) : 0; // four by type
    block.upload();
  }

  /** What shaders are told of the picture, narrowed to the part that it holds. To be called outside a pass. */
  takeFrame(picture: Float32Array): void {
    const { frameBlock, left, top, width, height } = this;
    const { values } = frameBlock;
    const across = this.given!.width / width;
    const up = this.given!.height / height;
    values.set(picture);
    values[FRAME_ORIGIN] = left;
    values[FRAME_ORIGIN + 1] = top;
    values[FRAME_CROP] = across;
    values[FRAME_CROP + 1] = up;
    values[FRAME_CROP + 2] = across - (2 * left) / width - 1;
    values[FRAME_CROP + 3] = 1 - up + (2 * top) / height;
    frameBlock.upload();
  }

  /**
   * Adds the passes that draw and treat it.
   *
   * @param name of its passes
   * @param inner what the layers within it came to
   * @param host what is bound in the frame's group besides
   * @returns what is read where it is put
   */
  addPasses(
    plan: FramePlan,
    painter: PlanPainter,
    name: string,
    inner: readonly GraphTexture[],
    host: { readonly entries: readonly BindGroupEntry[] },
    among: DrawsAmong,
  ): readonly GraphTexture[] {
    const { chain, height, width } = this;
    const { device, formats, graph, shape } = plan;
    const { sampleCount } = shape;
    const size = { width, height };
    const picture = graph.texture(name, { ...size, format: formats.color });
    const depth = graph.texture(`${name} depth`, { ...size, format: formats.depth, sampleCount });
    const samples =
      sampleCount > 1
        ? graph.texture(`${name} samples`, { ...size, format: formats.color, sampleCount })
        : undefined;
    const flat = samples ? graph.texture(`${name} flat depth`, { ...size, format: formats.depth }) : depth;
    const shown = graph.texture(`${name} shown`, { ...size, format: 'rgba8unorm' });
    const isTreated = chain?.treatsShown === true;
    const result = isTreated ? graph.texture(`${name} treated`, { ...size, format: 'rgba8unorm' }) : shown;
    graph.pass({
      name,
      isScene: true,
      reads: [...plan.readTextures, ...inner],
      colors: [
        samples
          ? { texture: samples, resolve: picture, clear: NOTHING }
          : { texture: picture, clear: NOTHING },
      ],
      depth: { texture: depth, clear: 0 },
      run: (pass) => {
        const entries = this.entriesFor(plan.bindings(host.entries));
        this.result = graph.of(result);
        this.depth = graph.of(flat);
        const draw = (range: CommandRange): void => painter.drawVariant(pass, this.variant, entries, range);
        draw('opaque');
        // It is the picture's at hand, and it has an attachment.
        if (!among.drawAmong(pass!, this.state!, draw, this)) draw('blended');
      },
    });
    if (flat !== depth)
      graph.pass({
        name: `${name} depth`,
        reads: [depth],
        writes: [flat],
        run: () => device.copyDepth(graph.of(depth), graph.of(flat)),
      });
    const lit = chain ? chain.addLight(plan, size, picture, `${name}: `, { depths: () => flat }) : picture;
    graph.pass({
      name: `${name} shown`,
      reads: [lit],
      writes: [shown],
      run: () => painter.encode(graph.of(lit), graph.of(shown)),
    });
    if (isTreated) chain.addPasses(graph, size, shown, result, `${name}: `, { depths: () => flat });
    if (this.tap)
      // It writes nothing: who reads comes behind it.
      graph.pass({
        name: `${name} told`,
        reads: [result],
        writes: [result],
        run: () => this.tell(graph.of(result)),
      });
    return [result, flat];
  }

  private tell(result: DeviceTexture): void {
    const { left, moment, top } = this;
    const { height, width } = this.given!; // its passes ran before
    this.tap?.(result, { left, top, area: moment.area, width, height });
  }

  /** Puts it where it stands. */
  put(
    pass: RenderPass,
    colors: DevicePipeline,
    depths: DevicePipeline,
    occluded: DevicePipeline,
    frame: number,
  ): void {
    const { left, top, outer, width, height } = this;
    const target = outer ?? this.given!;
    const [x, y] = [left - (outer?.left ?? 0), top - (outer?.top ?? 0)];
    const [x0, y0] = [Math.max(0, x), Math.max(0, y)];
    const [x1, y1] = [Math.min(target.width, x + width), Math.min(target.height, y + height)];
    if (x1 <= x0 || y1 <= y0) return;
    pass.setViewport(x0, y0, x1 - x0, y1 - y0);
    pass.setPipeline(colors);
    pass.setBindGroup(0, this.groupFor(frame));
    pass.draw(3);
    if (this.isSeenThrough) {
      pass.setPipeline(occluded);
      pass.draw(3);
    }
    // What is drawn later is hidden by it.
    pass.setPipeline(depths);
    pass.draw(3);
    pass.setViewport(0, 0, target.width, target.height);
  }

  sweep(frame: number): void {
    freeUnused(this.groups, frame, ({ group }) => group.dispose());
  }

  dispose(): void {
    this.sweep(Infinity);
    this.frameBlock.buffer.dispose();
    this.block.buffer.dispose();
  }

  /** What its pass binds in the frame's group: the same array while that of the picture is. */
  private entriesFor(base: readonly BindGroupEntry[]): readonly BindGroupEntry[] {
    if (base !== this.base) {
      this.base = base;
      this.entries = [...base, { binding: BINDING_FRAME, buffer: this.frameBlock.buffer }];
    }
    return this.entries;
  }

  private groupFor(frame: number): DeviceBindGroup {
    const result = this.result!; // its passes ran before
    const depth = this.depth!;
    let held = this.groups.get(result);
    if (held?.depth !== depth) {
      held?.group.dispose();
      const entries = [
        { binding: 0, texture: result },
        { binding: 1, texture: depth },
        { binding: 2, buffer: this.block.buffer },
      ];
      const group = this.device.createBindGroup({ label: 'layer', entries });
      this.groups.set(result, (held = { group, depth, lastUsed: frame }));
    }
    held.lastUsed = frame;
    return held.group;
  }
}

const isSeenThrough = (effect: Effect): effect is OutlineEffect =>
  effect.type === 'outline' && effect.occludedColor !== undefined;

/** Pixels of a side of a layer that is to hold so many of them. */
function roomFor(pixels: number, ofPicture: number, most: number): number {
  const step = Math.max(LEAST_STEP, Math.ceil(ofPicture / STEPS / LEAST_STEP) * LEAST_STEP);
  return Math.min(most, Math.ceil(pixels / step) * step);
}
