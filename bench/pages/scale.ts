/** Swarms by their number of copies, merging, ways of drawing by their number of lights, and what verdicts are worth. */
import {
  box,
  cylinder,
  facing,
  geometryFrom,
  hashFloat,
  icosphere,
  type Lens,
  openLens,
  plane,
  Scene,
  type SceneNode,
  scatterOnGrid,
  sphere,
  Swarm,
} from 'umber-lens';
import { median } from '../measure.js';

/** Metres across, whatever their number. */
const BED = 120;

function bladeOf(cells: number): ReturnType<typeof geometryFrom> {
  const [position, normal, indices]: number[][] = [[], [], []];
  for (let row = 0; row <= cells; row++) {
    position!.push(-0.03, row / cells, 0, 0.03, row / cells, 0);
    normal!.push(0, 0, 1, 0, 0, 1);
    if (row < cells) indices!.push(...[0, 1, 3, 0, 3, 2].map((k) => row * 2 + k));
  }
  return geometryFrom({ position: position!, normal: normal! }, indices!);
}

interface SwarmFigures {
  script: number;
  draws: number;
  /** Of those that all copies have in their nearest level. */
  triangles: number;
  uploaded: number;
}

/** Script of a frame of so many blades, seen by an eye that moves all the time. */
async function blades(count: number, frames: number): Promise<SwarmFigures> {
  const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
  const target = lens.createTarget({ width: 160, height: 100 });
  const scene = new Scene();
  scene.createNode({ rotation: facing([0.3, -1, -0.2]), light: { type: 'directional', intensity: 3 } });
  const { translations, count: made } = scatterOnGrid({
    width: BED,
    depth: BED,
    spacing: BED / Math.sqrt(count),
  });
  const swarm = new Swarm({
    levels: [
      { geometry: bladeOf(6), pixels: 60 },
      { geometry: bladeOf(3), pixels: 18 },
      { geometry: bladeOf(1) },
    ],
    material: { metallicFactor: 0, doubleSided: true },
    placings: { translations },
    thin: { pixels: 40, least: 0.02 },
  });
  scene.createNode({ mesh: swarm });
  const eye = scene.createNode({ camera: { type: 'perspective', yfov: 0.85, znear: 0.1 } });
  const look = (i: number): void => {
    eye.setTranslation(Math.sin(i * 0.01) * 20, 2, 30);
    eye.setRotation(...facing([Math.sin(i * 0.02) * 0.5, -0.08, -1]));
  };
  look(0);
  await lens.load(scene);
  const times: number[] = [];
  let [draws, triangles, uploaded] = [0, 0, 0];
  for (let i = 0; i < frames; i++) {
    look(i);
    lens.draw(scene, eye, target);
    // The rasteriser is done before the next frame, so that it does not take the script's core.
    await new Promise((resolve) => setTimeout(resolve, 25));
    if (i < frames / 2) continue;
    times.push(lens.ledger.milliseconds);
    draws = Math.max(draws, lens.ledger.draws);
    triangles = Math.max(triangles, lens.ledger.triangles);
    uploaded = Math.max(uploaded, lens.ledger.bytesUploaded);
  }
  lens.dispose();
  return { script: median(times), draws, triangles: triangles / (made * 12), uploaded };
}

/** Draws of 10,000 nodes over 20 materials and 5 geometries. */
async function merged(textured: boolean): Promise<number> {
  const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
  const target = lens.createTarget({ width: 64, height: 40 });
  const scene = new Scene();
  scene.createNode({ light: { type: 'directional' } });
  const shapes = [
    box(),
    cylinder(),
    icosphere({ subdivisions: 1 }),
    sphere({ widthSegments: 8, heightSegments: 6 }),
    plane(),
  ];
  const materials = Array.from({ length: 20 }, (_, i) => ({
    roughnessFactor: i / 20,
    ...(textured
      ? {
          baseColorTexture: {
            texture: {
              image: {
                content: {
                  kind: 'pixels' as const,
                  width: 1,
                  height: 1,
                  data: Uint8Array.of(i * 12, 90, 40, 255),
                },
              },
            },
          },
        }
      : {}),
  }));
  for (let i = 0; i < 10_000; i++)
    scene.createNode({
      translation: [(i % 100) - 50, Math.floor(i / 100) - 50, -90],
      mesh: { geometry: shapes[(i * 7) % 5]!, material: materials[(i * 13) % 20]! },
    });
  const eye = scene.createNode({ camera: { type: 'perspective', yfov: 1.2, znear: 0.1 } });
  await lens.load(scene);
  lens.draw(scene, eye, target);
  const { draws } = lens.ledger;
  lens.dispose();
  return draws;
}

