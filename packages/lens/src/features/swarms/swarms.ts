import type { Scene, Swarm } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBuffer } from '../../gpu/device.js';
import { BINDING_SWARMS } from '../../compiled/layouts.js';
import type { Feature, FeatureHost, FollowList, FrameAt } from '../feature.js';
import type { PreparedScene } from '../../batches/prepared-scene.js';
import { CameraSwarms } from './camera-swarms.js';
import { SceneSwarms, STEP } from './scene-swarms.js';
import { freeUnused } from '../../resources/kept.js';

/** The swarms of scenes on the GPU: the values of all that a scene draws lie side by side in one buffer. */
export class Swarms implements Feature {
  readonly isPlacing = true;
  /** Another array when the buffer is another. */
  entries: readonly BindGroupEntry[];
  private readonly nothing: DeviceBuffer;
  private readonly byScene = new Map<Scene, SceneSwarms>();
  private buffer: DeviceBuffer;
  private current: SceneSwarms | undefined;

  private readonly device: Device;

  constructor({ device }: FeatureHost) {
    this.device = device;
    this.nothing = device.createBuffer({ label: 'no swarms', usage: 'storage', size: STEP });
    this.buffer = this.nothing;
    this.entries = this.made();
  }

  prepare({ prepared, frame }: FrameAt): void {
    this.prepareUnlit(prepared, frame);
  }

  /** Uploads what came and what changed. To be called outside a pass, when the scene's batches are up to date. */
  prepareUnlit({ scene, batches }: PreparedScene, frame: number): void {
    let known = this.byScene.get(scene);
    if (!known) {
      if (!batches.some((ready) => ready?.geometry.placedBy === 'instances')) {
        this.use(undefined);
        return;
      }
      this.byScene.set(scene, (known = new SceneSwarms(this.device, scene)));
    }
    known.lastUsed = frame;
    known.sync(frame);
    this.use(known);
  }

  /** Chooses what of the swarms in its list a camera draws. @returns whether that is other than before */
  readonly followList: FollowList = (state, scene, view, isListed, isParallel, height) => {
    if (!this.current && !state.swarms) return false;
    const isNew = !state.swarms;
    const { choice, list } = state;
    // It is made here alone.
    const swarms = (state.swarms ??= new CameraSwarms(this.device)) as CameraSwarms;
    return swarms.update(list, scene, this, view, isListed || isNew, isParallel, height, choice);
  };

  /** Where a swarm's values begin in the buffer, in steps of four floats. */
  headOf(swarm: Swarm): number {
    return this.current?.headOf(swarm) ?? 0;
  }

  /** Gives the room of swarms up that their scenes hold no more. */
  letGo(): void {
    for (const known of this.byScene.values()) known.letGo();
    if (this.current && !this.current.buffer) this.use(undefined);
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    freeUnused(this.byScene, frame, (known) => {
      if (known === this.current) this.use(undefined);
      known.dispose();
    });
  }

  private use(known: SceneSwarms | undefined): void {
    this.current = known;
    const buffer = known?.buffer ?? this.nothing;
    if (buffer === this.buffer) return;
    this.buffer = buffer;
    this.entries = this.made();
  }

  private made(): BindGroupEntry[] {
    return [{ binding: BINDING_SWARMS, buffer: this.buffer }];
  }
}
