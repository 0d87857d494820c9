import {
  type BindGroupEntry,
  type Device,
  type DeviceTexture,
  mipLevels,
  type TextureFormat,
} from '../gpu/device.js';
import { FrameGraph, type GraphTexture } from './frame-graph.js';
import type { TransientTextures } from './transient-textures.js';

/** What decides which passes a frame has. */
export interface FrameShape {
  /** Pixels. */
  width: number;
  height: number;
  /** Whether something asks what lies behind it. */
  readsBehind: boolean;
  /** Whether something is seen through something else. */
  seesThrough: boolean;
  /** Whether shadow maps are to be drawn anew. */
  hasShadows: boolean;
}

export interface PlanFormats {
  color: TextureFormat;
  depth: TextureFormat;
  sampleCount: number;
}

/** Who draws in the passes of a plan. */
export interface PlanPainter {
  /** Linear, premultiplied: what the picture begins with. */
  readonly clear: Float32Array;
  /** The same as radiance, weighted. */
  readonly clearRadiance: Float32Array;
  drawShadows: FramePainter;
  drawRadiance: FramePainter;
  drawBefore: FramePainter;
  draw: FramePainter;
  finish: FramePainter;
}

export type FramePainter = Parameters<FrameGraph['pass']>[0]['run'];

/** The graph of one shape of frame, with the textures that its passes hand to each other. */
export class FramePlan {
  readonly graph: FrameGraph;
  /** The linear picture, all samples averaged. */
  readonly picture: GraphTexture;
  readonly target: GraphTexture;
  /** What was drawn before the things that ask for it. */
  readonly behindColor: GraphTexture;
  readonly behindDepth: GraphTexture;
  /** Radiance of what is opaque, weighted, in all levels. */
  readonly radiance: GraphTexture;
  lastUsed = 0;
  private bound: {
    extras: readonly BindGroupEntry[] | undefined;
    color: DeviceTexture | undefined;
    depth: DeviceTexture | undefined;
    radiance: DeviceTexture | undefined;
    entries: readonly BindGroupEntry[];
  } = { extras: undefined, color: undefined, depth: undefined, radiance: undefined, entries: [] };

  constructor(
    device: Device,
    pool: TransientTextures,
    readonly shape: FrameShape,
    { color: format, depth: depthFormat, sampleCount }: PlanFormats,
    painter: PlanPainter,
  ) {
    const { width, height, readsBehind, seesThrough, hasShadows } = shape;
    const graph = new FrameGraph(device, pool);
    const size = { width, height };
    const picture = graph.texture('picture', { ...size, format });
    const depth = graph.texture('depth', { ...size, format: depthFormat, sampleCount });
    const samples = sampleCount > 1 ? graph.texture('samples', { ...size, format, sampleCount }) : undefined;
    const behindColor = graph.texture('behind color', { ...size, format });
    const behindDepth = graph.texture('behind depth', { ...size, format: depthFormat });
    const radiance = graph.texture('radiance', { ...size, format, mipLevelCount: mipLevels(width, height) });
    const target = graph.outside('target');
    const { clear } = painter;
    // The maps outlive the frame: whoever draws light reads them.
    const maps = graph.outside('shadow maps');
    if (hasShadows) graph.pass({ name: 'shadows', writes: [maps], run: painter.drawShadows });
    if (seesThrough) {
      const seen =
        sampleCount > 1 ? graph.texture('radiance samples', { ...size, format, sampleCount }) : undefined;
      const clearRadiance = painter.clearRadiance;
      graph.pass({
        name: 'radiance',
        colors: [
          seen
            ? { texture: seen, resolve: radiance, clear: clearRadiance }
            : { texture: radiance, clear: clearRadiance },
        ],
        depth: {
          texture: graph.texture('radiance depth', { ...size, format: depthFormat, sampleCount }),
          clear: 0,
        },
        run: painter.drawRadiance,
      });
      graph.pass({
        name: 'blur radiance',
        reads: [radiance],
        writes: [radiance],
        run: () => device.generateMipmaps(graph.of(radiance)),
      });
    }
    if (readsBehind) {
      graph.pass({
        name: 'behind',
        isScene: true,
        colors: [samples ? { texture: samples, resolve: behindColor, clear } : { texture: picture, clear }],
        depth: { texture: depth, clear: 0 },
        run: painter.drawBefore,
      });
      graph.pass({
        name: 'copy behind',
        reads: samples ? [depth] : [depth, picture],
        writes: samples ? [behindDepth] : [behindDepth, behindColor],
        run: () => {
          if (!samples) device.copyTexture(graph.of(picture), graph.of(behindColor));
          device.copyDepth(graph.of(depth), graph.of(behindDepth));
        },
      });
    }
    const start = readsBehind ? {} : { clear };
    graph.pass({
      name: 'scene',
      parts: ['opaque', 'blended'],
      isScene: true,
      reads: [...(readsBehind ? [behindColor, behindDepth] : []), ...(seesThrough ? [radiance] : [])],
      colors: [samples ? { texture: samples, resolve: picture, ...start } : { texture: picture, ...start }],
      depth: { texture: depth, ...(readsBehind ? {} : { clear: 0 }) },
      run: painter.draw,
    });
    graph.pass({ name: 'finish', reads: [picture], writes: [target], run: painter.finish });
    graph.compile();
    this.graph = graph;
    this.picture = picture;
    this.target = target;
    this.behindColor = behindColor;
    this.behindDepth = behindDepth;
    this.radiance = radiance;
  }

  /** What the scene pass binds besides `extras`: what was drawn before it. The same array while its textures are. */
  bindings(extras: readonly BindGroupEntry[]): readonly BindGroupEntry[] {
    const { graph, shape, bound } = this;
    const color = shape.readsBehind ? graph.of(this.behindColor) : undefined;
    const depth = shape.readsBehind ? graph.of(this.behindDepth) : undefined;
    const radiance = shape.seesThrough ? graph.of(this.radiance) : undefined;
    if (!color && !radiance) return extras;
    if (
      bound.extras !== extras ||
      bound.color !== color ||
      bound.depth !== depth ||
      bound.radiance !== radiance
    ) {
      const entries = [...extras];
      if (depth) entries.push({ binding: 2, texture: depth });
      if (color) entries.push({ binding: 3, texture: color });
      if (radiance) entries.push({ binding: 7, texture: radiance });
      this.bound = { extras, color, depth, radiance, entries };
    }
    return this.bound.entries;
  }

  /** Whether a frame of this shape has the same passes. */
  fits({ width, height, readsBehind, seesThrough, hasShadows }: FrameShape): boolean {
    const { shape } = this;
    return (
      shape.width === width &&
      shape.height === height &&
      shape.readsBehind === readsBehind &&
      shape.seesThrough === seesThrough &&
      shape.hasShadows === hasShadows
    );
  }
}
