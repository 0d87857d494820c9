import { affineToMatrix } from '@umber-lens/core/engine';
import type { PreviewedGraph } from '@umber-lens/core/graphs';
import {
  createMaterial,
  facing,
  type Geometry,
  type Lens,
  type Material,
  Scene,
  type SceneNode,
  sphere,
} from 'umber-lens';
import type { Shaded } from '../logic/graph/shaded.js';
import {
  CAMERA_DISTANCE,
  cameraOverBall,
  type PixelAt,
  pixelOf,
  type Probe,
  type ProbeConditions,
} from '../logic/graph/graph-probe.js';
import { PICTURE } from './graph-pictures.js';
import { previewShader, settingsFor } from './preview-shader.js';
import type { ProbedHit } from './probe-scene.js';

/** An angle so narrow that a pixel sees one place, radians; and half a width, metres. */
const NARROW = 2e-4;
const NO_PLACE = [0, 0, 0] as const;
/** Nodes that are asked for at most. */
const MOST = 256;

/** What the GPU computes for the nodes of a graph at one place: each is drawn into a pixel of its own, as numbers. */
export class GpuValues {
  private isOver = false;

  constructor(private readonly lens: Lens) {}

  /**
   * @param place on pictures of nodes, or on a thing of the scene
   * @param settings as the graph's material has them
   * @param isWhole whether it asks for what is around a pixel, or how the camera looks: it is drawn as it is in the picture then, two by
   *   two pixels of that
   * @returns by node: three numbers, those that its type has first
   */
  async at(
    { compiled, nodes }: PreviewedGraph,
    of: { file: string; sources: Readonly<Record<string, string>> },
    place: Probe | ProbedHit,
    settings: Shaded['settings'],
    { light, time }: ProbeConditions,
    isWhole = false,
  ): Promise<ReadonlyMap<string, readonly number[]>> {
    if (nodes.length === 0) return new Map();
    const { lens } = this;
    const shader = await previewShader(compiled, of);
    const material = createMaterial(shader, { name: 'values of nodes' }) as Material;
    material.settings = {
      ...material.settings,
      ...settingsFor(shader, settings),
      previewLight: Float32Array.from(light),
      previewPlain: 1,
    };
    const scene = new Scene();
    const asked = nodes.slice(0, MOST);
    const pixel = isWhole ? pixelAt(place) : undefined;
    // GPUs compare pixels two by two.
    const side = pixel ? 2 : 1;
    const target = lens.createTarget({
      width: asked.length * side,
      height: side,
      format: lens.device.features.has('float32-renderable') ? 'rgba32float' : 'rgba16float',
    });
    try {
      const camera = scene.createNode({});
      const thing = pixel ? inPicture(scene, camera, place, material) : aim(scene, camera, place, material);
      await lens.load(scene);
      // A page that runs tells its own with its next frame.
      lens.setTime(time);
      for (let i = 0; i < asked.length; i++) {
        if (this.isOver) return new Map();
        thing.settings = {
          shownNode: i + 1,
          previewMiddle: 'point' in place ? (place.middle ?? NO_PLACE) : NO_PLACE,
        };
        const viewport = { x: i * side, y: 0, width: side, height: side };
        const options = { target, viewport, finish: [], look: { toneMapping: 'none', exposure: 0 } } as const;
        if (pixel) drawQuad(lens, pixel, () => lens.draw(scene, camera, options));
        else lens.draw(scene, camera, options);
      }
      const numbers = await target.read<Float32Array>();
      const { x = 0, y = 0 } = pixel ?? {};
      const row = (y % side) * asked.length * side;
      const at = (i: number): number => (row + i * side + (x % side)) * 4;
      // Beside the thing there is nothing.
      const drawn = asked.flatMap((name, i) => (numbers[at(i) + 3]! > 0 ? [[name, i] as const] : []));
      return new Map(drawn.map(([name, i]) => [name, Array.from(numbers.subarray(at(i), at(i) + 3))]));
    } finally {
      target.dispose();
      lens.release(scene);
    }
  }

