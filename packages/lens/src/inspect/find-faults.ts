import {
  affineInvert,
  affinePoint,
  LensError,
  type Material,
  type Scene,
  type SceneNode,
} from '@umber-lens/core/engine';
import type { Lens } from '../lens.js';
import type { PictureSize } from './pick.js';

/** Something in a picture that only the GPU knows of. */
export interface PictureFault {
  /**
   * `not-finite`: a shader gives a color that is infinite or no number. `cut-shape`: a marched shape reaches out of the
   * geometry that says which pixels are asked.
   */
  kind: 'not-finite' | 'cut-shape';
  node: SceneNode;
  /** Of the primitive that is seen there. */
  material: Material | undefined;
  /** World space. */
  point: readonly [number, number, number];
  /** How many pixels show it, of how many that were looked at. */
  pixels: number;
  of: number;
  /** The same in words, with what to do. */
  text: string;
}

/** Pixels that the picture is wide which is looked at. */
const WIDTH = 320;
/** Pixels that are asked what is seen there. */
const MOST_ASKED = 8;
/** Share of a geometry's size by which a shape may reach out of it: rounding. */
const SLACK = 0.01;

/** See `Lens.findFaults`. */
export async function findFaults(lens: Lens, scene: Scene, camera: SceneNode): Promise<PictureFault[]> {
  const given = camera.camera;
  const own = given?.type === 'perspective' ? given.aspectRatio : undefined;
  const aspect = (own ?? (lens.canvas ? lens.canvas.width / lens.canvas.height : 1.6)) || 1.6;
  const size = { width: WIDTH, height: Math.max(1, Math.round(WIDTH / aspect)) };
  return [...(await notFinite(lens, scene, camera, size)), ...(await cutShapes(lens, scene, camera, size))];
}

async function notFinite(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  size: PictureSize,
): Promise<PictureFault[]> {
  const target = lens.createTarget(size);
  const found = new Map<SceneNode, PictureFault>();
  try {
    // What this way of looking needs is loaded by the first picture, and its pipelines by the second.
    for (let i = 0; i < 3; i++) {
      lens.draw(scene, camera, { target, show: 'not-finite' });
      await lens.whenReady();
    }
    lens.draw(scene, camera, { target, show: 'not-finite' });
    const marked = markedIn(await target.read());
    const step = Math.max(1, Math.floor(marked.length / MOST_ASKED));
    for (let i = 0; i < marked.length; i += step) {
      const hit = await seenAt(lens, scene, camera, marked[i]!, size); // i < length
      if (!hit || found.has(hit.node)) continue;
      const { node } = hit;
      const material = node.mesh?.primitives[hit.primitive]?.material;
      const point = [...hit.point] as [number, number, number];
      const of = size.width * size.height;
      const text = `${named(material)} of ${nodeNamed(node)} gives a color that is not finite at ${placed(point)}, and there are ${marked.length} such pixels of ${of}: look for a division by 0, pow, sqrt or log of what is negative, and normalize of a vector of length 0`;
      found.set(node, { kind: 'not-finite', node, material, point, pixels: marked.length, of, text });
    }
  } finally {
    target.dispose();
  }
  return [...found.values()];
}

/** Numbers of the pixels that are amber. */
function markedIn(pixels: Uint8Array): number[] {
  const found: number[] = [];
  for (let i = 0; i < pixels.length; i += 4)
    if (pixels[i]! > 245 && Math.abs(pixels[i + 1]! - 153) < 6 && pixels[i + 2]! < 8) found.push(i / 4); // four a pixel
  return found;
}

async function seenAt(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  pixel: number,
  size: PictureSize,
): ReturnType<Lens['pick']> {
  const x = (pixel % size.width) + 0.5;
  const y = Math.floor(pixel / size.width) + 0.5;
  try {
    return await lens.pick(scene, camera, x, y, { size, gpu: true });
  } catch (error) {
    // A GPU that cannot draw floats is not asked.
    if (!(error instanceof LensError) || error.code !== 'pick/no-float') throw error;
    return lens.pick(scene, camera, x, y, { size });
  }
}

/** Marched shapes that are met outside the box of their geometry. */
async function cutShapes(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  size: PictureSize,
): Promise<PictureFault[]> {
  const isMarched = ({ mesh }: SceneNode): boolean =>
    mesh?.primitives.some(({ material }) => material?.shader?.isMarched) ?? false;
  if (![...scene.meshes.keys()].some(isMarched) || !lens.device.features.has('float32-renderable')) return [];
  const { pointEach } = await import('./pointing.js');
  const found = new Map<SceneNode, PictureFault>();
  for (const { node, primitive, point } of await pointEach(lens, scene, camera, size, isMarched)) {
    const { geometry, material } = node.mesh!.primitives[primitive]!; // it was drawn
    if (!material?.shader?.isMarched || !isOutside(node, point, geometry.bounds)) continue;
    const known = found.get(node);
    if (known) known.pixels++;
    else
      found.set(node, {
        kind: 'cut-shape',
        node,
        material,
        point,
        pixels: 1,
        of: size.width * size.height,
        text: `the shape of ${named(material)} on ${nodeNamed(node)} reaches out of its geometry at ${placed(point)}: it is cut off where the geometry ends in the picture. Give it a larger box, or scale the shape down`,
      });
  }
  return [...found.values()];
}

function isOutside(
  node: SceneNode,
  point: readonly number[],
  { min, max }: { min: readonly number[]; max: readonly number[] },
): boolean {
  const inverse = new Float32Array(12);
  // A node that is flattened shows nothing of a shape.
  if (!affineInvert(inverse, 0, node.readWorld(new Float32Array(12)), 0)) return false;
  const local = [0, 0, 0];
  affinePoint(local, inverse, 0, point[0]!, point[1]!, point[2]!); // three numbers
  return [0, 1, 2].some((k) => {
    const slack = (max[k]! - min[k]!) * SLACK; // three numbers, here and below
    return local[k]! < min[k]! - slack || local[k]! > max[k]! + slack;
  });
}

const named = (material: Material | undefined): string =>
  material?.name ? `the material "${material.name}"` : 'the material';
const nodeNamed = (node: SceneNode): string => (node.name ? `node "${node.path}"` : 'a node without a name');
const placed = (point: readonly number[]): string =>
  `[${point.map((c) => Number(c.toPrecision(3))).join(', ')}]`;
