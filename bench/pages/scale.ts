/** Swarms by their number of copies, merging, ways of drawing by their number of lights, and what verdicts are worth. */
import {
  box,
  cylinder,
  facing,
  geometryFrom,
  hashFloat,
  icosphere,
  interleave,
  type Lens,
  openLens,
  plane,
  Scene,
  type SceneNode,
  scatterOnGrid,
  sphere,
  Swarm,
} from 'umber-lens';
import { createCameraView, updateCameraView } from '@umber-lens/core/engine';
import { compileMaterialShader } from 'umber-lens/shaders';
import { median } from '../measure.js';
import { type Bed, bladesOnWebgl2, bladesOnWebgpu } from './blades-by-hand.js';

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
  /** Milliseconds until the GPU is done; and both of the same bed written by hand. */
  whole: number;
  byHand: { script: number; whole: number };
}

const [WIDTH, HEIGHT] = [160, 100];

/** A bed of so many blades, and what a hand needs to draw the same. */
function bedOf(count: number): { swarm: Swarm; made: number; bed: Bed } {
  const { translations, count: made } = scatterOnGrid({
    width: BED,
    depth: BED,
    spacing: BED / Math.sqrt(count),
  });
  const levels = [
    { geometry: bladeOf(6), minPixels: 60 },
    { geometry: bladeOf(3), minPixels: 18 },
    { geometry: bladeOf(1), minPixels: 0 },
  ];
  const swarm = new Swarm({
    levels,
    // Light that costs both the same.
    material: {
      doubleSided: true,
      shader: compileMaterialShader(`fn outputColor(p: Fragment) -> vec4f {
        let c = vec3f(0.8) * abs(dot(p.normal, normalize(vec3f(-0.3, 1, 0.2)))) * 3 / 3.14159;
        return vec4f(sqrt(c / (1 + c)), 1);
      }`),
    },
    transforms: { translations },
    density: { minPixels: 40, minShare: 0.02 },
  });
  const bed: Bed = {
    translations: Float32Array.from(translations),
    levels: levels.map(({ geometry, minPixels: pixels }) => ({
      vertices: interleave(geometry, ['position', 'normal']),
      indices: Uint16Array.from(geometry.indices!),
      pixels,
    })),
    radius: swarm.shapes[0]!.radius,
    thin: 40,
    least: 0.02,
    width: WIDTH,
    height: HEIGHT,
  };
  return { swarm, made, bed };
}

/**
 * A frame of so many blades, seen by an camera that moves all the time: ours, and by hand, in turn. On WebGPU the GPU chooses
 * in both.
 */
async function blades(count: number, frames: number, backend: 'webgl2' | 'webgpu'): Promise<SwarmFigures> {
  const isOnGpu = backend === 'webgpu';
  const lens = await openLens(undefined, { backend, antialias: false, view: { culling: { gpu: isOnGpu } } });
  const target = lens.createTarget({ width: WIDTH, height: HEIGHT });
  const scene = new Scene();
  const { swarm, made, bed } = bedOf(count);
  const hand = isOnGpu ? await bladesOnWebgpu(bed) : bladesOnWebgl2(bed);
  scene.createNode({ mesh: swarm });
  const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.85, znear: 0.1 } });
  const view = createCameraView();
  const look = (i: number): void => {
    camera.setTranslation(Math.sin(i * 0.01) * 20, 2, 30);
    camera.setRotation(...facing([Math.sin(i * 0.02) * 0.5, -0.08, -1]));
  };
  look(0);
  await lens.load(scene);
  const times = { script: [] as number[], whole: [] as number[] };
  const byHand = { script: [] as number[], whole: [] as number[] };
  let [draws, triangles, uploaded] = [0, 0, 0];
  for (let i = 0; i < frames; i++) {
    look(i);
    updateCameraView(view, camera, WIDTH / HEIGHT);
    const { viewProjection, planes, position, projection } = view;
    let start = performance.now();
    lens.draw(scene, camera, { target });
    await finished(lens);
    const whole = performance.now() - start;
    // The rasteriser is done before the next frame, so that it does not take the script's core.
    await new Promise((resolve) => setTimeout(resolve, 8));
    start = performance.now();
    const script = hand.frame({
      viewProjection,
      planes,
      position,
      pixelsAtOne: (HEIGHT * projection[5]!) / 2,
    });
    await hand.done();
    const wholeByHand = performance.now() - start;
    await new Promise((resolve) => setTimeout(resolve, 8));
    if (i < frames / 2) continue;
    times.script.push(lens.ledger.milliseconds);
    times.whole.push(whole);
    byHand.script.push(script);
    byHand.whole.push(wholeByHand);
    draws = Math.max(draws, lens.ledger.draws);
    triangles = Math.max(triangles, (await lens.cullingStats())?.triangles ?? lens.ledger.triangles);
    uploaded = Math.max(uploaded, lens.ledger.bytesUploaded);
  }
  hand.dispose();
  lens.dispose();
  return {
    script: median(times.script),
    whole: median(times.whole),
    draws,
    triangles: triangles / (made * 12),
    uploaded,
    byHand: { script: median(byHand.script), whole: median(byHand.whole) },
  };
}

/** Waits for the GPU by reading a pixel back, which stands in line behind the frame. */
async function finished({ device }: Lens): Promise<void> {
  const pixel = device.createTexture({ width: 1, height: 1, format: 'rgba8unorm', renderable: true });
  await device.readTexture(pixel, { blocks: true });
  pixel.dispose();
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
    sphere({ slices: 8, stacks: 6 }),
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
  const camera = scene.createNode({ camera: { type: 'perspective', yfov: 1.2, znear: 0.1 } });
  await lens.load(scene);
  lens.draw(scene, camera, { target });
  const { draws } = lens.ledger;
  lens.dispose();
  return draws;
}

/** Sheets behind one another, so many lights without a range: each pixel of each sheet asks all of them. */
function sheets(count: number, lights: number): { scene: Scene; camera: SceneNode } {
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
  const camera = scene.createNode({
    translation: [0, 9, 0],
    rotation: facing([0, -1, 0.001]),
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { scene, camera };
}

/** Milliseconds of whole frames by the way of drawing. */
async function paths(
  overdraw: number,
  lights: number,
): Promise<Record<'forward' | 'prepass' | 'deferred', number>> {
  const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
  const target = lens.createTarget({ width: 320, height: 200 });
  const { scene, camera } = sheets(overdraw, lights);
  const out = { forward: 0, prepass: 0, deferred: 0 };
  for (const path of ['prepass', 'deferred'] as const) {
    lens.view.renderPath = path;
    await lens.load(scene);
    const way = (of: Lens['view']['renderPath']) => () => {
      lens.view.renderPath = of;
      lens.draw(scene, camera, { target });
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
  const { scene, camera } = sheets(11, 1);
  const all = [...scene.meshes.keys()];
  const way = (count: number) => (): void => {
    all.forEach((node, i) => node.setVisible(i < count));
    lens.draw(scene, camera, { target });
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
