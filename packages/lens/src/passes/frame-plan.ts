import type { Device, TextureFormat } from '../gpu/device.js';
import { FrameGraph, type GraphTexture } from './frame-graph.js';
import type { TransientTextures } from './transient-textures.js';

/** What decides which passes a frame has. */
export interface FrameShape {
  /** Pixels. */
  width: number;
  height: number;
  /** Whether something asks what lies behind it. */
  readsBehind: boolean;
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
  drawShadows: FramePainter;
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
  lastUsed = 0;

  constructor(
    device: Device,
    pool: TransientTextures,
    readonly shape: FrameShape,
    { color: format, depth: depthFormat, sampleCount }: PlanFormats,
    painter: PlanPainter,
  ) {
    const { width, height, readsBehind, hasShadows } = shape;
    const graph = new FrameGraph(device, pool);
    const size = { width, height };
    const picture = graph.texture('picture', { ...size, format });
    const depth = graph.texture('depth', { ...size, format: depthFormat, sampleCount });
    const samples = sampleCount > 1 ? graph.texture('samples', { ...size, format, sampleCount }) : undefined;
    const behindColor = graph.texture('behind color', { ...size, format });
    const behindDepth = graph.texture('behind depth', { ...size, format: depthFormat });
    const target = graph.outside('target');
    const { clear } = painter;
    // The maps outlive the frame: whoever draws light reads them.
    const maps = graph.outside('shadow maps');
    if (hasShadows) graph.pass({ name: 'shadows', writes: [maps], run: painter.drawShadows });
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
      reads: readsBehind ? [behindColor, behindDepth] : [],
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
  }

  /** Whether a frame of this shape has the same passes. */
  fits({ width, height, readsBehind, hasShadows }: FrameShape): boolean {
    const { shape } = this;
    return (
      shape.width === width &&
      shape.height === height &&
      shape.readsBehind === readsBehind &&
      shape.hasShadows === hasShadows
    );
  }
}
