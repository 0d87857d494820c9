import { LensError } from '@umber-lens/core/engine';
import type {
  ColorAttachment,
  Device,
  DeviceTexture,
  RenderPass,
  RenderPassOptions,
  TextureFormat,
} from '../gpu/device.js';
import type { PassClock } from '../ledger/pass-clock.js';
import type { Ledger } from '../ledger/ledger.js';
import type { TransientTextures } from './transient-textures.js';

/** A texture as passes name it: there is one for as long as somebody reads it. */
export interface GraphTexture {
  readonly name: string;
}

export interface TransientOptions {
  /** Pixels. */
  width: number;
  height: number;
  format: TextureFormat;
  sampleCount?: number;
  /** Default 1. */
  mipLevelCount?: number;
}

export interface GraphColor {
  texture: GraphTexture;
  /** Receives the averaged samples. */
  resolve?: GraphTexture;
  /** Linear RGBA to start from, looked at in every frame; left out: what an earlier pass drew. */
  clear?: ArrayLike<number>;
}

/** One pass of a frame: what it reads, what it writes, and how it draws. */
export interface GraphPass {
  name: string;
  /** Read by its shaders. */
  reads?: readonly GraphTexture[];
  colors?: readonly GraphColor[];
  depth?: { texture: GraphTexture; clear?: number };
  /** Written otherwise than as attachments: copies, and passes of its own. */
  writes?: readonly GraphTexture[];
  /** Whether what it draws is the scene's, and not the lens's own doing. Default false. */
  isScene?: boolean;
  /**
   * Names of its parts in the ledger, where it has more than one: `run` ends all but the last. Default: its name.
   */
  parts?: readonly string[];
  /** The pass is open where it has attachments; without them it is undefined. */
  run(pass: RenderPass | undefined): void;
}

/** A texture of the graph with what is known of it. */
export interface GraphPicture extends GraphTexture {
  readonly options: TransientOptions | undefined;
  /** First and last pass that use it, of those that are kept. */
  first: number;
  last: number;
  /** Which of the pool's textures of its kind. */
  slot: number;
  texture: DeviceTexture | undefined;
}

export interface KeptPass {
  readonly pass: GraphPass;
  /** Undefined for passes without attachments. */
  readonly options: RenderPassOptions | undefined;
}

/**
 * The passes of a frame by what they read and write. Passes that nobody reads from are left out, textures that
 * are not alive at the same time share memory, and attachments are kept only for those who come back to them.
 * A graph is compiled once for a shape of frame and then run every frame without allocating.
 */
export class FrameGraph {
  /** @internal */
  readonly nodes: GraphPicture[] = [];
  private readonly passes: GraphPass[] = [];
  /** @internal Passes that are needed, and those that are not. */
  kept: readonly KeptPass[] = [];
  left: readonly GraphPass[] = [];

  constructor(
    private readonly device: Device,
    private readonly pool: TransientTextures,
  ) {}

  /** A texture that lives within a frame. */
  texture(name: string, options: TransientOptions): GraphTexture {
    return this.add(name, options);
  }

  /** A texture of somebody else's, given by `bind` before each run. What is written into it is a result. */
  outside(name: string): GraphTexture {
    return this.add(name, undefined);
  }

  /** Adds a pass; they run in the order in which they were added. */
  pass(pass: GraphPass): void {
    this.passes.push(pass);
  }

  /** Gives an outside texture for the frames to come. */
  bind(texture: GraphTexture, actual: DeviceTexture): void {
    (texture as GraphPicture).texture = actual;
  }

  /** The GPU's texture behind a name; of transient ones only within `run`. */
  of(texture: GraphTexture): DeviceTexture {
    return (texture as GraphPicture).texture!; // bound, or taken from the pool
  }

  /**
   * Finds out which passes are needed, how long textures live and which of them can share memory.
   *
   * @throws LensError `graph/read-before-write` when a pass reads what no earlier pass wrote
   */
  compile(): void {
    const needed = this.neededPasses();
    this.left = this.passes.filter((_, i) => !needed[i]);
    const kept = this.passes.filter((_, i) => needed[i]);
    for (const node of this.nodes) {
      node.first = kept.findIndex((pass) => touches(pass, node));
      node.last = kept.findLastIndex((pass) => touches(pass, node));
      if (node.first < 0 || !node.options) continue;
      if (!writes(kept[node.first]!, node)) {
        throw new LensError(
          'graph/read-before-write',
          `pass "${kept[node.first]!.name}" reads "${node.name}", which no pass before it writes`,
        );
      }
    }
    this.shareMemory();
    this.kept = kept.map((pass, i) => ({ pass, options: this.passOptions(pass, i, kept) }));
  }

