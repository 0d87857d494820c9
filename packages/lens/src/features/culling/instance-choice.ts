import { boundsCenter, boundsRadius, type DrawList, FEATURE } from '@umber-lens/core/engine';
import type { ComputePass, ComputePipeline } from '../../gpu/compute.js';
import type { Device, DeviceBindGroup, DeviceBuffer, RenderPass } from '../../gpu/device.js';
import type { PreparedBatch } from '../../batches/prepared-scene.js';
import {
  COMMAND_COUNT,
  COMMAND_DRAW,
  COMMAND_FIRST,
  COMMAND_FLOATS,
  COMMAND_SPHERE,
  ROW,
} from './compiled-layouts.js';
import { GrownBuffer } from './grown-buffer.js';
import { KeptGroup } from './kept-group.js';

/** Instances of a workgroup. */
const GROUP = 64;
/** A number that no instance of a command has. */
const BEYOND = 0xffffff00;

/** What a command draws, of those that are chosen from. */
export interface OrdinaryCommand {
  command: number;
  draw: number;
  ready: PreparedBatch;
}

/** Which instances of a list's commands nothing hides. */
export class InstanceChoice {
  /** Instances that are chosen from. */
  count = 0;
  private groups = 0;
  private room = 0;
  private list!: DrawList; // set by plan
  private readonly commands: GrownBuffer;
  private readonly groupNumbers: GrownBuffer;
  private readonly seen: GrownBuffer;
  private readonly chosen: GrownBuffer;
  private readonly group: KeptGroup;
  private readonly wanted: DeviceBuffer[] = [];

  constructor(device: Device) {
    this.commands = new GrownBuffer(device, { label: 'commands that are chosen from', usage: 'storage' });
    this.groupNumbers = new GrownBuffer(device, { label: 'groups of instances', usage: 'storage' });
    this.seen = new GrownBuffer(device, { label: 'seen instances', usage: 'storage', writable: true });
    this.chosen = new GrownBuffer(device, { label: 'chosen instances', usage: 'vertex', writable: true });
    this.group = new KeptGroup(device);
  }

  plan(list: DrawList, commands: readonly OrdinaryCommand[]): void {
    this.list = list;
    this.groups = this.count = 0;
    if (commands.length === 0) return;
    const values = new Float32Array(commands.length * COMMAND_FLOATS);
    const words = new Uint32Array(values.buffer);
    const groups: number[] = [];
    commands.forEach(({ command, draw, ready }, i) => {
      const { bounds } = ready.batch.geometry;
      const at = i * COMMAND_FLOATS;
      const sphere = at + COMMAND_SPHERE;
      boundsCenter(bounds, values.subarray(sphere, sphere + 3));
      values[sphere + 3] = boundsRadius(bounds);
      const count = list.commandCount[command]!; // a command of the list
      words[at + COMMAND_FIRST] = list.commandFirst[command]!;
      words[at + COMMAND_COUNT] = count;
      words[at + COMMAND_DRAW] = draw;
      this.count += count;
      for (let first = 0; first < count; first += GROUP) groups.push(i, first);
    });
    this.groups = groups.length / 2;
    // Whole rows of workgroups are run: those beyond the last have nothing to do.
    if (this.groups > ROW) while ((groups.length / 2) % ROW !== 0) groups.push(0, BEYOND);
    this.commands.write(values);
    this.groupNumbers.write(Uint32Array.from(groups));
    // As much as the list has room for: both halves of what is chosen have the list's own positions.
    if (this.chosen.atLeast(list.instances.length * 8)) this.room = list.instances.length;
    this.seen.atLeast(this.room * 4);
  }

  run(
    pass: ComputePass,
    pipeline: ComputePipeline,
    camera: DeviceBindGroup,
    offset: number,
    draws: DeviceBuffer,
    instances: DeviceBuffer,
    transforms: DeviceBuffer,
  ): void {
    if (this.groups === 0) return;
    const { wanted } = this;
    wanted[0] = this.commands.buffer;
    wanted[1] = this.groupNumbers.buffer;
    wanted[2] = instances;
    wanted[3] = transforms;
    wanted[4] = this.seen.buffer;
    wanted[5] = this.chosen.buffer;
    wanted[6] = draws;
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, camera, offset);
    pass.setBindGroup(1, this.group.of(wanted));
    pass.dispatch(Math.min(this.groups, ROW), Math.ceil(this.groups / ROW));
  }

  /** @param second 1 for what came besides, 0 for what was seen before */
  bind(pass: RenderPass, command: number, second: number): void {
    pass.setVertexBuffer(0, this.chosen.buffer, (second * this.room + this.list.commandFirst[command]!) * 4); // planned
  }

  dispose(): void {
    for (const part of [this.commands, this.groupNumbers, this.seen, this.chosen, this.group]) part.dispose();
  }
}

/** Whether all of a batch lies in its sphere, may be drawn in any order, and asks for nothing behind it. */
export function mayBeHidden(ready: PreparedBatch): boolean {
  const { batch, features, shader } = ready;
  const radius = boundsRadius(batch.geometry.bounds);
  return (
    (features & FEATURE.bent) === 0 &&
    !ready.readsBehind &&
    (shader?.instanceSettings.length ?? 0) === 0 &&
    shader?.reach !== 'unknown' &&
    radius > 0 &&
    radius < Infinity
  );
}
