import { type CameraView, type DrawList, type Scene, swarmPart } from '@umber-lens/core/engine';
import type { ComputePass, ComputePipeline } from '../../gpu/compute.js';
import type { Device, DeviceBuffer, DeviceTexture, RenderPass } from '../../gpu/device.js';
import type { CameraState, ChosenPart, DrawChoice } from '../../batches/camera-state.js';
import type { PreparedBatch, PreparedScene } from '../../batches/prepared-scene.js';
import type { GpuGeometry } from '../../resources/geometry-store.js';
import type { Swarms } from '../swarms/swarms.js';
import type { Chooser } from './chooser.js';
import {
  CHOOSING_CAMERA,
  CHOOSING_FLOATS,
  CHOOSING_IS_PARALLEL,
  CHOOSING_LEVELS,
  CHOOSING_PLACES,
  CHOOSING_PLANES,
  CHOOSING_PROJECTION,
  CHOOSING_SIZE,
  CHOOSING_STAGE,
  CHOOSING_VIEW,
} from './compiled-layouts.js';
import type { CullingStats } from './culling.js';
import { DepthPyramid } from './depth-pyramid.js';
import { GrownBuffer } from './grown-buffer.js';
import { InstanceChoice, mayBeHidden, type OrdinaryCommand } from './instance-choice.js';
import { KeptGroup } from './kept-group.js';
import { type SwarmCommand, TileChoice } from './tile-choice.js';

export interface ChoicePipelines {
  instances: ComputePipeline;
  tiles: ComputePipeline;
}

/** Words of a draw: see `drawIndexedIndirect`. The second is how many instances there are. */
const DRAW_WORDS = 5;

/** What the GPU chooses for one camera: instances of opaque things that nothing hides, and tiles of large swarms. */
export class CameraChoice implements DrawChoice {
  /** What the pass at hand draws of opaque things. */
  part: ChosenPart = 'both';
  isHidden = false;
  /** By command: the number of its draw, or -1 where the script chooses. */
  private drawOf = new Int32Array(0);
  private list!: DrawList; // set by update
  private drawCount = 0;
  /** Two draws a number: what was seen before, and what came besides. */
  private counts = new Uint32Array(0);
  private readonly draws: GrownBuffer;
  private readonly instances: InstanceChoice;
  private readonly tiles: TileChoice;
  private readonly choosing: DeviceBuffer;
  /** Two of them: one for each stage. */
  private readonly values = new Float32Array(CHOOSING_FLOATS * 2);
  private readonly words = new Uint32Array(this.values.buffer);
  private readonly group: KeptGroup;
  private readonly wanted: DeviceBuffer[] = [];
  private pyramid: DepthPyramid | undefined;
  private readonly noPyramid: DeviceBuffer;
  /** By command: what the last plan was made for. */
  private readonly known: (PreparedBatch | undefined)[] = [];
  private mustPlan = true;
  // Of the frame at hand.
  private slots: DeviceBuffer | undefined;
  private transforms: DeviceBuffer | undefined;

  constructor(
    private readonly device: Device,
    private readonly chooser: Chooser,
  ) {
    this.draws = new GrownBuffer(device, { label: 'numbers of draws', usage: 'indirect', writable: true });
    this.instances = new InstanceChoice(device);
    this.tiles = new TileChoice(device, chooser.tiles);
    const size = this.values.byteLength;
    this.choosing = device.createBuffer({ label: 'choosing', usage: 'uniform', size });
    this.noPyramid = device.createBuffer({ label: 'no pyramid', usage: 'storage', size: 16 });
    this.group = new KeptGroup(device, CHOOSING_FLOATS * 4);
  }

  /** @param isHidden whether what is hidden is to be left out */
  begin(isHidden: boolean): this {
    if (isHidden !== this.isHidden) this.mustPlan = true;
    this.isHidden = isHidden;
    this.part = 'both';
    return this;
  }

  /** Whether the GPU chooses what a command draws. */
  has(command: number): boolean {
    return this.drawOf[command]! >= 0; // a command of the planned list
  }

