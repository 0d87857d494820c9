import { type CompiledGraph, PREVIEW_LIGHT, type PreviewedGraph } from '@umber-lens/core/graphs';
import type { Shaded } from '../logic/graph/shaded.js';
import {
  CAMERA_DISTANCE,
  numbersOf,
  pixelOf,
  type Probe,
  type SceneHit,
} from '../logic/graph/graph-probe.js';
import type { ProbedHit } from './probe-scene.js';
import { pictured } from '../logic/graph/pictured.js';
import {
  castRay,
  createMaterial,
  type Geometry,
  type Lens,
  type Material,
  type RayHit,
  type RenderTarget,
  Scene,
  type SceneNode,
} from 'umber-lens';
import { type PictureShape, shapeCalled, shapeOf, type ShapeParts } from './picture-shapes.js';
import { previewShader, settingsFor } from './preview-shader.js';

/** Pixels of a picture's side. */
export const PICTURE = 56;
/** Most pictures beside each other in the atlas. */
const MOST_ACROSS = 12;
/** Most pictures: with more nodes those that are seen have them. */
const MOST = MOST_ACROSS ** 2;
/** Pictures of all nodes of a graph on a shape: one draw into one target, read back. */
export class GraphPictures {
  shape: PictureShape = 'ball';
  /** Of what is chosen in the scene: what pictures are on where the shape is `chosen`. */
  chosen: Geometry | undefined;
  /** The same of `model`. */
  model: ShapeParts | undefined;
  /** From where light comes, in the world. */
  light: readonly [number, number, number] = PREVIEW_LIGHT;
  /** Nodes that are in sight. */
  seen: ReadonlySet<string> = new Set();
  /** By node: pixels, RGBA, a picture each. */
  pictures: ReadonlyMap<string, ImageData> = new Map();
  private readonly scene = new Scene();
  private readonly camera: SceneNode;
  /** Over the first picture, as if there were no others. */
  private readonly over: SceneNode;
  private readonly shown: SceneNode[] = [];
  /** Of the nodes those that have pictures, by their numbers. */
  private numbers: readonly number[] = [];
  private material: Material | undefined;
  private target: RenderTarget | undefined;
  /** What the pictures are of. */
  private drawnOf = '';
  /** What the pictures are on now. */
  private placed: ShapeParts | undefined;
  /** The shape that was asked for last, and what of: made once. */
  private known: { of: PictureShape | Geometry; shape: ShapeParts } | undefined;
  /** Pictures beside each other. */
  private across = 8;
  private isBusy = false;
  private isOver = false;
  /** Counts how often shapes were put there: those of before are gone. */
  placings = 0;

  constructor(private readonly lens: Lens) {
    this.camera = this.scene.createNode({ translation: [0, 0, CAMERA_DISTANCE] });
    this.over = this.scene.createNode({
      camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0.1, zfar: 10 },
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
    settings: Shaded['settings'],
  ): Promise<boolean> {
    if (this.isBusy || this.isOver || nodes.length === 0) return false;
    const isTimed = compiled.wgsl.includes('frame.');
    const numbers = pictured(nodes, this.seen, MOST);
    const key = JSON.stringify([compiled.wgsl, this.shape, this.light, numbersOf(settings), numbers]);
    if (key === this.drawnOf && !isTimed && this.placed === this.wanted) return false;
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
      this.placed = undefined;
    }
    const { wanted } = this;
    const isOther =
      numbers.length !== this.numbers.length || numbers.some((one, i) => one !== this.numbers[i]);
    if (this.placed !== wanted || isOther) this.place(wanted, numbers);
    this.placed = wanted;
    this.numbers = numbers;
    return this.material;
  }

  /** What pictures are to be on; a ball where there is nothing else. */
  private get wanted(): ShapeParts {
    const { chosen, model, shape } = this;
    if (shape === 'model' && model) return model;
    const of = shape === 'chosen' ? (chosen ?? 'ball') : shape === 'model' ? 'ball' : shape;
    if (this.known?.of !== of)
      this.known = { of, shape: typeof of === 'string' ? shapeCalled(of) : shapeOf(of) };
    return this.known.shape;
  }

  /** A shape to each node, side by side. */
  private place({ middle, parts, rotation, scale }: ShapeParts, numbers: readonly number[]): void {
    const across = Math.max(8, Math.ceil(Math.sqrt(numbers.length)));
    this.camera.setCamera({ type: 'orthographic', xmag: across, ymag: across, znear: 0.1, zfar: 10 });
    if (across !== this.across) {
      this.target?.dispose();
      this.target = undefined;
    }
    this.across = across;
    for (const node of this.shown.splice(0)) node.remove();
    this.placings++;
    for (const [i, number] of numbers.entries()) {
      const place = [(i % across) * 2 + 1 - across, across - 1 - Math.floor(i / across) * 2, 0] as const;
      const holder = this.scene.createNode({
        translation: place,
        rotation,
        scale: [scale, scale, scale],
      });
      const whole = this.scene.createNode({
        parent: holder,
        translation: [-middle[0], -middle[1], -middle[2]],
      });
      for (const { geometry, matrix } of parts) {
        const part = this.scene.createNode({
          parent: whole,
          settings: { shownNode: number + 1, previewMiddle: place },
          mesh: { geometry, material: this.material! }, // it was made
        });
        if (matrix) part.setMatrix(matrix);
      }
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

  /** What the first of the pictures shows at a place of it; undefined beside the shape. */
  probe({ x, y }: Probe): ProbedHit | undefined {
    const [first] = this.shown;
    if (!first) return undefined;
    const middle = first.readWorldPosition([0, 0, 0]) as [number, number, number];
    const cast = (across: number, down: number): RayHit | undefined => {
      const origin: [number, number, number] = [middle[0] + across, middle[1] - down, CAMERA_DISTANCE];
      return castRay(this.scene, { origin, direction: [0, 0, -1] });
    };
    const hit = cast(x, y);
    if (!hit) return undefined;
    const { node, normal, point, primitive, texcoord } = hit;
    const at = { x: ((x + 1) / 2) * PICTURE, y: ((y + 1) / 2) * PICTURE, width: PICTURE, height: PICTURE };
    const hitAt = (across: number, down: number): SceneHit | undefined => {
      const other = cast((across / PICTURE) * 2 - 1, (down / PICTURE) * 2 - 1);
      return other?.node === node && other.primitive === primitive ? { ...other, middle } : undefined;
    };
    const pixel = pixelOf({ x, y }, PICTURE);
    const camera = this.over.setTranslation(middle[0], middle[1], CAMERA_DISTANCE);
    return { node, normal, point, primitive, texcoord, middle, camera, at, pixel, hitAt };
  }

  dispose(): void {
    this.isOver = true;
    this.target?.dispose();
    this.lens.release(this.scene);
  }
}
