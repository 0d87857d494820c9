import {
  type CameraView,
  type DrawList,
  INSTANCE_WORDS,
  type Scene,
  type Swarm,
  type SwarmCamera,
  type SwarmPart,
  swarmPart,
  SwarmView,
} from '@umber-lens/core/engine';
import type { Device, DeviceBuffer } from '../../gpu/device.js';
import type { DrawChoice, SwarmInstances } from '../../batches/camera-state.js';
import type { Swarms } from './swarms.js';

/** Updates after which what was not in view any more is let go of. */
const KEEP_UPDATES = 256;

/** What of a scene's swarms one camera draws: instances by command of its list, side by side in one buffer. */
export class CameraSwarms implements SwarmInstances {
  buffer: DeviceBuffer | undefined;
  /** By command: bytes from the buffer's start, and how many instances; only for those of swarms. */
  offsets = new Float64Array(0);
  counts = new Uint32Array(0);
  /** Copies that are drawn. */
  copies = 0;
  private words = new Uint32Array(1024);
  /** By swarm, then by row of the node that carries it. */
  private readonly views = new Map<Swarm, Map<number, Seen>>();
  private readonly camera: SwarmCamera = {
    view: undefined as unknown as CameraView,
    pixelsAtOne: 1,
    isParallel: false,
  };
  private updates = 0;

  constructor(private readonly device: Device) {}

  /**
   * Chooses what is drawn, and uploads it where it differs. To be called outside a pass, after each update of the list.
   *
   * @param isListed whether the list is another than at the last call
   * @param height pixels of the picture
   * @param choice who chooses from some of them instead
   * @returns whether anything differs
   */
  update(
    list: DrawList,
    { columns: { world } }: Scene,
    swarming: Swarms,
    view: CameraView,
    isListed: boolean,
    isParallel: boolean,
    height: number,
    choice?: DrawChoice,
  ): boolean {
    const { camera } = this;
    camera.view = view;
    camera.isParallel = isParallel;
    // Half the picture is 1 / projection[5] high, at distance 1 or everywhere.
    camera.pixelsAtOne = (height * Math.abs(view.projection[5]!)) / 2; // sixteen numbers
    this.updates++;
    let differs = isListed;
    for (let command = 0; command < list.commands; command++) {
      const part = partOf(list, command);
      if (!part || choice?.has(command)) continue;
      const first = list.commandFirst[command]!; // command < commands, here and below
      for (let at = first; at < first + list.commandCount[command]!; at++)
        if (this.look(part.swarm, list.rowAt(at), world, swarming.headOf(part.swarm))) differs = true;
    }
    if (differs) this.fill(list, choice);
    if (this.updates % KEEP_UPDATES === 0) this.forget();
    return differs;
  }

  /** Brings the view of a node's swarm up to date, once an update. */
  private look(swarm: Swarm, row: number, world: Float32Array, head: number): boolean {
    const seen = this.seenOf(swarm, row);
    if (seen.update === this.updates) return false;
    seen.update = this.updates;
    return seen.view.update(swarm, world, row * 12, this.camera, head);
  }

  /** Puts the instances of all commands side by side. */
  private fill(list: DrawList, choice: DrawChoice | undefined): void {
    this.copies = 0;
    if (this.counts.length < list.commands) {
      this.counts = new Uint32Array(list.commands + 16);
      this.offsets = new Float64Array(list.commands + 16);
    }
    let used = 0;
    for (let command = 0; command < list.commands; command++) {
      const part = partOf(list, command);
      if (!part || choice?.has(command)) continue;
      const start = used;
      const first = list.commandFirst[command]!;
      for (let at = first; at < first + list.commandCount[command]!; at++) {
        const run = this.seenOf(part.swarm, list.rowAt(at)).view.runs[part.run]!; // one a part
        this.copies += run.copies;
        this.room((used + run.count) * INSTANCE_WORDS);
        const { words } = this;
        const from = used * INSTANCE_WORDS;
        used += run.count;
        words.set(run.words.subarray(0, run.count * INSTANCE_WORDS), from);
        const instance = list.instances[at]!; // listed
        for (let o = from; o < used * INSTANCE_WORDS; o += INSTANCE_WORDS) words[o] = instance;
      }
      this.offsets[command] = start * INSTANCE_WORDS * 4;
      this.counts[command] = used - start;
    }
    if (used > 0) this.upload(used * INSTANCE_WORDS);
  }

  dispose(): void {
    this.buffer?.dispose();
    this.buffer = undefined;
  }

  private seenOf(swarm: Swarm, row: number): Seen {
    let byRow = this.views.get(swarm);
    if (!byRow) this.views.set(swarm, (byRow = new Map<number, Seen>()));
    let seen = byRow.get(row);
    if (!seen) byRow.set(row, (seen = { view: new SwarmView(), update: -1 }));
    return seen;
  }

  /** Lets go of what was not in view for long. */
  private forget(): void {
    for (const [swarm, byRow] of this.views) {
      for (const [row, { update }] of byRow) if (update + KEEP_UPDATES < this.updates) byRow.delete(row);
      if (byRow.size === 0) this.views.delete(swarm);
    }
  }

  private room(words: number): void {
    if (this.words.length >= words) return;
    const grown = new Uint32Array(Math.max(words, this.words.length * 2));
    grown.set(this.words);
    this.words = grown;
  }

  private upload(words: number): void {
    if (!this.buffer || this.buffer.size < words * 4) {
      this.buffer?.dispose();
      this.buffer = this.device.createBuffer({
        label: 'swarm instances',
        usage: 'vertex',
        size: this.words.byteLength,
      });
    }
    this.device.writeBuffer(this.buffer, 0, this.words, 0, words);
  }
}

interface Seen {
  view: SwarmView;
  /** The update that it was last brought up to date by. */
  update: number;
}

/** The part of a swarm that a command draws; undefined for others. */
const partOf = ({ batches, commandBatch }: DrawList, command: number): SwarmPart | undefined =>
  swarmPart(batches[commandBatch[command]!]!.geometry); // commands name living batches
