import { type Geometry, geometryFrom, Scene, type SceneNode } from '@umber-lens/core/engine';
import type { DrawOptions, Lens } from 'umber-lens';
import { gridLines, type GridPlace, gridPlace } from '../logic/aids/aid-lines.js';
import type { Vec } from '../logic/handles/vectors.js';

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
  private readonly grid = new Scene();
  private readonly gridCamera: SceneNode;
  private gridAt: GridPlace | undefined;
  private readonly matrix = new Float32Array(16);
  private readonly twins = new Map<SceneNode, SceneNode>();
  private readonly material = { unlit: true, baseColorFactor: [1, 1, 1, 1], doubleSided: true } as never;

  constructor() {
    this.camera = this.scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
    this.gridCamera = this.grid.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
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

  /** Has the grid lie about a place; nothing is made anew as long as it lies there. @param pixel metres to a pixel there */
  layGrid(about: Vec, pixel: number): void {
    const place = gridPlace(about, pixel);
    const { gridAt } = this;
    if (gridAt?.step === place.step && gridAt.x === place.x && gridAt.z === place.z) return;
    this.gridAt = place;
    const { coarse, fine } = gridLines(place);
    for (const node of [...this.grid.root.children()]) if (!node.camera) node.remove();
    for (const [lines, alpha] of [
      [fine, 0.13],
      [coarse, 0.3],
    ] as const)
      this.grid.createNode({
        mesh: {
          geometry: { ...geometryFrom({ position: new Float32Array(lines.flat(2)) }), mode: 'lines' },
          material: { unlit: true, baseColorFactor: [0.82, 0.72, 0.55, alpha], alphaMode: 'blend' },
        },
      });
  }

  /** The grid, hidden by what stands before it in the picture that was drawn with `keepDepth`. */
  drawGrid(lens: Lens, through: SceneNode): void {
    this.gridCamera.setMatrix(through.readWorldMatrix(this.matrix));
    if (through.camera) this.gridCamera.setCamera(through.camera);
    lens.drawPast(this.grid, this.gridCamera, { ...PLAIN, clear: { color: false, depth: false } });
  }

  dispose(lens: Lens): void {
    lens.release(this.grid);
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
