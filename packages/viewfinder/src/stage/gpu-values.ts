import { affineToMatrix } from '@umber-lens/core/engine';
import type { PreviewedGraph } from '@umber-lens/core/graphs';
import { createMaterial, facing, type Geometry, type Lens, type Material, Scene, sphere } from 'umber-lens';
import type { Shaded } from '../logic/graph/shaded.js';
import { cameraOverBall, type Probe, type ProbeConditions } from '../logic/graph/graph-probe.js';
import { previewShader, settingsFor } from './preview-shader.js';
import type { ProbedHit } from './probe-scene.js';

/** An angle so narrow that a pixel sees one place, radians; and half a width, metres. */
const NARROW = 2e-4;
const NO_PLACE = [0, 0, 0];
/** Nodes that are asked for at most. */
const MOST = 256;

/** What the GPU computes for the nodes of a graph at one place: each is drawn into a pixel of its own, as numbers. */
export class GpuValues {
  private isOver = false;

  constructor(private readonly lens: Lens) {}

  /**
   * @param place on pictures of nodes, or on a thing of the scene
   * @param settings as the graph's material has them
   * @returns by node: three numbers, those that its type has first
   */
  async at(
    { compiled, nodes }: PreviewedGraph,
    of: { file: string; sources: Readonly<Record<string, string>> },
    place: Probe | ProbedHit,
    settings: Shaded['settings'],
    { light, time }: ProbeConditions,
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
    const target = lens.createTarget({
      width: asked.length,
      height: 1,
      format: lens.device.features.has('float32-renderable') ? 'rgba32float' : 'rgba16float',
    });
    try {
      const camera = scene.createNode({});
      const thing = aim(scene, camera, place, material);
      await lens.load(scene);
      // A page that runs tells its own with its next frame.
      lens.setTime(time);
      for (let i = 0; i < asked.length; i++) {
        if (this.isOver) return new Map();
        thing.settings = {
          shownNode: i + 1,
          previewMiddle: 'point' in place ? (place.middle ?? NO_PLACE) : NO_PLACE,
        };
        const viewport = { x: i, y: 0, width: 1, height: 1 };
        lens.draw(scene, camera, {
          target,
          viewport,
          finish: [],
          look: { toneMapping: 'none', exposure: 0 },
        });
      }
      const numbers = await target.read<Float32Array>();
      return new Map(asked.map((name, i) => [name, Array.from(numbers.subarray(i * 4, i * 4 + 3))]));
    } finally {
      target.dispose();
      lens.release(scene);
    }
  }

  dispose(): void {
    this.isOver = true;
  }
}

/** Puts a thing, and a camera that sees one place of it, into a scene. */
function aim(
  scene: Scene,
  camera: ReturnType<Scene['createNode']>,
  place: Probe | ProbedHit,
  material: Material,
): ReturnType<Scene['createNode']> {
  if (!('point' in place)) {
    camera.setCamera({ type: 'orthographic', xmag: NARROW, ymag: NARROW, znear: 0.1, zfar: 10 });
    camera.setTranslation(...cameraOverBall(place));
    return scene.createNode({ mesh: { geometry: sphere({ radius: 1, slices: 128, stacks: 64 }), material } });
  }
  const { camera: seen, node, point, primitive } = place;
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
  const { placement: _placement, targets: _targets, ...plain } = node.mesh!.primitives[primitive]!.geometry; // it was hit
  const thing = scene.createNode({
    mesh: { geometry: plain as Geometry, material: { ...material, doubleSided: true } },
  });
  thing.setMatrix(affineToMatrix(new Float64Array(16), node.readWorld(new Float64Array(12))));
  return thing;
}
