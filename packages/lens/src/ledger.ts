import type { DeviceCounts } from './gpu/counts.js';

/** What is taken over from the device's counts as it is. */
const CHANGES = ['pipelineChanges', 'bindGroupChanges', 'vertexBufferChanges', 'bytesUploaded'] as const;
const LIVING = [
  'buffers',
  'textures',
  'samplers',
  'shaders',
  'bindGroups',
  'pipelines',
  'bufferBytes',
  'textureBytes',
] as const;

/** What one part of a frame cost. */
export interface LedgerPart {
  name: string;
  draws: number;
  triangles: number;
  /** Milliseconds of script. */
  milliseconds: number;
}

/** One frame's accounts. The object stays the same from frame to frame; its numbers change. */
export class Ledger {
  /** Frames drawn so far. */
  frame = 0;
  /** What the scene itself took. */
  draws = 0;
  instances = 0;
  triangles = 0;
  /** What the lens added, to turn the drawn scene into what is shown. */
  readonly added = { draws: 0, triangles: 0 };
  /** Primitives left out because they are outside the view. */
  culled = 0;
  /** Draws left out because their pipelines are still being made. */
  waiting = 0;
  /** Lights beyond what one picture can have. */
  lightsLeftOut = 0;
  pipelineChanges = 0;
  bindGroupChanges = 0;
  vertexBufferChanges = 0;
  /** Bytes sent to the GPU. */
  bytesUploaded = 0;
  /** Milliseconds of script for the whole frame. */
  milliseconds = 0;
  /** Frames a second over the last half second or more, as `run` calls them. */
  framesPerSecond = 0;
  /** Parts of the frame in the order in which they were drawn. */
  readonly passes: LedgerPart[] = [];
  /** Shadow maps: how many there are, how many of them were drawn anew, texels of a side, and why so many. */
  readonly shadows = { maps: 0, drawn: 0, size: 0, lightsLeftOut: 0, reason: '' };
  /** What held the frame up because it was made in it: pipelines, environments. Empty in a steady frame. */
  readonly stalls: { name: string; milliseconds: number }[] = [];
  /** Living GPU objects, by kind, and their bytes. */
  readonly living = {
    buffers: 0,
    textures: 0,
    samplers: 0,
    shaders: 0,
    bindGroups: 0,
    pipelines: 0,
    bufferBytes: 0,
    textureBytes: 0,
    total: 0,
  };
  private part = 0;
  /** Parts of frames that had more of them. */
  private readonly spare: LedgerPart[] = [];
  private since = 0;
  private drawsSoFar = 0;
  private trianglesSoFar = 0;
  private instancesSoFar = 0;

  /** @internal */
  beginFrame(listMilliseconds: number): void {
    this.part = 0;
    this.nextPart('list').milliseconds = listMilliseconds;
    this.drawsSoFar = 0;
    this.trianglesSoFar = 0;
    this.instancesSoFar = 0;
    this.draws = this.triangles = this.instances = 0;
    this.added.draws = this.added.triangles = 0;
    this.since = performance.now();
  }

  /** @internal Before `beginFrame`: what was told of the frame before is gone. */
  beginStalls(): void {
    this.stalls.length = 0;
  }

  /** @internal */
  stall(name: string, milliseconds: number): void {
    this.stalls.push({ name, milliseconds });
  }

  /** @internal */
  endPart(name: string, isScene: boolean, counts: DeviceCounts): void {
    const part = this.nextPart(name);
    const now = performance.now();
    part.draws = counts.draws - this.drawsSoFar;
    part.triangles = counts.triangles - this.trianglesSoFar;
    part.milliseconds = now - this.since;
    if (isScene) {
      this.draws += part.draws;
      this.triangles += part.triangles;
      this.instances += counts.instances - this.instancesSoFar;
    } else {
      this.added.draws += part.draws;
      this.added.triangles += part.triangles;
    }
    this.instancesSoFar = counts.instances;
    this.drawsSoFar = counts.draws;
    this.trianglesSoFar = counts.triangles;
    this.since = now;
  }

  private nextPart(name: string): LedgerPart {
    const number = this.part++;
    const part = (this.passes[number] ??= this.spare.pop() ?? {
      name,
      draws: 0,
      triangles: 0,
      milliseconds: 0,
    });
    part.name = name;
    return part;
  }

  /** @internal */
  endFrame(
    counts: DeviceCounts,
    culled: number,
    lightsLeftOut: number,
    waiting: number,
    milliseconds: number,
  ): void {
    this.frame++;
    while (this.passes.length > this.part) this.spare.push(this.passes.pop()!); // length > 0
    this.culled = culled;
    this.lightsLeftOut = lightsLeftOut;
    this.waiting = waiting;
    for (let i = 0; i < CHANGES.length; i++) this[CHANGES[i]!] = counts[CHANGES[i]!]; // i < length
    this.milliseconds = milliseconds;
    this.countLiving(counts);
  }

  /** @internal */
  countLiving(counts: DeviceCounts): void {
    const { living } = this;
    for (let i = 0; i < LIVING.length; i++) living[LIVING[i]!] = counts[LIVING[i]!]; // i < length
    living.total = counts.living;
  }
}
