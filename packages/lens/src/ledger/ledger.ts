import type { FrameReport } from './frame-report.js';
import { FrameRing } from './frame-ring.js';
import type { DeviceCounts } from '../gpu/counts.js';

/** What is taken over from the device's counts as it is. */
const CHANGES = [
  'vertices',
  'drawsTogether',
  'pipelineChanges',
  'bindGroupChanges',
  'vertexBufferChanges',
  'bytesUploaded',
] as const;
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
  /** Milliseconds on the GPU as they were last told; undefined unless passes are timed: `lens.timePasses(true)`. */
  gpuMilliseconds: number | undefined;
}

/** One frame's accounts. The object stays the same from frame to frame; its numbers change. */
export class Ledger {
  /** Frames drawn so far. */
  frame = 0;
  /** What the scene itself took. */
  draws = 0;
  instances = 0;
  triangles = 0;
  /** Indices and vertices that all draws go through, the lens's own among them. */
  vertices = 0;
  /** Of all draws those that went out with others: on WebGL2 they are one draw together. */
  drawsTogether = 0;
  /** What the lens added, to turn the drawn scene into what is shown. */
  readonly added = { draws: 0, triangles: 0 };
  /** Primitives left out because they are outside the view, or too small. */
  culled = 0;
  /** Of those left out: those that are too small, see `lens.view.minPixels`. */
  small = 0;
  /** Clusters of a large scene that were left out at once, see `Culling.clusters`. */
  clustersLeft = 0;
  /** Frames that were not drawn because nothing had changed, see `lens.view.onDemand`. */
  unchanged = 0;
  /** Share of the full width and height that pictures have, see `LensOptions.dynamicResolution`. */
  resolution = 1;
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
  /** The last 600 frames. */
  readonly recent = new FrameRing();
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
  /** @internal */
  reporter: (() => Promise<FrameReport>) | undefined;
  private part = 0;
  private lastEnd = 0;
  /** Parts of frames that had more of them. */
  private readonly spare: LedgerPart[] = [];
  private since = 0;
  private drawsSoFar = 0;
  private trianglesSoFar = 0;
  private instancesSoFar = 0;

  /**
   * Says in words what dominates the frames that were drawn last (script, vertices, pixels, bandwidth or stalls), how it
   * knows, and what to do first. It tries: the last scene is drawn some times more, into targets of other sizes.
   *
   * @throws LensError `ledger/nothing` before anything was drawn
   */
  report(): Promise<FrameReport> {
    return this.reporter!(); // set by the lens
  }

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
  endPart(name: string, isScene: boolean, counts: DeviceCounts, gpuMilliseconds?: number): void {
    const part = this.nextPart(name);
    part.gpuMilliseconds = gpuMilliseconds;
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
      gpuMilliseconds: undefined,
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
    this.remember();
  }

  private remember(): void {
    const { recent, stalls, passes } = this;
    const now = performance.now();
    let [stalled, gpu] = [0, 0];
    for (let i = 0; i < stalls.length; i++) stalled += stalls[i]!.milliseconds; // i < length, here and below
    for (let i = 0; i < passes.length; i++) gpu += passes[i]!.gpuMilliseconds ?? 0;
    // In the order of RING_COLUMNS.
    recent.write(0, this.milliseconds);
    recent.write(1, this.frame > 1 ? now - this.lastEnd : 0);
    recent.write(2, gpu);
    recent.write(3, stalled);
    recent.write(4, this.draws);
    recent.write(5, this.triangles);
    recent.write(6, this.instances);
    recent.write(7, this.bytesUploaded);
    recent.frames++;
    this.lastEnd = now;
  }

  /** @internal */
  countLiving(counts: DeviceCounts): void {
    const { living } = this;
    for (let i = 0; i < LIVING.length; i++) living[LIVING[i]!] = counts[LIVING[i]!]; // i < length
    living.total = counts.living;
  }
}
