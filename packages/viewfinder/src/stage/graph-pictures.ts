import { type CompiledGraph, PREVIEW_LIGHT, type PreviewedGraph } from '@umber-lens/core/graphs';
import type { Shaded } from '../logic/graph/shaded.js';
import { numbersOf } from '../logic/graph/graph-probe.js';
import { pictured } from '../logic/graph/pictured.js';
import {
  box,
  createMaterial,
  type Geometry,
  geometryFrom,
  type Lens,
  type Material,
  plane,
  type RenderTarget,
  Scene,
  type SceneNode,
  sphere,
} from 'umber-lens';
import { previewShader, settingsFor } from './preview-shader.js';

/** Pixels of a picture's side. */
export const PICTURE = 56;
/** Most pictures beside each other in the atlas. */
const MOST_ACROSS = 12;
/** Most pictures: with more nodes those that are seen have them. */
const MOST = MOST_ACROSS ** 2;
export const PICTURE_SHAPES = ['ball', 'cube', 'plane', 'cloth', 'chosen'] as const;
export type PictureShape = (typeof PICTURE_SHAPES)[number];

/** Squares of a cloth along a side. */
const FOLDS = 24;

/** A square that hangs in folds, as a height over X and Z. */
function cloth(): Geometry {
  const [position, normal, texcoord0, indices]: [number[], number[], number[], number[]] = [[], [], [], []];
  for (let row = 0; row <= FOLDS; row++)
    for (let column = 0; column <= FOLDS; column++) {
      const [u, v] = [column / FOLDS, row / FOLDS];
      const [x, z] = [1.8 * u - 0.9, 1.8 * v - 0.9];
      const [a, b] = [5 * x + 1.5 * z, 3 * z - 2 * x];
      position.push(x, 0.1 * Math.sin(a) + 0.06 * Math.sin(b), z);
      const [dx, dz] = [0.5 * Math.cos(a) - 0.12 * Math.cos(b), 0.15 * Math.cos(a) + 0.18 * Math.cos(b)];
      const length = Math.hypot(dx, 1, dz);
      normal.push(-dx / length, 1 / length, -dz / length);
      texcoord0.push(u, v);
      if (row === FOLDS || column === FOLDS) continue;
      const at = row * (FOLDS + 1) + column;
      const below = at + FOLDS + 1;
      indices.push(at, below, at + 1, at + 1, below, below + 1);
    }
  return geometryFrom({ position, normal, texcoord0 }, indices);
}

const SHAPES: Readonly<Record<Exclude<PictureShape, 'chosen'>, () => Geometry>> = {
  ball: () => sphere({ radius: 0.94 }),
  cube: () => box({ width: 1.15, height: 1.15, depth: 1.15 }),
  plane: () => plane({ width: 1.8, depth: 1.8 }),
  cloth,
};

const UPRIGHT: [number, number, number, number] = [Math.SQRT1_2, 0, 0, Math.SQRT1_2];
const TURNS: Readonly<Record<PictureShape, [number, number, number, number]>> = {
  ball: [0, 0, 0, 1],
  cube: [0.2706, -0.3536, 0.1121, 0.8883],
  plane: UPRIGHT,
  cloth: UPRIGHT,
  chosen: [0.0923, -0.3823, 0.0386, 0.9186],
};

/** Pictures of all nodes of a graph on a shape: one draw into one target, read back. */
export class GraphPictures {
  shape: PictureShape = 'ball';
  /** Of what is chosen in the scene: what pictures are on where the shape is `chosen`. */
  chosen: Geometry | undefined;
  /** From where light comes, in the world. */
  light: readonly [number, number, number] = PREVIEW_LIGHT;
  /** Nodes that are in sight. */
  seen: ReadonlySet<string> = new Set();
  /** By node: pixels, RGBA, a picture each. */
  pictures: ReadonlyMap<string, ImageData> = new Map();
  private readonly scene = new Scene();
  private readonly camera: SceneNode;
  private readonly shown: SceneNode[] = [];
  /** Of the nodes those that have pictures, by their numbers. */
  private numbers: readonly number[] = [];
  private material: Material | undefined;
  private target: RenderTarget | undefined;
  /** What the pictures are of. */
  private drawnOf = '';
  private shapeOf: PictureShape | Geometry | undefined;
  private geometry: Geometry | undefined;
  /** What is chosen, without what bends it. */
  private plain: { of: Geometry; geometry: Geometry } | undefined;
  /** Pictures beside each other. */
  private across = 8;
  private isBusy = false;
  private isOver = false;