  /**
   * Finds out what there is to choose from, and sends it. To be called outside a pass, when the camera's list, its instances
   * and the swarms are up to date.
   *
   * @param width pixels of the picture
   * @returns whether anything differs from the last call's
   */
  update(
    { list, instances }: CameraState,
    scene: Scene,
    prepared: PreparedScene,
    swarming: Swarms | undefined,
    view: CameraView,
    isListed: boolean,
    isParallel: boolean,
    width: number,
    height: number,
    frame: number,
  ): boolean {
    this.list = list;
    this.slots = instances.buffer;
    this.transforms = prepared.transforms.buffer;
    const isPlanned = isListed || this.mustPlan || this.isOther(prepared);
    if (isPlanned) this.plan(prepared);
    this.chooser.tiles.use(list, frame);
    if (this.isHidden) this.preparePyramid(width, height);
    const pixelsAtOne = (height * Math.abs(view.projection[5]!)) / 2; // sixteen numbers
    const isMoved = this.tiles.write(scene, swarming, pixelsAtOne);
    const isElsewhere = this.writeChoosing(view, isParallel, width, height);
    return isPlanned || isMoved || isElsewhere;
  }

  /** Chooses what is in view; where what is hidden is left out, what was seen before. To be called between passes. */
  choose(): void {
    if (this.drawCount === 0) return;
    this.device.writeBuffer(this.draws.buffer, 0, this.counts, 0, this.drawCount * 2 * DRAW_WORDS);
    const pass = this.chooser.compute.beginPass({ label: 'choose' });
    this.run(pass, 0);
    pass.end();
  }

  /** Finds what the picture so far hides, and chooses the rest that was not drawn. */
  findHidden(depth: DeviceTexture): void {
    if (this.drawCount === 0) return;
    const pass = this.chooser.compute.beginPass({ label: 'find hidden' });
    this.pyramid!.build(pass, depth); // made by update
    this.run(pass, CHOOSING_FLOATS * 4);
    pass.end();
  }

  /** Draws what of a command was chosen. Its pipeline, groups and vertices are set, but for its instances. */
  draw(pass: RenderPass, command: number, { indexBuffer, placedBy }: GpuGeometry, part: ChosenPart): void {
    const { draws } = this;
    const choice = placedBy === 'instances' ? this.tiles : this.instances;
    for (let second = 0; second < (this.isHidden ? 2 : 1); second++) {
      if (part === (second === 0 ? 'besides' : 'seen')) continue;
      choice.bind(pass, command, second);
      const at = (this.drawOf[command]! * 2 + second) * DRAW_WORDS * 4; // it has one
      if (indexBuffer) pass.drawIndexedIndirect(draws.buffer, at);
      else pass.drawIndirect(draws.buffer, at);
    }
  }

  /** Reads back what was chosen for the last frame. */
  async figures(): Promise<CullingStats> {
    const figures: CullingStats = {
      instances: 0,
      inView: this.instances.count,
      swarmInstances: 0,
      triangles: 0,
    };
    if (this.drawCount === 0) return figures;
    const { known } = this;
    const drawn = this.drawOf.slice(0, known.length);
    const batches = known.slice();
    const size = this.drawCount * 2 * DRAW_WORDS * 4;
    const words = new Uint32Array(await this.chooser.compute.readBuffer(this.draws.buffer, 0, size));
    batches.forEach((ready, command) => {
      const draw = drawn[command]!; // as many
      if (!ready || draw < 0) return;
      const { geometry, batch } = ready;
      const part = swarmPart(batch.geometry);
      const triangles = geometry.topology === 'triangle-list' ? geometry.count / 3 : 0;
      for (let k = 0; k < 2; k++) {
        const count = words[(draw * 2 + k) * DRAW_WORDS + 1]!; // two a draw
        figures.triangles += count * triangles;
        if (part)
          figures.swarmInstances += count * part.swarm.shapes[part.shape]!.levels[part.level]!.repeats; // its own
        else figures.instances += count;
      }
    });
    return figures;
  }

  dispose(): void {
    this.pyramid?.dispose();
    for (const part of [this.draws, this.instances, this.tiles, this.choosing, this.noPyramid, this.group])
      part.dispose();
  }

