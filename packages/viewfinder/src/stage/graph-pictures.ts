import { type Graph, previewGraph } from '@umber-lens/core/graphs';
import {
  box,
  type Geometry,
  type Material,
  type Lens,
  Scene,
  type SceneNode,
  sphere,
  plane,
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
  private madeOf = '';
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
   * Draws them anew. While they are being drawn, further calls do nothing.
   *
   * @param settings as the graph's material has them
   * @returns whether there are new ones
   */
  async draw(graph: Graph, file: string, settings: Material['settings']): Promise<boolean> {
    if (this.isBusy || this.isOver) return false;
    this.isBusy = true;
    try {
      if (!(await this.make(graph, file))) return false;
      this.material!.settings = { ...this.material!.settings, ...this.known(settings) }; // it was made
      return await this.read();
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

  private async make(graph: Graph, file: string): Promise<boolean> {
    const preview = previewGraph(graph, { file });
    if (!preview) return false;
    const { compiled, nodes } = preview;
    if (compiled.wgsl !== this.madeOf) {
      const { compileMaterialShader } = await import('umber-lens/shaders');
      const { createMaterial } = await import('umber-lens');
      this.material = createMaterial(compileMaterialShader(compiled.wgsl, { file: `${file} (pictures)` }), {
        name: 'pictures of nodes',
      }) as Material;
      this.madeOf = compiled.wgsl;
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
    return nodes.length > 0;
  }

  private async read(): Promise<boolean> {
    const { lens, nodes, scene } = this;
    // As many rows as there are: the camera looks at eight, the target has what is asked of them.
    const side = PICTURE * ACROSS;
    const target = lens.createTarget({ width: side, height: side });
    try {
      await lens.load(scene);
      if (this.isOver) return false;
      lens.draw(scene, this.camera, { target, finish: [], look: { toneMapping: 'none', exposure: 0 } });
      const bytes = await target.read();
      this.pictures.clear();
      for (const [i, name] of nodes.entries()) {
        const picture = new ImageData(PICTURE, PICTURE);
        const [x, y] = [(i % ACROSS) * PICTURE, Math.floor(i / ACROSS) * PICTURE];
        if (y >= side) break;
        for (let row = 0; row < PICTURE; row++) {
          const from = ((y + row) * side + x) * 4;
          picture.data.set(bytes.subarray(from, from + PICTURE * 4), row * PICTURE * 4);
        }
        this.pictures.set(name, picture);
      }
      return true;
    } finally {
      target.dispose();
    }
  }

  dispose(): void {
    this.isOver = true;
    this.lens.release(this.scene);
  }
}
