import { type Scene, type Swarm, swarmPart } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer } from '../../gpu/device.js';
import { Ranges } from '../../resources/ranges.js';

/** Bytes of a step: four floats. */
export const STEP = 16;
/** Frames in which a swarm that the scene holds no more may still come back without being uploaded again. */
const GRACE = 2;

interface Held {
  /** Where its values begin, and how many there are, in steps. */
  head: number;
  steps: number;
  /** Place in its log up to which they are on the GPU. */
  seen: number;
  /** The frame in which the scene was first seen without it; Infinity while it has it. */
  goneAt: number;
}

/**
 * The swarms of one scene, side by side in one storage buffer. The room of those that went is used again; a buffer that
 * grows is copied on the GPU, so that only what is new is uploaded.
 */
export class SceneSwarms {
  buffer: DeviceBuffer | undefined;
  lastUsed = 0;
  private readonly held = new Map<Swarm, Held>();
  private ranges = new Ranges();
  /** Steps that are taken. */
  private used = 0;
  private batchesVersion = -1;

  constructor(
    private readonly device: Device,
    private readonly scene: Scene,
  ) {}

  /** Where a swarm's values begin, in steps of four floats. */
  headOf(swarm: Swarm): number {
    return this.held.get(swarm)?.head ?? 0;
  }

  /** Uploads what came and what changed. To be called outside a pass, when the scene's batches are up to date. */
  sync(frame: number): void {
    const { batchesVersion } = this.scene.drawables;
    if (batchesVersion !== this.batchesVersion) {
      this.batchesVersion = batchesVersion;
      this.note(frame);
    }
    let isAnyGone = false;
    for (const [swarm, held] of this.held) {
      if (held.goneAt === Infinity) this.upload(swarm, held);
      else if (held.goneAt + GRACE <= frame) isAnyGone = true;
    }
    if (isAnyGone) this.evict(frame - GRACE);
  }

  /** Gives up at once what the scene holds no more. */
  letGo(): void {
    this.batchesVersion = -1;
    this.note(0);
    this.evict(Infinity);
  }

  dispose(): void {
    this.buffer?.dispose();
    this.buffer = undefined;
    this.held.clear();
  }

  /** Finds out which swarms came and which went. */
  private note(frame: number): void {
    const there = new Set<Swarm>();
    for (const batch of this.scene.drawables.batches) {
      const part = batch && swarmPart(batch.geometry);
      if (part) there.add(part.swarm);
    }
    for (const [swarm, held] of this.held) {
      if (there.delete(swarm)) held.goneAt = Infinity;
      else if (held.goneAt === Infinity) held.goneAt = frame;
    }
    for (const swarm of there) this.add(swarm);
  }

  private add(swarm: Swarm): void {
    const steps = swarm.values.length / 4;
    this.held.set(swarm, { head: this.room(steps), steps, seen: -1, goneAt: Infinity });
    this.used += steps;
  }

  private room(steps: number): number {
    let head = this.ranges.take(steps);
    if (head === undefined) {
      // Rather the room of what may come back than more.
      this.evict(Infinity);
      head = this.ranges.take(steps);
    }
    if (head !== undefined) return head;
    const { capacity } = this.ranges;
    const isAlone = this.used === 0;
    this.grow(isAlone ? steps : Math.max(capacity + steps, Math.ceil(capacity * 1.5)), isAlone);
    return this.ranges.take(steps)!; // there is room now
  }

  private grow(capacity: number, isEmpty: boolean): void {
    const { device, buffer: old } = this;
    if (isEmpty) this.ranges = new Ranges();
    this.ranges.grow(capacity);
    this.buffer = device.createBuffer({ label: 'swarms', usage: 'storage', size: capacity * STEP });
    if (old && !isEmpty) {
      device.copyBuffer(old, this.buffer);
      // What is recorded needs both of them.
      device.submit();
    }
    old?.dispose();
  }

  /** Gives up what went in a frame or before it. */
  private evict(frame: number): void {
    for (const [swarm, { head, steps, goneAt }] of this.held) {
      if (goneAt === Infinity || goneAt > frame) continue;
      this.held.delete(swarm);
      this.ranges.give(head, steps);
      this.used -= steps;
    }
    const { capacity } = this.ranges;
    if (this.used * 4 <= capacity) this.shrink();
  }

  /** What is left, in a buffer of its size. */
  private shrink(): void {
    this.buffer?.dispose();
    this.buffer = undefined;
    this.ranges = new Ranges();
    if (this.used === 0) return;
    this.grow(this.used, true);
    for (const held of this.held.values()) {
      held.head = this.ranges.take(held.steps)!; // as large as all of them
      held.seen = -1;
    }
  }

  private upload({ words, log }: Swarm, held: Held): void {
    if (held.seen === log.end) return;
    let [from, to] = [0, held.steps];
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