  /** Runs the passes that are needed; each is a part of the ledger. @param clock times them on the GPU */
  run(frame: number, ledger: Ledger, clock?: PassClock): void {
    const { device, nodes, kept, pool } = this;
    for (let i = 0; i < nodes.length; i++) {
      const node = nodes[i]!; // i < length
      if (node.options && node.first >= 0) node.texture = pool.get(node.name, frame, node.options, node.slot);
    }
    for (let i = 0; i < kept.length; i++) {
      const { pass, options } = kept[i]!; // i < length
      if (options) {
        this.attach(pass, options);
        const timer = clock?.timerFor(pass.name);
        if (timer) options.timer = timer;
        else if (options.timer) delete options.timer;
        const open = device.beginRenderPass(options);
        pass.run(open);
        open.end();
      } else {
        pass.run(undefined);
      }
      const gpu = clock?.milliseconds.get(pass.name);
      ledger.endPart(pass.parts?.at(-1) ?? pass.name, pass.isScene === true, device.counts, gpu);
    }
  }

  private add(name: string, options: TransientOptions | undefined): GraphPicture {
    const node: GraphPicture = { name, options, first: -1, last: -1, slot: 0, texture: undefined };
    this.nodes.push(node);
    return node;
  }

  /** From the back: a pass is needed when it writes into what is outside, or into what a needed pass reads. */
  private neededPasses(): boolean[] {
    const wanted = new Set<GraphTexture>(this.nodes.filter(({ options }) => !options));
    const needed = this.passes.map(() => false);
    for (let i = this.passes.length - 1; i >= 0; i--) {
      const pass = this.passes[i]!; // i < length
      if (!this.nodes.some((node) => wanted.has(node) && writes(pass, node))) continue;
      needed[i] = true;
      for (const node of this.nodes) if (reads(pass, node)) wanted.add(node);
    }
    return needed;
  }

  /** Textures of one kind take the first slot that is free while they live. */
  private shareMemory(): void {
    const living = this.nodes.filter(({ options, first }) => options && first >= 0);
    living.sort((a, b) => a.first - b.first);
    const taken = new Map<string, number[]>();
    for (const node of living) {
      const kind = kindOf(node.options!); // filtered above
      const until = taken.get(kind) ?? [];
      taken.set(kind, until);
      const free = until.findIndex((last) => last < node.first);
      node.slot = free < 0 ? until.length : free;
      until[node.slot] = node.last;
    }
  }

  private passOptions(
    pass: GraphPass,
    index: number,
    kept: readonly GraphPass[],
  ): RenderPassOptions | undefined {
    const { colors = [], depth, name } = pass;
    if (colors.length === 0 && !depth) return undefined;
    const isKept = (texture: GraphTexture): boolean =>
      !(texture as GraphPicture).options || kept.slice(index + 1).some((later) => reads(later, texture));
    const texture = undefined as unknown as DeviceTexture; // set before each pass
    return {
      label: name,
      colorAttachments: colors.map((color): ColorAttachment => ({
        texture,
        ...(color.resolve ? { resolveTarget: texture } : {}),
        ...(color.clear ? { clearValue: color.clear } : {}),
        store: isKept(color.texture),
      })),
      ...(depth
        ? {
            depthAttachment: {
              texture,
              ...(depth.clear === undefined ? {} : { clearValue: depth.clear }),
              store: isKept(depth.texture),
            },
          }
        : {}),
    };
  }

  private attach(
    { colors = [], depth }: GraphPass,
    { colorAttachments, depthAttachment }: RenderPassOptions,
  ): void {
    for (let i = 0; i < colors.length; i++) {
      const { texture, resolve } = colors[i]!; // i < length
      const attachment = colorAttachments[i]!; // one each
      attachment.texture = this.of(texture);
      if (resolve) attachment.resolveTarget = this.of(resolve);
    }
    if (depth && depthAttachment) depthAttachment.texture = this.of(depth.texture);
  }
}

/** Whether what the texture held before matters to the pass. */
function reads({ reads: read = [], colors = [], depth }: GraphPass, texture: GraphTexture): boolean {
  return (
    read.includes(texture) ||
    colors.some((color) => color.texture === texture && !color.clear) ||
    (depth?.texture === texture && depth.clear === undefined)
  );
}

export function writes(
  { writes: written = [], colors = [], depth }: GraphPass,
  texture: GraphTexture,
): boolean {
  return (
    written.includes(texture) ||
    colors.some((color) => color.texture === texture || color.resolve === texture) ||
    depth?.texture === texture
  );
}

function touches(pass: GraphPass, texture: GraphTexture): boolean {
  return reads(pass, texture) || writes(pass, texture);
}

/** What textures must have in common to share memory. */
export function kindOf({
  width,
  height,
  format,
  sampleCount = 1,
  mipLevelCount = 1,
}: TransientOptions): string {
  const levels = mipLevelCount > 1 ? ` ${mipLevelCount} levels` : '';
  return `${format} ${width}x${height}${sampleCount > 1 ? ` x${sampleCount}` : ''}${levels}`;
}
