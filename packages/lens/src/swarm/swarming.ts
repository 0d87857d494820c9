import { type CameraView, type Scene, type SpanLog, type Swarm, swarmPart } from '@umber-lens/core';
import type { BindGroupEntry, Device, DeviceBuffer } from '../gpu/device.js';
import type { EyeState } from '../passes/eye-state.js';
import type { PreparedScene } from '../passes/prepared-scene.js';
import { EyeSwarms } from './eye-swarms.js';

/** Bytes of a step: four floats. */
const STEP = 16;

interface Held {
  /** Where its values begin, in steps. */
  head: number;
  /** Place in its log up to which they are on the GPU. */
  seen: number;
}

/** The swarms of scenes on the GPU: the values of all that a scene draws lie side by side in one buffer. */
export class Swarming {
  /** Another array when the buffer is another. */
  entries: readonly BindGroupEntry[];
  private readonly nothing: DeviceBuffer;
  private readonly byScene = new Map<Scene, SceneSwarms>();
  private buffer: DeviceBuffer;
  private current: SceneSwarms | undefined;

  constructor(private readonly device: Device) {
    this.nothing = device.createBuffer({ label: 'no swarms', usage: 'storage', size: STEP });
    this.buffer = this.nothing;
    this.entries = this.made();
  }

  /** Uploads what came and what changed. To be called outside a pass, when the scene's batches are up to date. */
  prepare({ scene, batches }: PreparedScene, frame: number): void {
    let known = this.byScene.get(scene);
    if (!known) {
      if (!batches.some((ready) => ready?.geometry.isSwarm)) {
        this.use(undefined);
        return;
      }
      this.byScene.set(scene, (known = new SceneSwarms(this.device)));
    }
    known.lastUsed = frame;
    for (const ready of batches) {
      const part = ready && swarmPart(ready.batch.geometry);
      if (part) known.keep(part.swarm);
    }
    known.sync();
    this.use(known);
  }

  /** Chooses what of the swarms in its list an eye draws. @returns whether that is other than before */
  updateEye(
    state: EyeState,
    scene: Scene,
    view: CameraView,
    isListed: boolean,
    isParallel: boolean,
    height: number,
  ): boolean {
    if (!this.current && !state.swarms) return false;
    const isNew = !state.swarms;
    const { choice, list } = state;
    const swarms = (state.swarms ??= new EyeSwarms(this.device));
    return swarms.update(list, scene, this, view, isListed || isNew, isParallel, height, choice);
  }

  /** Where a swarm's values begin in the buffer, in steps of four floats. */
  headOf(swarm: Swarm): number {
    return this.current?.held.get(swarm)?.head ?? 0;
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    for (const [scene, known] of this.byScene) {
      if (known.lastUsed >= frame) continue;
      this.byScene.delete(scene);
      if (known === this.current) this.use(undefined);
      known.buffer?.dispose();
    }
  }

  private use(known: SceneSwarms | undefined): void {
    this.current = known;
    const buffer = known?.buffer ?? this.nothing;
    if (buffer === this.buffer) return;
    this.buffer = buffer;
    this.entries = this.made();
  }

  private made(): BindGroupEntry[] {
    return [{ binding: 24, buffer: this.buffer }];
  }
}

/** The swarms of one scene. */
class SceneSwarms {
  readonly held = new Map<Swarm, Held>();
  buffer: DeviceBuffer | undefined;
  lastUsed = 0;
  private end = 0;
  private isWhole = false;

  constructor(private readonly device: Device) {}

  keep(swarm: Swarm): void {
    if (this.held.has(swarm)) return;
    this.held.set(swarm, { head: this.end, seen: -1 });
    this.end += swarm.values.length / 4;
    this.isWhole = false;
  }

  sync(): void {
    if (!this.isWhole) {
      this.isWhole = true;
      this.buffer?.dispose();
      this.buffer = this.device.createBuffer({ label: 'swarms', usage: 'storage', size: this.end * STEP });
      for (const held of this.held.values()) held.seen = -1;
    }
    for (const [swarm, held] of this.held) this.upload(swarm, swarm.log, held);
  }

  private upload({ words }: Swarm, log: SpanLog, held: Held): void {
    if (held.seen === log.end) return;
    let [from, to] = [0, words.length / 4];
    if (log.holds(held.seen) && held.seen >= 0) {
      [from, to] = [Infinity, 0];
      for (let at = held.seen; at < log.end; at++) {
        from = Math.min(from, log.firstAt(at));
        to = Math.max(to, log.firstAt(at) + log.countAt(at));
      }
    }
    held.seen = log.end;
    if (to > from)
      this.device.writeBuffer(this.buffer!, (held.head + from) * STEP, words, from * 4, (to - from) * 4); // made before
  }
}
