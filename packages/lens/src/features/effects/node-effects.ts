import { type DrawList, NONE, type Scene, type SceneNode } from '@umber-lens/core/engine';
import type { CameraState } from '../../batches/camera-state.js';
import type { CommandRange, CommandSpan } from '../../batches/scene-pass.js';
import type { GraphTexture } from '../../frame/frame-graph.js';
import type { FramePlan, PlanPainter } from '../../frame/frame-plan.js';
import type { DevicePipeline, RenderPass } from '../../gpu/device.js';
import { freeUnused } from '../../resources/kept.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';
import { WANTS } from '../wants.js';
import type { EffectChains } from './effect-chain.js';
import { type LayerTap, NodeLayer } from './node-layer.js';

/** Which layers a picture has: their nodes, sizes and passes, the inner ones first. */
interface Arrangement {
  layers: readonly {
    layer: NodeLayer;
    width: number;
    height: number;
    chain: NodeLayer['chain'];
    isTapped: boolean;
  }[];
  lastUsed: number;
  number: number;
}

/**
 * Effects on nodes with all below them: each is drawn into a layer of its own, as large as what it covers of the picture, treated,
 * and put back among what is blended, against the depths that are there.
 */
export class NodeEffects implements Feature {
  hasPasses = false;
  /** A number for each arrangement of layers; 0: there are none. */
  arrangement = 0;
  /** Who is given what effects of nodes came to. */
  readonly taps = new Map<SceneNode, LayerTap>();
  private readonly layers = new Map<SceneNode, NodeLayer>();
  /** Those of the picture at hand, the inner ones first. */
  private readonly shown: NodeLayer[] = [];
  private readonly arrangements: Arrangement[] = [];
  private arranged = 0;
  private readonly pipelines = new Map<string, DevicePipeline>();
  /** Of the picture at hand. */
  private colors: DevicePipeline | undefined;
  private depths: DevicePipeline | undefined;
  private occluded: DevicePipeline | undefined;
  private readonly span: CommandSpan = { from: 0, to: 0 };
  private frame = 0;

  constructor(private readonly host: FeatureHost) {}

  prepare(at: FrameAt): void {
    const chains = WANTS.layers(at) ? this.host.effects.loaded() : undefined;
    const { shown } = this;
    this.frame = at.frame;
    shown.length = 0;
    this.hasPasses = false;
    this.arrangement = 0;
    for (const ready of at.prepared.batches)
      if (ready?.batch.apart.layer) ready.isElsewhere = chains !== undefined;
    if (!chains) return;
    this.place(at, chains);
    this.hasPasses = shown.length > 0;
    if (!this.hasPasses) return;
    this.arrangement = this.arrange();
    const { formats } = this.host;
    const samples = at.prepared.full?.sampleCount ?? formats.sampleCount;
    this.colors = this.pipelineFor(chains, samples, 'colors');
    this.depths = this.pipelineFor(chains, samples, 'depths');
    this.occluded = this.pipelineFor(chains, samples, 'occluded');
  }

  /** Takes over what shaders are told of the picture. To be called outside a pass. */
  takeFrame(values: Float32Array): void {
    for (const layer of this.shown) layer.takeFrame(values);
  }

  addBefore(plan: FramePlan, painter: PlanPainter): readonly GraphTexture[] {
    const { layers } = this.arrangements.find(({ number }) => number === plan.shape.layers)!; // it is the picture's
    const results = new Map<NodeLayer, readonly GraphTexture[]>();
    layers.forEach(({ layer }, i) => {
      const inner = layers.flatMap(({ layer: other }) =>
        other.outer === layer ? (results.get(other) ?? []) : [],
      );
      const name = `layer ${i + 1}${layer.node.name === '' ? '' : ` ${layer.node.name}`}`;
      results.set(layer, layer.addPasses(plan, painter, name, inner, this.host, this));
    });
    return layers.flatMap(({ layer }) => (layer.outer ? [] : results.get(layer)!)); // all have some
  }

  /**
   * Draws what is blended of a picture, with its layers in their places: each behind what is nearer.
   *
   * @param draw draws commands
   * @param outer the layer that the pass draws; left out: the picture
   * @returns false where there are no layers, and nothing was drawn
   */
  drawAmong(
    pass: RenderPass,
    { list, view }: CameraState,
    draw: (range: CommandRange) => void,
    outer?: NodeLayer,
  ): boolean {
    const { shown, span } = this;
    if (shown.length === 0) return false;
    for (const layer of shown) layer.isPut = layer.outer !== outer;
    let from = list.opaqueCommands;
    for (;;) {
      const next = farthest(shown);
      if (!next) break;
      next.isPut = true;
      span.from = from;
      from = span.to = this.placeAmong(list, view, next.distance, from);
      draw(span);
      next.put(pass, this.colors!, this.depths!, this.occluded!, this.frame); // made by prepare
    }
    span.from = from;
    span.to = list.commands;
    draw(span);
    return true;
  }

