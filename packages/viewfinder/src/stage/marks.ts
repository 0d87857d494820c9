import { type Geometry, Scene, type SceneNode } from '@umber-lens/core/engine';
import type { DrawOptions, Lens } from 'umber-lens';

/** Most meshes that are outlined: beyond it, boxes tell. */
const MOST = 200;

const BRASS: [number, number, number, number] = [0.98, 0.76, 0.36, 1];

/** However the page's picture is made, this one shows colors as they are given. */
const PLAIN: DrawOptions = {
  finish: [],
  show: 'shaded',
  onDemand: false,
  renderPath: 'forward',
  look: { toneMapping: 'none', exposure: 0, contrast: 1, saturation: 1, automaticExposure: false },
};

/**
 * Outlines of chosen nodes, drawn over the picture, also where things hide them: their meshes in a scene of its own, of which a line is left.
 */
export class Marks {
  readonly scene = new Scene();
  /** What it is drawn through: kept where the picture's camera is. */
  readonly camera: SceneNode;
  private readonly group: SceneNode;
  private readonly matrix = new Float32Array(16);
  private readonly twins = new Map<SceneNode, SceneNode>();
  private readonly material = { unlit: true, baseColorFactor: [1, 1, 1, 1], doubleSided: true } as never;

  constructor() {
    this.camera = this.scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
    this.group = this.scene.createNode({});
    this.group.effects = [
      { type: 'outline', width: 2, color: BRASS, result: 'line' },
      { type: 'composite', operator: 'out', in: 'line', in2: 'SourceGraphic' },
    ];
  }

  get isEmpty(): boolean {
    return this.twins.size === 0;
  }

  /** @returns nodes that are bent as they are drawn, or too many: those are told by their boxes */
  mark(nodes: readonly SceneNode[]): SceneNode[] {
    const boxed: SceneNode[] = [];
    const wanted = new Set<SceneNode>();
    for (const top of nodes)
      for (const node of [top, ...top.descendants()]) {
        if (!node.mesh || !node.isShown) continue;
        const isBent = node.mesh.primitives.some((_, i) =>
          node.scene.guests.ask((guest) => guest.shapeOf?.(node, i)),
        );
        if (isBent || wanted.size >= MOST) {
          if (!boxed.includes(top)) boxed.push(top);
          // Below it there may be very many more.
          if (wanted.size >= MOST) break;
        } else wanted.add(node);
      }
    for (const [node, twin] of this.twins)
      if (!wanted.has(node)) {
        twin.remove();
        this.twins.delete(node);
      }
    for (const node of wanted) {
      const geometries = node.mesh!.primitives.map(({ geometry }) => geometry); // it has one
      const known = this.twins.get(node);
      if (known && !isOther(known, geometries)) continue;
      known?.remove();
      const mesh = geometries.map((geometry) => ({ geometry, material: this.material }));
      this.twins.set(node, this.scene.createNode({ parent: this.group, mesh }));
    }
    return boxed;
  }

  /** Follows what moves, and draws. */
  draw(lens: Lens, through: SceneNode): void {
    if (this.isEmpty) return;
    const { matrix } = this;
    for (const [node, twin] of this.twins) if (node.isAlive) twin.setMatrix(node.readWorldMatrix(matrix));
    this.camera.setMatrix(through.readWorldMatrix(matrix));
    if (through.camera) this.camera.setCamera(through.camera);
    lens.drawPast(this.scene, this.camera, { ...PLAIN, clear: { color: false } });
  }

  dispose(lens: Lens): void {
    for (const twin of this.twins.values()) twin.remove();
    this.twins.clear();
    lens.release(this.scene);
  }
}

const isOther = (twin: SceneNode, geometries: readonly Geometry[]): boolean => {
  const { primitives = [] } = twin.mesh ?? {};
  return (
    primitives.length !== geometries.length ||
    primitives.some(({ geometry }, i) => geometry !== geometries[i])
  );
};
