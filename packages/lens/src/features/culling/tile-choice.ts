import {
  affineLargestScale,
  type DrawList,
  type Scene,
  type Swarm,
  type SwarmPart,
} from '@umber-lens/core/engine';
import type { ComputePass, ComputePipeline } from '../../gpu/compute.js';
import type { Device, DeviceBindGroup, DeviceBuffer, RenderPass } from '../../gpu/device.js';
import type { Swarms } from '../swarms/swarms.js';
import {
  NO_DRAW,
  SHAPE_DRAWS,
  SHAPE_FIRST_SEEN,
  SHAPE_FIRST_TILE,
  SHAPE_FLOATS,
  SHAPE_HEAD,
  SHAPE_INSTANCE,
  SHAPE_LEVELS,
  SHAPE_NARROW,
  SHAPE_PIXELS,
  SHAPE_REPEATS,
  SHAPE_ROW0,
  SHAPE_SHARE,
  SHAPE_SIZE,
  SHAPE_STARTS,
  SHAPE_THIN_LEAST,
  SHAPE_THIN_PIXELS,
  SHAPE_TILES,
  SHAPE_WIDE,
} from './compiled-layouts.js';
import { GrownBuffer } from './grown-buffer.js';
import { KeptGroup } from './kept-group.js';
import type { TileStore } from './tile-store.js';

/** Words from one shape to the next: uniform blocks begin at multiples of 256 bytes. */
const SHAPE_WORDS = 64;
const GROUP = 64;
const INSTANCE_BYTES = 16;

/** What a command draws, of those of swarms. */
export interface SwarmCommand {
  command: number;
  draw: number;
  part: SwarmPart;
}

/** One shape of a swarm at one node. */
interface ChosenShape {
  swarm: Swarm;
  shape: number;
  row: number;
  /** Of the list: what any instance says of the node stands there. */
  position: number;
}

/** A node with a swarm, and the commands that draw it, by run. */
interface SwarmNode {
  swarm: Swarm;
  row: number;
  position: number;
  commands: (SwarmCommand | undefined)[];
}

/** Which tiles of large swarms are drawn, at which levels. */
export class TileChoice {
  private readonly shapes: ChosenShape[] = [];
  private values = new Float32Array(0);
  private numbers = new Uint32Array(0);
  private capacity = 0;
  /** By command: where its instances begin. */
  private starts = new Uint32Array(0);
  private list!: DrawList; // set by plan
  private isPlanned = false;
  private readonly block: GrownBuffer;
  private readonly seen: GrownBuffer;
  private readonly words: GrownBuffer;
  private readonly group: KeptGroup;
  private readonly wanted: DeviceBuffer[] = [];

  constructor(
    private readonly device: Device,
    private readonly tiles: TileStore,
  ) {
    this.block = new GrownBuffer(device, { label: 'shapes that are chosen from', usage: 'uniform' });
    this.seen = new GrownBuffer(device, { label: 'seen tiles', usage: 'storage', writable: true });
    this.words = new GrownBuffer(device, { label: 'chosen tiles', usage: 'vertex', writable: true });
    this.group = new KeptGroup(device, SHAPE_FLOATS * 4);
  }

  plan(list: DrawList, commands: readonly SwarmCommand[]): void {
    const { shapes } = this;
    this.list = list;
    shapes.length = 0;
    if (commands.length === 0) return;
    if (this.starts.length < list.commands) this.starts = new Uint32Array(list.commands + 16);
    const nodes = nodesOf(list, commands);
    this.makeRoom(nodes);
    for (const { swarm, row, position } of nodes)
      swarm.shapes.forEach((_, shape) => shapes.push({ swarm, shape, row, position }));
    if (this.numbers.length < shapes.length * SHAPE_WORDS) {
      this.values = new Float32Array(shapes.length * SHAPE_WORDS);
      this.numbers = new Uint32Array(this.values.buffer);
      this.block.atLeast(this.numbers.byteLength);
    }
    let at = 0;
    let seen = 0;
    for (const { swarm, commands: byRun } of nodes) {
      let run = 0;
      for (const { levels, tiles } of swarm.shapes) {
        this.numbers[at + SHAPE_TILES] = tiles.count;
        this.numbers[at + SHAPE_FIRST_SEEN] = seen;
        this.numbers[at + SHAPE_LEVELS] = levels.length;
        seen += tiles.count;
        levels.forEach(({ repeats }, level) => {
          const found = byRun[run++];
          this.numbers[at + SHAPE_REPEATS + level] = repeats;
          this.numbers[at + SHAPE_DRAWS + level] = found?.draw ?? NO_DRAW;
          this.numbers[at + SHAPE_STARTS + level] = found ? this.starts[found.command]! : 0; // found by makeRoom
        });
        at += SHAPE_WORDS;
      }
    }
    this.seen.atLeast(seen * 4);
    this.isPlanned = true;
  }