  dispose(): void {
    this.isOver = true;
  }
}

/** Draws the two by two pixels of a picture that one of them is compared with. */
function drawQuad({ settings }: Lens, { height, width, x, y }: PixelAt, draw: () => void): void {
  settings.tile = {
    ...{ x: x - (x % 2), y: y - (y % 2), width: 2, height: 2 },
    ...{ wholeWidth: width, wholeHeight: height },
  };
  try {
    draw();
  } finally {
    settings.tile = undefined;
  }
}

const pixelAt = (place: Probe | ProbedHit): PixelAt =>
  'point' in place ? place.pixel : pixelOf(place, PICTURE);

/** Puts a thing into a scene, with the camera that its picture is seen through. */
function inPicture(scene: Scene, camera: SceneNode, place: Probe | ProbedHit, material: Material): SceneNode {
  if ('point' in place) {
    const { camera: through } = place;
    camera.setMatrix(affineToMatrix(new Float64Array(16), through.readWorld(new Float64Array(12))));
    camera.setCamera({ ...through.camera! }); // it sees the picture
    return likeHit(scene, place, material);
  }
  camera.setTranslation(0, 0, CAMERA_DISTANCE);
  camera.setCamera({ type: 'orthographic', xmag: 1, ymag: 1, znear: 0.1, zfar: 10 });
  return ballIn(scene, material);
}

const ballIn = (scene: Scene, material: Material): SceneNode =>
  scene.createNode({ mesh: { geometry: sphere({ radius: 1, slices: 128, stacks: 64 }), material } });

/** The thing that was hit, where it stands. */
function likeHit(scene: Scene, { node, primitive }: ProbedHit, material: Material): SceneNode {
  const { placement: _placement, targets: _targets, ...plain } = node.mesh!.primitives[primitive]!.geometry; // it was hit
  const thing = scene.createNode({
    mesh: { geometry: plain as Geometry, material: { ...material, doubleSided: true } },
  });
  thing.setMatrix(affineToMatrix(new Float64Array(16), node.readWorld(new Float64Array(12))));
  return thing;
}

/** Puts a thing, and a camera that sees one place of it, into a scene. */
function aim(scene: Scene, camera: SceneNode, place: Probe | ProbedHit, material: Material): SceneNode {
  if (!('point' in place)) {
    camera.setCamera({ type: 'orthographic', xmag: NARROW, ymag: NARROW, znear: 0.1, zfar: 10 });
    camera.setTranslation(...cameraOverBall(place));
    return ballIn(scene, material);
  }
  const { camera: seen, point } = place;
  const eye = seen.readWorld(new Float64Array(12));
  const at = [eye[3]!, eye[7]!, eye[11]!]; // twelve numbers
  const way = at.map((part, k) => point[k]! - part); // three
  const distance = Math.hypot(...way);
  const { camera: lensOf } = seen;
  if (lensOf?.type === 'orthographic') {
    // As it looks, moved to the side until it sees the place in its middle.
    const back = [eye[2]!, eye[6]!, eye[10]!]; // as above
    const along = back.reduce((sum, part, k) => sum + part * way[k]!, 0) / (Math.hypot(...back) ** 2 || 1);
    const side = way.map((part, k) => part - back[k]! * along);
    camera.setMatrix(
      affineToMatrix(
        new Float64Array(16),
        eye.map((part, i) => (i % 4 === 3 ? part + side[i >> 2]! : part)),
      ),
    );
    camera.setCamera({ ...lensOf, xmag: NARROW, ymag: NARROW });
  } else {
    camera.setTranslation(at[0]!, at[1]!, at[2]!);
    camera.setRotation(...facing([way[0]!, way[1]!, way[2]!]));
    camera.setCamera({ type: 'perspective', yfov: NARROW, znear: distance * 0.5, zfar: distance * 2 });
  }
  return likeHit(scene, place, material);
}
