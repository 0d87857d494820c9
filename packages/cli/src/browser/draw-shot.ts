import {
  type Bounds,
  type Camera,
  facing,
  frameBounds,
  frameNode,
  applySheet,
  type AppliedSheet,
  type Lens,
  type LoadedSheet,
  LensError,
  type Model,
  type Panorama,
  Scene,
  type SceneNode,
  setVariant,
  skyPanorama,
  sunIrradiance,
  type RenderPath,
  type RenderTarget,
} from 'umber-lens';
import { moveShot } from './move-shot.js';
import type { ShotFacts, ShotRequest } from './shot.js';

/** Towards the sun: of length 1, behind the usual viewer's left shoulder. */
const SUN: [number, number, number] = [-0.72, 0.52, 0.46];

/** Air without a sky to take its colour from. */
const FOG: [number, number, number] = [0.5, 0.55, 0.6];

/** What is seen behind a model without a word on it: a light grey. */
const GREY: [number, number, number, number] = [0.55, 0.6, 0.65, 1];

/** What can be drawn: a model, or a sheet with its files. */
export type Drawable = Model | LoadedSheet;

/** A model that stands ready to be drawn as a request asks. */
export interface StagedShot {
  scene: Scene;
  camera: SceneNode;
  target: RenderTarget;
  addedLight: boolean;
  /** Name of the model's camera; empty where it was framed whole. */
  cameraName: string;
  top: SceneNode;
  /** Sets the lens to what the request asks of it. */
  setLens(): void;
  /** Moves on what moves, by seconds. */
  moveOn(seconds: number): void;
}

/** Puts a model into a scene of its own, with the light, the air and the camera that the request asks for. */
export async function stageShot(
  lens: Lens,
  model: Drawable,
  request: ShotRequest,
  picture?: Panorama,
): Promise<StagedShot> {
  const { width, height, environment, fog, variant } = request;
  const scene = new Scene({ clearColor: request.clearColor ?? GREY });
  let sheet: AppliedSheet | undefined;
  let top = scene.root;
  if ('files' in model) {
    sheet = applySheet(scene, model, { lens });
    // Without a word on what lies behind, it is as of models.
    if (request.clearColor || !model.sheet.clearColor) scene.clearColor = request.clearColor ?? GREY;
    if (request.clearColor) scene.backdrop = undefined;
  } else top = model.placeIn(scene);
  const own = { ...lens.look };
  const ownFinish = lens.view.finish;
  if (variant !== undefined) setVariant(top, variant);
  const moveOn = moveShot(top, request);
  const panorama = environment === 'sky' ? skyPanorama({ sunDirection: SUN }) : picture;
  if (panorama) {
    scene.imageLight = { panorama };
    if (!request.clearColor) scene.backdrop = { panorama };
  }
  if (fog !== undefined) scene.fog = { type: 'exponential', density: fog, color: panorama ? 'sky' : FOG };
  const setLens = (): void => {
    // Daylight is bright: at -0.9 stops a white wall in the sun is white.
    lens.look.exposure = (own.exposure ?? 0) + request.exposure + (environment === 'sky' ? -0.9 : 0);
    lens.look.toneMapping = request.toneMapping ?? own.toneMapping ?? 'soft';
    lens.view.show = request.show;
    lens.view.renderPath =
      request.renderPath ?? (sheet?.sheet.view?.['renderPath'] as RenderPath | undefined) ?? 'forward';
    lens.view.finish = request.finish ?? ownFinish;
  };
  setLens();
  const cameras = [...scene.cameras.keys()];
  const first = request.camera === undefined ? sheet?.camera : undefined;
  const cameraNode = first?.camera ? first : chooseCamera(scene, top, request, width / height);
  const number = cameras.indexOf(cameraNode);
  const cameraName = number < 0 ? '' : cameraNode.name || cameraNode.camera?.name || `camera ${number + 1}`;
  const hasSun = [...scene.lights.values()].some(({ type }) => type === 'directional');
  if (environment === 'sky' && !hasSun) addSun(scene);
  const { lights } = request;
  if (lights === 'neutral' || lights === 'none')
    for (const node of [...scene.lights.keys()]) node.setLight(undefined);
  // What the environment lights needs no other light: the picture is of that light alone.
  const isLit = scene.lights.size > 0 || scene.imageLight !== undefined;
  const addedLight = lights === 'neutral' || (lights === undefined && !isLit);
  if (addedLight) addNeutralLight(scene, cameraNode);
  // A sheet says itself which lights throw shadows.
  if (sheet ? !request.shadows : request.shadows)
    for (const [node, light] of scene.lights) node.setLight({ ...light, shadow: !sheet });
  // A model lit by its own lights still stands in some room, not in the void.
  if (!panorama && !sheet && lights !== 'none')
    scene.createNode({
      light: {
        type: 'hemisphere',
        intensity: Math.PI,
        ...(addedLight
          ? { color: [0.75, 0.78, 0.82], groundColor: [0.42, 0.4, 0.38] }
          : { color: [0.22, 0.24, 0.28], groundColor: [0.1, 0.1, 0.1] }),
      },
    });
  const target = lens.createTarget({ width, height });
  await lens.load(scene);
  return { scene, camera: cameraNode, target, addedLight, top, setLens, moveOn, cameraName };
}

/** Frames that temporal antialiasing puts together: with more of them software takes minutes, and little is seen of it. */
const STILL_FRAMES = 32;

/**
 * Draws a model as the request asks. The pixels are sRGB-encoded RGBA, premultiplied, top row first.
 *
 * @param picture the environment's Radiance picture, where the request names one
 * @param take is given each picture of a film, and waited for
 */