  /**
   * Writes what may change without a new list: transforms, sizes, thinning. To be called outside a pass, when the tiles are
   * synchronised.
   *
   * @param pixelsAtOne that a metre is high at distance 1; anywhere, if rays are parallel
   * @returns whether something did
   */
  write({ columns: { world } }: Scene, swarming: Swarms | undefined, pixelsAtOne: number): boolean {
    const { list, numbers, shapes, tiles } = this;
    if (shapes.length === 0) return false;
    let isOther = this.isPlanned;
    this.isPlanned = false;
    for (let i = 0; i < shapes.length; i++) {
      const { swarm, shape, row, position } = shapes[i]!; // i < length
      const { head, levels, radius } = swarm.shapes[shape]!; // its own
      const w = row * 12;
      for (let k = 0; k < 12; k++) fresh[SHAPE_ROW0 + k] = world[w + k]!; // twelve numbers a row
      fresh[SHAPE_SIZE] = 2 * radius * pixelsAtOne;
      fresh[SHAPE_WIDE] = affineLargestScale(world, w);
      fresh[SHAPE_NARROW] = leastScale(world, w);
      freshWords[SHAPE_INSTANCE] = list.instances[position]!; // listed
      fresh[SHAPE_THIN_PIXELS] = swarm.thin?.minPixels ?? 0;
      fresh[SHAPE_THIN_LEAST] = swarm.thin?.minShare ?? 1;
      freshWords[SHAPE_FIRST_TILE] = tiles.firstOf(swarm, shape);
      const at = i * SHAPE_WORDS;
      for (let k = 0; k < SHAPE_TILES; k++) isOther = put(numbers, at + k, freshWords[k]!) || isOther; // what stands before the tiles
      isOther = put(numbers, at + SHAPE_HEAD, (swarming?.headOf(swarm) ?? 0) + head) || isOther;
      isOther = put(numbers, at + SHAPE_SHARE, swarm.shareParts) || isOther;
      for (let level = 0; level < levels.length; level++) {
        fresh[0] = levels[level]!.minPixels; // level < length
        isOther = put(numbers, at + SHAPE_PIXELS + level, freshWords[0]!) || isOther; // there is one
      }
    }
    if (isOther) this.device.writeBuffer(this.block.buffer, 0, numbers, 0, shapes.length * SHAPE_WORDS);
    return isOther;
  }

  run(
    pass: ComputePass,
    pipeline: ComputePipeline,
    camera: DeviceBindGroup,
    offset: number,
    draws: DeviceBuffer,
  ): void {
    const { shapes, wanted } = this;
    if (shapes.length === 0) return;
    wanted[0] = this.block.buffer;
    wanted[1] = this.tiles.buffer!; // synchronised
    wanted[2] = this.seen.buffer;
    wanted[3] = this.words.buffer;
    wanted[4] = draws;
    const group = this.group.of(wanted);
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, camera, offset);
    for (let i = 0; i < shapes.length; i++) {
      const { swarm, shape } = shapes[i]!; // i < length
      pass.setBindGroup(1, group, i * SHAPE_WORDS * 4);
      pass.dispatch(Math.ceil(swarm.shapes[shape]!.tiles.count / GROUP)); // its own
    }
  }

  /** @param second 1 for what came besides, 0 for what was seen before */
  bind(pass: RenderPass, command: number, second: number): void {
    const start = second * this.capacity + this.starts[command]!; // planned
    pass.setVertexBuffer(0, this.words.buffer, start * INSTANCE_BYTES);
  }

  dispose(): void {
    for (const part of [this.block, this.seen, this.words, this.group]) part.dispose();
  }

  /** Instances of a command lie side by side, whichever nodes they are of: room for as many as there can be. */
  private makeRoom(nodes: readonly SwarmNode[]): void {
    const room = new Map<number, number>();
    for (const { swarm, commands } of nodes) {
      let run = 0;
      for (const { levels, tiles } of swarm.shapes) {
        for (const { repeats } of levels) {
          const found = commands[run++];
          if (!found) continue;
          const most = mostInstances(tiles.copies, tiles.count, repeats);
          room.set(found.command, (room.get(found.command) ?? 0) + most);
        }
      }
    }
    let end = 0;
    for (const [command, instances] of room) {
      this.starts[command] = end;
      end += instances;
    }
    if (this.words.atLeast(end * 2 * INSTANCE_BYTES)) this.capacity = end;
  }
}

/** A shape's numbers as they should be, to be compared with those that are. */
const fresh = new Float32Array(SHAPE_TILES);
const freshWords = new Uint32Array(fresh.buffer);

function put(words: Uint32Array, at: number, value: number): boolean {
  if (words[at] === value) return false;
  words[at] = value;
  return true;
}

function leastScale(world: Float32Array, at: number): number {
  let least = Infinity;
  for (let k = 0; k < 3; k++)
    least = Math.min(least, Math.hypot(world[at + k]!, world[at + 4 + k]!, world[at + 8 + k]!)); // twelve numbers
  return least;
}

function nodesOf(list: DrawList, commands: readonly SwarmCommand[]): SwarmNode[] {
  const known = new Map<Swarm, Map<number, SwarmNode>>();
  for (const one of commands) {
    const { swarm, run } = one.part;
    let byRow = known.get(swarm);
    if (!byRow) known.set(swarm, (byRow = new Map<number, SwarmNode>()));
    const first = list.commandFirst[one.command]!; // a command of the list, here and below
    for (let position = first; position < first + list.commandCount[one.command]!; position++) {
      const row = list.rowAt(position);
      let node = byRow.get(row);
      if (!node) byRow.set(row, (node = { swarm, row, position, commands: [] }));
      node.commands[run] = one;
    }
  }
  return [...known.values()].flatMap((byRow) => [...byRow.values()]);
}

/** Instances that a level takes at most. */
function mostInstances(copies: Uint32Array, tiles: number, repeats: number): number {
  let sum = 0;
  for (let tile = 0; tile < tiles; tile++) sum += Math.ceil(copies[tile]! / repeats); // a tile in range
  return sum;
}
