import type { CameraState } from '../../batches/camera-state.js';
import type { FramePlan, PlanBinding, PlanPainter } from '../../frame/frame-plan.js';
import type { BindGroupEntry, Device, DeviceBuffer } from '../../gpu/device.js';
import { freeUnused } from '../../resources/kept.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import {
  BINDING_MOTION,
  BINDING_POSES_BEFORE,
  BINDING_TRANSFORMS_BEFORE,
  MOTION_BEFORE,
  MOTION_FLOATS,
  MOTION_NOW,
} from '../../compiled/layouts.js';
import type { PreparedBatch, PreparedScene } from '../../batches/prepared-scene.js';
import type { Facts, Feature, FeatureHost, FrameAt, FramesBefore } from '../feature.js';
import type { Flag } from '../flags.js';
import { WANTS } from '../wants.js';
import { halton, SAMPLES, shiftFrame } from './jitter.js';
import { surfaceTargets } from './needs.js';
import { SURFACE_FORMATS, SurfaceVariant } from './surface-variant.js';

const NAMES = ['normals', 'mirrored', 'velocities', 'things'] as const;
const NOTHING = [0, 0, 0, 0] as const;
const NO_FLAGS: readonly never[] = [];

/** Samples of a pixel that count where the camera moves: more would show what was elsewhere. */
const MOVING_SAMPLES = 9;

/** Where things were in the frame before, as one camera saw them. */
class Before {
  lastUsed: number;
  /** Samples that pixels hold of what stands still. */
  samples = 0;
  /** Frames since anything changed. */
  still = 0;
  /** Which of the places within a pixel the frame has. */
  index = 0;
  /** Of directions, right, up and forward, in the clip space of the frame before: x, y and w each. */
  readonly sky = new Float32Array(9);
  private readonly motion: UniformBlock;
  private transforms: DeviceBuffer | undefined;
  private poses: DeviceBuffer | undefined;
  /** Of the camera's frames the last that it was told of. */
  private draws = -1;
  /** What is bound besides, and what besides that. */
  private base: readonly BindGroupEntry[] | undefined;
  private entries: readonly BindGroupEntry[] = [];
  private places: readonly { binding: number; buffer: DeviceBuffer }[] = [];

  constructor(
    private readonly device: Device,
    private readonly state: CameraState,
    frame: number,
  ) {
    this.lastUsed = frame;
    this.motion = new UniformBlock(device, 'motion', MOTION_FLOATS);
  }

  /**
   * To be called outside a pass.
   *
   * @param transforms where things are
   * @param isMoving whether somebody asks how they have moved: else nothing is kept of them
   */
  prepare(frame: number, transforms: DeviceBuffer, poses: DeviceBuffer, isMoving: boolean): void {
    const { motion, state } = this;
    const { viewProjection } = state.view;
    // Views take turns, and one may have been drawn without effects meanwhile.
    const isNew = this.draws !== state.draws - 1;
    this.draws = isMoving ? state.draws : -1;
    this.lastUsed = frame;
    const { values } = motion;
    if (isNew) this.samples = 0;
    values.copyWithin(MOTION_BEFORE, MOTION_NOW, MOTION_NOW + 16);
    values.set(viewProjection, MOTION_NOW);
    if (isNew) values.set(viewProjection, MOTION_BEFORE);
    let hasMoved = false;
    for (let k = 0; k < 16; k++) if (values[MOTION_BEFORE + k] !== values[MOTION_NOW + k]) hasMoved = true;
    this.samples = Math.min(hasMoved ? MOVING_SAMPLES : SAMPLES - 1, this.samples) + 1;
    this.still = hasMoved || isNew || this.device.counts.bytesUploaded > 0 ? 0 : this.still + 1;
    motion.upload();
    this.writeSky();
    if (!isMoving) {
      this.bind(transforms, poses);
      return;
    }
    this.transforms = this.kept(this.transforms, transforms, isNew);
    this.poses = this.kept(this.poses, poses, isNew);
    this.bind(this.transforms, this.poses);
  }

  /** What is bound besides, with where things were: the same array while both are. */
  with(base: readonly BindGroupEntry[]): readonly BindGroupEntry[] {
    if (base === this.base) return this.entries;
    this.base = base;
    return (this.entries = [
      ...base,
      { binding: BINDING_MOTION, buffer: this.motion.buffer },
      ...this.places,
    ]);
  }

  /** Shaders have both bindings, whether they ask for them or not. */
  private bind(transforms: DeviceBuffer, poses: DeviceBuffer): void {
    const [first, second] = this.places;
    if (first?.buffer === transforms && second?.buffer === poses) return;
    this.base = undefined;
    this.places = [
      { binding: BINDING_TRANSFORMS_BEFORE, buffer: transforms },
      { binding: BINDING_POSES_BEFORE, buffer: poses },
    ];
  }

  /** Keeps where things are for the next frame. */
  keep(transforms: DeviceBuffer, poses: DeviceBuffer): void {
    this.device.copyBuffer(transforms, this.transforms!); // made by prepare
    this.device.copyBuffer(poses, this.poses!);
  }

  dispose(): void {
    this.motion.buffer.dispose();
    this.transforms?.dispose();
    this.poses?.dispose();
  }

  private kept(known: DeviceBuffer | undefined, now: DeviceBuffer, isNew: boolean): DeviceBuffer {
    let kept = known;
    if (kept?.size !== now.size) {
      kept?.dispose();
      kept = this.device.createBuffer({ label: `${now.label} before`, usage: 'storage', size: now.size });
    } else if (!isNew) return kept;
    this.device.copyBuffer(now, kept);
    return kept;
  }