export async function drawShot(
  lens: Lens,
  model: Drawable,
  request: ShotRequest,
  picture?: Panorama,
  take?: (pixels: Uint8Array, number: number) => Promise<void>,
): Promise<ShotFacts & { pixels: Uint8Array }> {
  const {
    scene,
    camera: cameraNode,
    target,
    addedLight,
    top,
    moveOn,
    cameraName,
  } = await stageShot(lens, model, request, picture);
  const { frames, fps, turns } = request.film ?? { frames: 1, fps: 1, turns: 0 };
  const around = turns === 0 ? undefined : goingAround(scene, cameraNode, top);
  const isPutTogether = lens.view.finish.some(({ type }) => type === 'temporal-antialiasing');
  let pixels!: Uint8Array; // there is one picture at least
  for (let i = 0; i < frames; i++) {
    if (i > 0) moveOn(1 / fps);
    around?.turn((i / frames) * turns * 2 * Math.PI);
    lens.setTime(i / fps, i > 0 ? 1 / fps : 0);
    // A still picture that is put together out of frames has many of them.
    const count = isPutTogether && !request.film ? STILL_FRAMES : 1;
    for (let k = 0; k < count; k++) lens.draw(scene, around?.camera ?? cameraNode, { target });
    pixels = await target.read();
    if (request.film) await take?.(pixels, i);
  }
  const { draws, triangles } = lens.ledger;
  return { pixels, camera: cameraName, addedLight, draws, triangles };
}

/** A second camera that begins where the first one is, and goes around the model's middle, about the vertical. */
function goingAround(
  scene: Scene,
  cameraNode: SceneNode,
  top: SceneNode,
): { camera: SceneNode; turn: (angle: number) => void } {
  const { min, max } = top.worldBounds();
  const middle = min.map((least, k) => (least + max[k]!) / 2);
  const m = cameraNode.readWorld(new Float32Array(12));
  const back = [m[2]!, m[6]!, m[10]!] as const;
  const up = [m[1]!, m[5]!, m[9]!] as const;
  const at = [m[3]!, m[7]!, m[11]!] as const;
  const twin = scene.createNode({ camera: cameraNode.camera! }); // it was chosen for its camera
  return {
    camera: twin,
    turn(angle) {
      const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
      const turned = ([x, y, z]: readonly [number, number, number]): [number, number, number] => [
        cos * x + sin * z,
        y,
        cos * z - sin * x,
      ];
      const [x, y, z] = turned([at[0] - middle[0]!, at[1] - middle[1]!, at[2] - middle[2]!]);
      twin.setTranslation(x + middle[0]!, y + middle[1]!, z + middle[2]!);
      const [bx, by, bz] = turned(back);
      twin.setRotation(...facing([-bx, -by, -bz], turned(up)));
    },
  };
}

function chooseCamera(scene: Scene, top: SceneNode, request: ShotRequest, aspect: number): SceneNode {
  const cameras = [...scene.cameras];
  if (request.camera !== undefined) {
    const found = cameras.find(
      ([node, camera], i) =>
        node.name === request.camera ||
        camera.name === request.camera ||
        `camera ${i + 1}` === request.camera,
    );
    if (found) return found[0];
    const names = cameras.map(([node, camera], i) => node.name || camera.name || `camera ${i + 1}`);
    throw new LensError('shoot/no-camera', `the model has no camera "${request.camera}"`, {
      hint:
        names.length > 0
          ? `It has: ${names.join(', ')}.`
          : 'It has none; leave --camera out to frame the whole model.',
    });
  }
  const first = cameras[0];
  if (first) return first[0];
  const framing = { yfov: 0.7, aspect };
  const { translation, rotation, znear } = request.film?.turns
    ? frameBounds(fromAllSides(top.worldBounds()), framing)
    : frameNode(top, framing);
  const camera: Camera = { type: 'perspective', yfov: 0.7, znear };
  return scene.createNode({ name: '', translation, rotation, camera });
}

/** What a box covers while it is turned about its middle. */
function fromAllSides({ min, max }: Bounds): Bounds {
  const half = Math.hypot(max[0] - min[0], max[2] - min[2]) / 2;
  const [x, z] = [(min[0] + max[0]) / 2, (min[2] + max[2]) / 2];
  return { min: [x - half, min[1], z - half], max: [x + half, max[1], z + half] };
}

/** The sun that belongs to the sky, whose own light the panorama leaves out. */
function addSun(scene: Scene): void {
  const light = sunIrradiance(SUN);
  const intensity = Math.max(...light) / SUN[1];
  scene.createNode({
    name: 'sun',
    rotation: facing([-SUN[0], -SUN[1], -SUN[2]]),
    light: {
      type: 'directional',
      intensity,
      color: light.map((part) => part / SUN[1] / intensity) as [number, number, number],
      angle: 0.0093,
    },
  });
}

/** A soft key from above the viewer's left. */
function addNeutralLight(scene: Scene, cameraNode: SceneNode): void {
  const [x, y, z, w] = cameraNode.readRotation([0, 0, 0, 1]);
  const forward: [number, number, number] = [
    -2 * (x! * z! + w! * y!),
    -2 * (y! * z! - w! * x!),
    -(1 - 2 * (x! * x! + y! * y!)),
  ];
  const right: [number, number, number] = [
    1 - 2 * (y! * y! + z! * z!),
    2 * (x! * y! + w! * z!),
    2 * (x! * z! - w! * y!),
  ];
  const direction = forward.map((f, k) => f + right[k]! * 0.55) as [number, number, number];
  direction[1] -= 0.7;
  scene.createNode({
    name: 'neutral light',
    rotation: facing(direction),
    light: { type: 'directional', intensity: 2.6 },
  });
}