  private run(pass: ComputePass, offset: number): void {
    const { draws, instances, tiles, wanted } = this;
    const { pipelines } = this.chooser;
    wanted[0] = this.choosing;
    wanted[1] = this.pyramid?.buffer ?? this.noPyramid;
    const camera = this.group.of(wanted);
    if (this.slots && this.transforms)
      instances.run(pass, pipelines.instances, camera, offset, draws.buffer, this.slots, this.transforms);
    tiles.run(pass, pipelines.tiles, camera, offset, draws.buffer);
  }

  /** Whether a batch is drawn with something else than at the last plan. */
  private isOther({ batches }: PreparedScene): boolean {
    const { known, list } = this;
    for (let command = 0; command < list.commands; command++)
      if (batches[list.commandBatch[command]!] !== known[command]) return true; // command < commands
    return false;
  }

  private plan({ batches }: PreparedScene): void {
    const { chooser, known, list } = this;
    const { commands, opaqueCommands } = list;
    this.mustPlan = false;
    known.length = commands;
    if (this.drawOf.length < commands) {
      this.drawOf = new Int32Array(commands + 16);
      this.counts = new Uint32Array(this.drawOf.length * 2 * DRAW_WORDS);
    }
    this.drawOf.fill(-1);
    this.drawCount = 0;
    const ordinary: OrdinaryCommand[] = [];
    const swarms: SwarmCommand[] = [];
    for (let command = 0; command < commands; command++) {
      const ready = (known[command] = batches[list.commandBatch[command]!]); // command < commands
      if (!ready || ready.geometry.count === 0) continue;
      const part = swarmPart(ready.batch.geometry);
      const draw = this.drawCount;
      if (part && chooser.tiles.has(part.swarm)) swarms.push({ command, draw, part });
      else if (!part && this.isHidden && command < opaqueCommands && mayBeHidden(ready))
        ordinary.push({ command, draw, ready });
      else continue;
      this.drawOf[command] = this.drawCount++;
      for (let k = 0; k < 2; k++)
        this.counts.set(
          [ready.geometry.count, 0, ready.geometry.firstIndex, 0, 0],
          (draw * 2 + k) * DRAW_WORDS,
        );
    }
    this.draws.atLeast(Math.max(1, this.counts.byteLength));
    this.instances.plan(list, ordinary);
    this.tiles.plan(list, swarms);
  }

  private writeChoosing(
    { planes, position, projection, view }: CameraView,
    isParallel: boolean,
    width: number,
    height: number,
  ): boolean {
    const { pyramid, isHidden, values, words } = this;
    let isOther = false;
    for (let k = 0; k < 16; k++) {
      const v = CHOOSING_VIEW + k;
      const p = CHOOSING_PROJECTION + k;
      if (values[v] === view[k] && values[p] === projection[k]) continue;
      values[v] = view[k]!; // sixteen numbers, here and below
      values[p] = projection[k]!;
      isOther = true;
    }
    values.set(planes, CHOOSING_PLANES);
    values.set(position, CHOOSING_CAMERA);
    values[CHOOSING_IS_PARALLEL] = isParallel ? 1 : 0;
    values[CHOOSING_SIZE] = width;
    values[CHOOSING_SIZE + 1] = height;
    words[CHOOSING_STAGE] = isHidden ? 1 : 0;
    words[CHOOSING_LEVELS] = 0;
    if (isHidden && pyramid) {
      const { places } = pyramid;
      words[CHOOSING_LEVELS] = places.length;
      for (let level = 0; level < places.length; level++)
        words.set(places[level]!, CHOOSING_PLACES + level * 4); // level < length
    }
    words.copyWithin(CHOOSING_FLOATS, 0, CHOOSING_FLOATS);
    words[CHOOSING_FLOATS + CHOOSING_STAGE] = 2;
    this.device.writeBuffer(this.choosing, 0, words);
    return isOther;
  }

  private preparePyramid(width: number, height: number): void {
    if (this.pyramid?.width === width && this.pyramid.height === height) return;
    this.pyramid?.dispose();
    this.pyramid = new DepthPyramid(this.device, this.chooser.pipelines, width, height);
  }
}
