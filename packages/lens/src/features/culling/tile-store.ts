import { type DrawList, type Swarm, swarmPart, TILE_FLOATS } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer } from '../../gpu/device.js';
import { GPU_TILE_CENTER, GPU_TILE_COPIES, GPU_TILE_FIRST, GPU_TILE_FLOATS } from './compiled-layouts.js';
import { freeUnused } from '../../resources/kept.js';

/** Swarms of fewer tiles are chosen from by script: that costs less than a dispatch. */
export const FEWEST_TILES = 16;

interface Held {
  /** Number of the first tile, by shape. */
  first: number[];
  /** The swarm's `boundsVersion` as it is on the GPU. */
  version: number;
  lastUsed: number;
}

/** The tiles of swarms on the GPU, side by side in one buffer. */
export class TileStore {
  buffer: DeviceBuffer | undefined;
  private readonly held = new Map<Swarm, Held>();
  private isWhole = true;

  constructor(private readonly device: Device) {}

  /** Whether a swarm is chosen from here: it has so many tiles that this pays. */
  has({ shapes }: Swarm): boolean {
    let tiles = 0;
    for (let i = 0; i < shapes.length; i++) tiles += shapes[i]!.tiles.count; // i < length
    return tiles >= FEWEST_TILES;
  }

  firstOf(swarm: Swarm, shape: number): number {
    return this.held.get(swarm)!.first[shape]!; // kept, and synchronised: the caller's contract
  }

  /** Uploads what came and what changed of the swarms in a list. To be called outside a pass. */
  use({ batches, commandBatch, commands }: DrawList, frame: number): void {
    for (let command = 0; command < commands; command++) {
      const part = swarmPart(batches[commandBatch[command]!]!.geometry); // commands name living batches
      if (!part || !this.has(part.swarm)) continue;
      const held = this.held.get(part.swarm);
      if (held) held.lastUsed = frame;
      else {
        this.held.set(part.swarm, { first: [], version: -1, lastUsed: frame });
        this.isWhole = false;
      }
    }
    if (this.held.size > 0) this.sync();
  }

  private sync(): void {
    if (!this.isWhole) {
      this.isWhole = true;
      let end = 0;
      for (const [{ shapes }, held] of this.held) {
        held.version = -1;
        held.first = shapes.map(({ tiles }) => (end += tiles.count) - tiles.count);
      }
      this.buffer?.dispose();
      this.buffer = this.device.createBuffer({
        label: 'swarm tiles',
        usage: 'storage',
        size: end * GPU_TILE_FLOATS * 4,
      });
    }
    for (const [swarm, held] of this.held) {
      if (held.version === swarm.boundsVersion) continue;
      held.version = swarm.boundsVersion;
      swarm.shapes.forEach((shape, i) => this.upload(shape.tiles, held.first[i]!)); // one each
    }
  }

  /** Lets go of what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    freeUnused(this.held, frame, () => (this.isWhole = false));
  }

  private upload({ count, first, copies, spheres }: Swarm['shapes'][number]['tiles'], at: number): void {
    const values = new Float32Array(count * GPU_TILE_FLOATS);
    const words = new Uint32Array(values.buffer);
    for (let tile = 0; tile < count; tile++) {
      const to = tile * GPU_TILE_FLOATS;
      for (let k = 0; k < TILE_FLOATS; k++)
        values[to + GPU_TILE_CENTER + k] = spheres[tile * TILE_FLOATS + k]!; // a tile in range
      // The order of both: centre, where copies stand, all they reach, least and most scale.
      words[to + GPU_TILE_FIRST] = first[tile]!;
      words[to + GPU_TILE_COPIES] = copies[tile]!;
    }
    this.device.writeBuffer(this.buffer!, at * GPU_TILE_FLOATS * 4, values); // made before
  }
}
