import type { PreviewedGraph } from '@umber-lens/core/graphs';
import { numbersOf } from '../logic/graph/graph-probe.js';
import {
  box,
  createMaterial,
  type Geometry,
  type Lens,
  type Material,
  plane,
  type RenderTarget,
  Scene,
  type SceneNode,
  sphere,
} from 'umber-lens';

/** Pixels of a picture's side. */
export const PICTURE = 56;
/** Pictures beside each other in the atlas. */
const ACROSS = 8;
const SHAPES = {
  ball: (): Geometry => sphere({ radius: 0.94 }),
  cube: (): Geometry => box({ width: 1.15, height: 1.15, depth: 1.15 }),
  plane: (): Geometry => plane({ width: 1.8, depth: 1.8 }),
} as const;

export type PictureShape = keyof typeof SHAPES;
export const PICTURE_SHAPES = Object.keys(SHAPES) as PictureShape[];

const TURNS: Readonly<Record<PictureShape, [number, number, number, number]>> = {
  ball: [0, 0, 0, 1],
  cube: [0.2706, -0.3536, 0.1121, 0.8883],
  plane: [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
};

/** Pictures of all nodes of a graph on a shape: one draw into one target, read back. */
export class GraphPictures {
  shape: PictureShape = 'ball';
  /** By node: pixels, RGBA, a picture each. */
  readonly pictures = new Map<string, ImageData>();
  private readonly scene = new Scene();
  private readonly camera: SceneNode;
  private readonly shown: SceneNode[] = [];
  private nodes: readonly string[] = [];
  private material: Material | undefined;
  private target: RenderTarget | undefined;
  private madeOf = '';
  /** What the pictures are of. */
  private drawnOf = '';
  private shapeOf: PictureShape | undefined;
  private geometry: Geometry | undefined;
  private isBusy = false;
  private isOver = false;

  constructor(private readonly lens: Lens) {
    this.camera = this.scene.createNode({
      translation: [0, 0, 5],
      camera: { type: 'orthographic', xmag: ACROSS, ymag: ACROSS, znear: 0.1, zfar: 10 },
    });
  }

  /**
   * Draws them anew, where something of them is other than before. While they are being drawn, further calls do nothing.
   *
   * @param settings as the graph's material has them
   * @returns whether there are new ones
   */
  async draw(
    { compiled, nodes }: PreviewedGraph,
    { file, sources }: { file: string; sources: Readonly<Record<string, string>> },
    settings: Material['settings'],
  ): Promise<boolean> {
    if (this.isBusy || this.isOver || nodes.length === 0) return false;
    const isTimed = compiled.wgsl.includes('frame.');
    const key = JSON.stringify([compiled.wgsl, this.shape, numbersOf(settings)]);
    if (key === this.drawnOf && !isTimed) return false;
    this.isBusy = true;
    try {
      await this.make(compiled.wgsl, nodes, file, sources);
      this.material!.settings = { ...this.material!.settings, ...this.known(settings) }; // it was made
      const isNew = await this.read();
      if (isNew) this.drawnOf = key;
      return isNew;
    } finally {
      this.isBusy = false;
    }
  }

  private known(settings: Material['settings']): NonNullable<Material['settings']> {
    const names = new Set(this.material?.shader?.settings.map(({ name }) => name));
    const textures = new Set(this.material?.shader?.textures.map(({ name }) => name));
    return Object.fromEntries(
      Object.entries(settings ?? {}).filter(([name]) => names.has(name) || textures.has(name)),
    ) as NonNullable<Material['settings']>;
  }

  private async make(
    wgsl: string,
    nodes: readonly string[],
    file: string,
    sources: Readonly<Record<string, string>>,
  ): Promise<void> {
    if (wgsl !== this.madeOf) {
      const { compileMaterialShader } = await import('umber-lens/shaders');
      const shader = compileMaterialShader(wgsl, { file, sources: { ...sources } });
      this.material = createMaterial(shader, { name: 'pictures of nodes' }) as Material;
      this.madeOf = wgsl;
      this.shapeOf = undefined;
    }
    if (this.shapeOf !== this.shape || nodes.length !== this.shown.length) {
      this.shapeOf = this.shape;
      this.geometry = SHAPES[this.shape]();
      for (const node of this.shown.splice(0)) node.remove();
      for (let i = 0; i < nodes.length; i++)
        this.shown.push(
          this.scene.createNode({
            translation: [(i % ACROSS) * 2 + 1 - ACROSS, ACROSS - 1 - Math.floor(i / ACROSS) * 2, 0],
            rotation: TURNS[this.shape],
            settings: { shownNode: i + 1 },
            mesh: { geometry: this.geometry, material: this.material! }, // it was made
          }),
        );
    }
    this.nodes = nodes;
  }

  private async read(): Promise<boolean> {
    const { lens, nodes, scene } = this;
    const side = PICTURE * ACROSS;
    const target = (this.target ??= lens.createTarget({ width: side, height: side }));
    await lens.load(scene);
    if (this.isOver) return false;
    lens.draw(scene, this.camera, { target, finish: [], look: { toneMapping: 'none', exposure: 0 } });
    const bytes = await target.read();
    if (this.isOver) return false;
    this.pictures.clear();
    for (const [i, name] of nodes.slice(0, ACROSS * ACROSS).entries()) {
      const picture = new ImageData(PICTURE, PICTURE);
      const [x, y] = [(i % ACROSS) * PICTURE, Math.floor(i / ACROSS) * PICTURE];
      for (let row = 0; row < PICTURE; row++) {
        const from = ((y + row) * side + x) * 4;
        picture.data.set(bytes.subarray(from, from + PICTURE * 4), row * PICTURE * 4);
      }
      this.pictures.set(name, picture);
    }
    return true;
  }

  dispose(): void {
    this.isOver = true;
    this.target?.dispose();
    this.lens.release(this.scene);
  }
}