  sweep(frame: number): void {
    for (let i = this.arrangements.length - 1; i >= 0; i--)
      if (this.arrangements[i]!.lastUsed < frame) this.arrangements.splice(i, 1);
    for (const layer of this.layers.values()) layer.sweep(frame);
    freeUnused(this.layers, frame, (layer) => layer.dispose());
  }

  /** The first command from one on whose things are nearer than a distance. */
  private placeAmong(list: DrawList, view: CameraState['view'], distance: number, from: number): number {
    let command = from;
    while (command < list.commands && list.depthAt(list.commandFirst[command]!, view) >= distance) command++; // within
    return command;
  }

  /** Finds out which layers the picture has, and where they lie in it. */
  private place(at: FrameAt, chains: EffectChains): void {
    const { scene } = at;
    const { layers, shown } = this;
    for (const [node, effects] of scene.effects) {
      let layer = layers.get(node);
      if (!layer) layers.set(node, (layer = new NodeLayer(this.host.device, node)));
      layer.measure(at);
      layer.chain = chains.chainFor(effects, node);
      layer.tap = this.taps.get(node);
    }
    // What is treated within another lies where that reaches, too.
    for (const node of scene.effects.keys()) {
      const layer = layers.get(node)!; // made above
      const outer = outerOf(scene, node);
      layer.outer = outer && layers.get(outer);
      layer.level = 0;
      for (let up = outer; up; up = outerOf(scene, up)) layer.level++;
      if (layer.bounds.isEmpty) continue;
      shown.push(layer);
    }
    shown.sort(byLevel);
    for (const layer of shown) layer.lay();
    for (let i = shown.length - 1; i >= 0; i--)
      if (shown[i]!.width === 0) shown.splice(i, 1);
      else shown[i]!.begin(at);
  }

  /** The number of the layers at hand. */
  private arrange(): number {
    const { arrangements, shown, frame } = this;
    for (const known of arrangements) {
      if (!fits(known, shown)) continue;
      known.lastUsed = frame;
      return known.number;
    }
    const layers = shown.map((layer) => ({
      layer,
      width: layer.width,
      height: layer.height,
      chain: layer.chain,
      isTapped: layer.tap !== undefined,
    }));
    arrangements.push({ layers, lastUsed: frame, number: ++this.arranged });
    return this.arranged;
  }

  private pipelineFor(
    chains: EffectChains,
    sampleCount: number,
    what: 'colors' | 'depths' | 'occluded',
  ): DevicePipeline {
    const key = `${sampleCount} ${what}`;
    let found = this.pipelines.get(key);
    if (!found) {
      const { device, formats } = this.host;
      const isDepth = what === 'depths';
      const isOccluded = what === 'occluded';
      const over = { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const;
      found = device.createRenderPipeline({
        label: 'put layer',
        shader: device.createShader({ label: 'put layer', ...chains.shaders.put }),
        constants: { isDepth, isOccluded },
        depth: { format: formats.depth, compare: isOccluded ? 'less' : 'greater-equal', write: isDepth },
        targets: [
          {
            format: formats.color,
            ...(isDepth ? { write: false } : { blend: { color: over, alpha: over } }),
          },
        ],
        sampleCount,
      });
      this.pipelines.set(key, found);
    }
    return found;
  }
}

/** The nearest node above that has effects. */
function outerOf(scene: Scene, { row }: SceneNode): SceneNode | undefined {
  const parent = scene.columns.parent[row]!; // it has effects: it is alive
  return parent === NONE ? undefined : scene.layerOf(parent);
}

const byLevel = (a: NodeLayer, b: NodeLayer): number => b.level - a.level;

/** Of the layers that are not put yet, the one that is farthest away. */
function farthest(layers: readonly NodeLayer[]): NodeLayer | undefined {
  let found: NodeLayer | undefined;
  for (const layer of layers) if (!layer.isPut && !(found && found.distance >= layer.distance)) found = layer;
  return found;
}

function fits({ layers }: Arrangement, shown: readonly NodeLayer[]): boolean {
  if (layers.length !== shown.length) return false;
  for (let i = 0; i < layers.length; i++) {
    const known = layers[i]!; // i < length, here and below
    const layer = shown[i]!;
    if (known.layer !== layer || known.chain !== layer.chain) return false;
    if (known.width !== layer.width || known.height !== layer.height) return false;
    if (known.isTapped !== (layer.tap !== undefined)) return false;
  }
  return true;
}