/** Sheets behind one another, so many lights without a range: each pixel of each sheet asks all of them. */
function sheets(count: number, lights: number): { scene: Scene; eye: SceneNode } {
  const scene = new Scene();
  const geometry = plane({ width: 30, depth: 30 });
  // Farthest first in the list is drawn nearest first: order by depth is coarse, so they are put by chance.
  for (let i = 0; i < count; i++)
    scene.createNode({
      translation: [0, hashFloat(i, 1) * 2, 0],
      mesh: {
        geometry: { ...geometry },
        material: { metallicFactor: 0, roughnessFactor: 0.5, baseColorFactor: [hashFloat(i), 0.5, 0.4, 1] },
      },
    });
  for (let i = 0; i < lights; i++)
    scene.createNode({
      translation: [(i % 8) - 4, 4, Math.floor(i / 8) - 4],
      light: { type: 'point', intensity: 20 / lights },
    });
  const eye = scene.createNode({
    translation: [0, 9, 0],
    rotation: facing([0, -1, 0.001]),
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { scene, eye };
}

/** Milliseconds of whole frames by the way of drawing. */
async function paths(
  overdraw: number,
  lights: number,
): Promise<Record<'forward' | 'prepass' | 'deferred', number>> {
  const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
  const target = lens.createTarget({ width: 320, height: 200 });
  const { scene, eye } = sheets(overdraw, lights);
  const out = { forward: 0, prepass: 0, deferred: 0 };
  for (const path of ['prepass', 'deferred'] as const) {
    lens.path = path;
    await lens.load(scene);
    const way = (of: Lens['path']) => () => {
      lens.path = of;
      lens.draw(scene, eye, target);
    };
    const { a, b } = await lens.compare({ a: way('forward'), b: way(path) }, { turns: 7, frames: 1 });
    out.forward = a.frame.median;
    out[path] = b.frame.median;
  }
  lens.dispose();
  return out;
}

/** How often verdicts are what they should be, on equal ways and on one that is so much slower. */
async function verdicts(times: number): Promise<Record<'equal' | 'slower', Record<string, number>>> {
  const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
  const target = lens.createTarget({ width: 128, height: 84 });
  const { scene, eye } = sheets(11, 1);
  const all = [...scene.meshes.keys()];
  const way = (count: number) => (): void => {
    all.forEach((node, i) => node.setVisible(i < count));
    lens.draw(scene, eye, target);
  };
  // Nothing hides anything: each sheet costs the same.
  all.forEach((node) => Object.assign(node.mesh!.primitives[0]!.material!, { alphaMode: 'blend' }));
  await lens.load(scene);
  const out = { equal: {} as Record<string, number>, slower: {} as Record<string, number> };
  const take = async (into: Record<string, number>, count: number): Promise<void> => {
    const { verdict } = await compareOf(lens, way(10), way(count));
    into[verdict.kind] = (into[verdict.kind] ?? 0) + 1;
  };
  for (let i = 0; i < times; i++) {
    await take(out.equal, 10);
    await take(out.slower, 11);
  }
  lens.dispose();
  return out;
}

const compareOf = (lens: Lens, a: () => void, b: () => void): ReturnType<Lens['compare']> =>
  lens.compare({ a, b }, { turns: 40, frames: 3 });

Object.assign(window, { scale: { blades, merged, paths, verdicts } });