  /** Where directions were: what nothing covers moves with the camera alone. */
  private writeSky(): void {
    const { sky } = this;
    const { values } = this.motion;
    const { forward, projection, view } = this.state.view;
    sky.fill(0);
    for (let k = 0; k < 3; k++) {
      // As frame.wgsl has them, with what is ahead of the picture's own middle.
      const right = view[k * 4]! / projection[0]!;
      const up = view[k * 4 + 1]! / projection[5]!;
      const ahead = forward[k]! + right * projection[8]! + up * projection[9]!;
      for (let row = 0; row < 3; row++) {
        const before = values[MOTION_BEFORE + k * 4 + (row === 2 ? 3 : row)]!; // sixteen numbers
        sky[row]! += before * right;
        sky[3 + row]! += before * up;
        sky[6 + row]! += before * ahead;
      }
    }
  }
}

/**
 * What effects ask of surfaces: which way they face, how they mirror, how they move. What is solid is drawn once more for it, ahead of
 * the picture; blended things, and nodes with effects of their own, are not in it.
 */
export class Surfaces implements Feature, FramesBefore {
  hasPasses = false;
  private readonly variants = [1, 2, 3, 4].map((targets) => new SurfaceVariant(targets));
  private targets = 0;
  private readonly before = new Map<CameraState, Before>();
  /** Of the picture at hand. */
  private at: Before | undefined;
  private transforms: DeviceBuffer | undefined;
  private poses: DeviceBuffer | undefined;
  private width = 1;
  private height = 1;
  private isJittered = false;
  readonly shift: [x: number, y: number] = [0, 0];
  private onDemand = false;
  /** What the picture that pipelines are made for asks for. */
  private wanted = 0;

  constructor(
    private readonly host: FeatureHost,
    private readonly skinning: { readonly posesBuffer: DeviceBuffer },
  ) {}

  /** How many targets the passes have: part of the shape of a frame. */
  get shape(): number {
    return this.hasPasses ? this.targets : 0;
  }

  get samples(): number {
    return this.at?.samples ?? 0;
  }

  get sky(): Float32Array | undefined {
    return this.at?.sky;
  }

  flagsFor(facts: Facts): readonly Flag[] {
    // Directions and velocities below 0 need floats.
    const isAble = this.host.device.features.has('float16-renderable');
    this.wanted = isAble && WANTS.surfaces(facts) ? surfaceTargets(facts.settings.finish) : 0;
    return NO_FLAGS;
  }

  makePipelines(ready: PreparedBatch, prepared: PreparedScene): void {
    const variant = this.variants[this.wanted - 1];
    if (variant?.takes(ready)) variant.pipelineOf(ready, 0, prepared);
  }

  prepare(at: FrameAt): void {
    const { frame, given, prepared, settings, state } = at;
    const { buffer } = prepared.transforms;
    this.targets = this.wanted;
    this.hasPasses = this.targets > 0 && buffer !== undefined;
    this.at = undefined;
    this.isJittered = false;
    if (!this.hasPasses) return;
    let before = this.before.get(state);
    if (!before) this.before.set(state, (before = new Before(this.host.device, state, frame)));
    this.transforms = buffer;
    this.poses = this.skinning.posesBuffer;
    before.prepare(frame, buffer!, this.poses, this.targets > 2); // looked at above
    this.at = before;
    this.width = given.width;
    this.height = given.height;
    this.onDemand = settings.onDemand;
    this.isJittered = settings.finish.some((effect) => effect?.type === 'temporal-antialiasing');
  }

  /** Shifts the picture by less than a pixel, another way in each frame, where its frames are put together. */
  adjustFrame(values: Float32Array): void {
    const { at } = this;
    if (!at || !this.isJittered) return;
    // Pictures on demand rest when they are as good as they get.
    const isSettled = this.onDemand && at.still > SAMPLES;
    if (!isSettled) at.index = (at.index % SAMPLES) + 1;
    const { shift } = this;
    shift[0] = isSettled ? 0 : halton(at.index, 2) - 0.5;
    shift[1] = isSettled ? 0 : 0.5 - halton(at.index, 3);
    if (!isSettled) shiftFrame(values, (2 * shift[0]) / this.width, (-2 * shift[1]) / this.height);
  }

  addPasses(plan: FramePlan, painter: PlanPainter): readonly PlanBinding[] {
    const { formats, graph, shape } = plan;
    const { width, height } = shape;
    const { targets } = this;
    const pictures = SURFACE_FORMATS.slice(0, targets).map(
      (format, i) => graph.texture(NAMES[i]!, { width, height, format }), // one each
    );
    const depth = graph.texture('depth of surfaces', { width, height, format: formats.depth });
    const variant = this.variants[targets - 1]!; // one to four
    graph.pass({
      name: 'surfaces',
      isScene: true,
      colors: pictures.map((texture) => ({ texture, clear: NOTHING })),
      depth: { texture: depth, clear: 0 },
      run: (pass) => painter.drawVariant(pass, variant, this.at!.with(this.host.entries), 'opaque'), // made by prepare
    });
    const [normal, mirror, velocity, things] = pictures;
    plan.surfaces = { normal: normal!, mirror, velocity, things, depth }; // one to four
    return [];
  }

  addAfter({ graph }: FramePlan): void {
    if (this.targets < 3) return;
    const kept = graph.outside('places before');
    graph.pass({
      name: 'keep places',
      writes: [kept],
      run: () => this.at!.keep(this.transforms!, this.poses!), // made by prepare
    });
  }

  sweep(frame: number): void {
    freeUnused(this.before, frame, (before) => before.dispose());
  }
}
