import { PREVIEW_LIGHT, type PreviewedGraph } from '@umber-lens/core/graphs';
import { createMaterial, facing, type Geometry, type Lens, type Material, Scene, sphere } from 'umber-lens';
import type { Shaded } from '../logic/graph/shaded.js';
import type { Probe } from '../logic/graph/graph-probe.js';
import type { ProbedHit } from './probe-scene.js';

/** An angle so narrow that a pixel sees one place, radians; and half a width, metres. */
const NARROW = 2e-4;
/** Nodes that are asked for at most. */
const MOST = 256;

/** What the GPU computes for the nodes of a graph at one place: each is drawn into a pixel of its own, as numbers. */
export class GpuValues {
  private isOver = false;

  constructor(private readonly lens: Lens) {}

  /**
   * @param place on pictures of nodes, or on a thing of the scene
   * @param settings as the graph's material has them
   * @param time seconds
   * @returns by node: three numbers, those that its type has first
   */
  async at(
    { compiled, nodes }: PreviewedGraph,
    { file, sources }: { file: string; sources: Readonly<Record<string, string>> },
    place: Probe | ProbedHit,
    settings: Shaded['settings'],
    time: number,
  ): Promise<ReadonlyMap<string, readonly number[]>> {
    if (nodes.length === 0) return new Map();
    const { lens } = this;
    const { compileMaterialShader } = await import('umber-lens/shaders');
    const shader = compileMaterialShader(compiled.wgsl, { file, sources: { ...sources } });
    const material = createMaterial(shader, { name: 'values of nodes' }) as Material;
    const names = new Set([...shader.settings, ...shader.textures].map(({ name }) => name));
    material.settings = {
      ...material.settings,
      ...Object.fromEntries(Object.entries(settings ?? {}).filter(([name]) => names.has(name))),
      previewLight: Float32Array.from(PREVIEW_LIGHT),
      previewPlain: 1,
    } as NonNullable<Material['settings']>;
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
        thing.settings = { shownNode: i + 1 };
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
    camera.setTranslation(place.x, -place.y, 5);
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
    camera.setMatrix(byColumns(eye.map((part, i) => (i % 4 === 3 ? part + side[i >> 2]! : part))));
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
  thing.setMatrix(byColumns(node.readWorld(new Float64Array(12))));
  return thing;
}

/** An affine transform by rows as a matrix of sixteen numbers by columns. */
const byColumns = (m: ArrayLike<number>): number[] => [
  ...[0, 1, 2].flatMap((k) => [m[k]!, m[4 + k]!, m[8 + k]!, 0]), // twelve numbers, here and below
  ...[m[3]!, m[7]!, m[11]!, 1],
];