  constructor(private readonly lens: Lens) {
    this.camera = this.scene.createNode({ translation: [0, 0, 5] });
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
    settings: Shaded['settings'],
  ): Promise<boolean> {
    if (this.isBusy || this.isOver || nodes.length === 0) return false;
    const isTimed = compiled.wgsl.includes('frame.');
    const numbers = pictured(nodes, this.seen, MOST);
    const key = JSON.stringify([compiled.wgsl, this.shape, this.light, numbersOf(settings), numbers]);
    if (key === this.drawnOf && !isTimed && this.shapeOf === this.wanted) return false;
    this.isBusy = true;
    try {
      const material = await this.make(compiled, numbers, { file, sources });
      material.settings = {
        ...material.settings,
        ...settingsFor(material.shader!, settings), // it has one
        previewLight: Float32Array.from(this.light),
      };
      const isNew = await this.read(nodes);
      if (isNew) this.drawnOf = key;
      return isNew;
    } finally {
      this.isBusy = false;
      // What was loaded since it was let go of.
      if (this.isOver) this.lens.release(this.scene);
    }
  }

  private async make(
    compiled: CompiledGraph,
    numbers: readonly number[],
    of: { file: string; sources: Readonly<Record<string, string>> },
  ): Promise<Material> {
    const shader = await previewShader(compiled, of);
    if (shader !== this.material?.shader) {
      this.material = createMaterial(shader, { name: 'pictures of nodes' }) as Material;
      this.shapeOf = undefined;
    }
    const { wanted } = this;
    const isOther =
      numbers.length !== this.numbers.length || numbers.some((one, i) => one !== this.numbers[i]);
    if (this.shapeOf !== wanted || isOther) this.place(numbers);
    this.shapeOf = wanted;
    this.numbers = numbers;
    return this.material;
  }

  /** What the shape is made of. */
  private get wanted(): PictureShape | Geometry {
    if (this.shape !== 'chosen') return this.shape;
    const { chosen } = this;
    if (!chosen) return 'ball';
    if (this.plain?.of !== chosen) {
      // What bends or copies it belongs to nodes of the scene: it is shown as it is without.
      const { placement: _placement, targets: _targets, ...rest } = chosen;
      this.plain = { of: chosen, geometry: chosen.placement || chosen.targets ? rest : chosen };
    }
    return this.plain.geometry;
  }

  /** A shape to each node, side by side. */
  private place(numbers: readonly number[]): void {
    const { wanted } = this;
    const across = Math.max(8, Math.ceil(Math.sqrt(numbers.length)));
    this.camera.setCamera({ type: 'orthographic', xmag: across, ymag: across, znear: 0.1, zfar: 10 });
    if (across !== this.across) {
      this.target?.dispose();
      this.target = undefined;
    }
    this.across = across;
    this.geometry = typeof wanted === 'string' ? SHAPES[wanted as 'ball']() : wanted;
    const { middle, scale } = typeof wanted === 'string' ? { middle: [0, 0, 0], scale: 1 } : fitOf(wanted);
    for (const node of this.shown.splice(0)) node.remove();
    for (const [i, number] of numbers.entries()) {
      const holder = this.scene.createNode({
        translation: [(i % across) * 2 + 1 - across, across - 1 - Math.floor(i / across) * 2, 0],
        rotation: TURNS[typeof wanted === 'string' ? wanted : 'chosen'],
        scale: [scale, scale, scale],
      });
      this.scene.createNode({
        parent: holder,
        translation: [-middle[0]!, -middle[1]!, -middle[2]!], // three
        settings: { shownNode: number + 1 },
        mesh: { geometry: this.geometry, material: this.material! }, // it was made
      });
      this.shown.push(holder);
    }
  }

  private async read(nodes: readonly string[]): Promise<boolean> {
    const { across, lens, numbers, scene } = this;
    const side = PICTURE * across;
    const target = (this.target ??= lens.createTarget({ width: side, height: side }));
    await lens.load(scene);
    if (this.isOver) return false;
    lens.draw(scene, this.camera, { target, finish: [], look: { toneMapping: 'none', exposure: 0 } });
    const bytes = await target.read();
    if (this.isOver) return false;
    const pictures = new Map<string, ImageData>();
    for (const [i, number] of numbers.entries()) {
      const picture = new ImageData(PICTURE, PICTURE);
      const [x, y] = [(i % across) * PICTURE, Math.floor(i / across) * PICTURE];
      for (let row = 0; row < PICTURE; row++) {
        const from = ((y + row) * side + x) * 4;
        picture.data.set(bytes.subarray(from, from + PICTURE * 4), row * PICTURE * 4);
      }
      pictures.set(nodes[number]!, picture);
    }
    this.pictures = pictures;
    return true;
  }

  dispose(): void {
    this.isOver = true;
    this.target?.dispose();
    this.lens.release(this.scene);
  }
}

/** How a geometry fills a picture. */
function fitOf({ bounds }: Geometry): { middle: number[]; scale: number } {
  const middle = [0, 1, 2].map((k) => (bounds.min[k]! + bounds.max[k]!) / 2); // three each, as below
  const radius = Math.hypot(...[0, 1, 2].map((k) => (bounds.max[k]! - bounds.min[k]!) / 2));
  return { middle, scale: 0.94 / Math.max(1e-6, radius) };
}
