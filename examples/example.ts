import {
  cameraRay,
  type Lens,
  loadModel,
  openLens,
  type OpenLensOptions,
  orbitRig,
  type OrbitRigOptions,
  type RenderTarget,
  Scene,
  type SceneNode,
} from 'umber-lens';
import { watchViewfinder } from '@umber-lens/viewfinder';
import { type Controls, controlPanel } from './controls.js';
import { figuresLine, isSoftware, showFailure } from './stage.js';

/** A scene that can be drawn in a page, in a test and in Node alike. */
export interface Example {
  /** Where the picture is taken from. */
  camera: SceneNode;
  rig?: OrbitRigOptions;
  /** Whether it is a flat picture, which nobody walks around. */
  isFlat?: boolean;
  /** Sets what the lens is to be: exposure, tone mapping. */
  prepare?(lens: Lens): void;
  /** Brings the scene to a time, in seconds. */
  frame(time: number): void;
  /** Draws it, where that is more than one picture. @param target left out: the canvas */
  draw?(lens: Lens, target?: RenderTarget): void;
  /** Hears what happens on the canvas of a page, before the rig does. */
  listen?(canvas: HTMLCanvasElement): void;
  /** The pointer as a ray into the scene; undefined when it left. */
  point?(ray: { origin: number[]; direction: number[] } | undefined): void;
}

/** How an example comes by its models: by address in a page, from disk in Node. */
export type PlaceModel = (name: string, scene: Scene) => Promise<SceneNode>;
/** Adds what can be changed while an example runs. */
export type AddControls = (lens: Lens, scene: Scene, controls: Controls) => void;
export type CreateExample = (scene: Scene, placeModel: PlaceModel) => Example | Promise<Example>;

declare global {
  interface Window {
    /** For tests: the picture at a time, drawn off screen. sRGB bytes, top row first. */
    drawStill?: (width: number, height: number, time: number) => Promise<Uint8Array>;
  }
}

/**
 * Runs an example in the page. The address may name a `backend`; with `offscreen` nothing is shown and
 * `window.drawStill` gives pictures.
 */
export function runExample(create: CreateExample, control?: AddControls): void {
  main(create, control).catch(showFailure);
}

async function main(create: CreateExample, control: AddControls | undefined): Promise<void> {
  const address = new URLSearchParams(location.search);
  const canvas = document.querySelector('canvas')!; // in the page
  const isOffscreen = address.has('offscreen');
  const lens = await openLens(isOffscreen ? undefined : canvas, {
    ...optionsOf(address),
  });
  const scene = new Scene();
  const example = await create(scene, async (name, into) =>
    (await loadModel(`../models/${name}.glb`)).placeIn(into, { name }),
  );
  example.prepare?.(lens);
  // For the console, and for the tests that drive this page.
  Object.assign(window, { lens, scene, example });
  if (isOffscreen) {
    window.drawStill = (width, height, time) => still(lens, scene, example, width, height, time);
    return;
  }
  const { camera } = example;
  example.listen?.(canvas);
  const rig = example.isFlat ? undefined : orbitRig(camera, canvas, example.rig);
  followPointer(canvas, camera, example);
  control?.(lens, scene, controlPanel());
  watchViewfinder(lens, scene);
  const figures = figuresLine(lens);
  lens.run(({ time, delta }) => {
    rig?.update(delta);
    example.frame(time);
    if (example.draw) example.draw(lens);
    else lens.draw(scene, camera);
    figures();
  });
}

/**
 * What the address asks for: `backend=webgl2`, and `pixels=all` for every pixel, however long frames take. Without a GPU there
 * are fewer, and always as many.
 */
export function optionsOf(address: URLSearchParams): OpenLensOptions {
  const name = address.get('backend');
  return {
    ...(name === 'webgpu' || name === 'webgl2' ? { backend: name } : {}),
    dynamicResolution: false,
    ...(address.get('pixels') !== 'all' && isSoftware() ? { pixelRatio: 0.4 } : {}),
  };
}

async function still(
  lens: Lens,
  scene: Scene,
  example: Example,
  width: number,
  height: number,
  time: number,
): Promise<Uint8Array> {
  const target = lens.createTarget({ width, height });
  lens.setTime(time);
  example.frame(time);
  await lens.load(scene);
  if (example.draw) {
    // What it shows of itself is loaded by the first.
    example.draw(lens, target);
    await lens.whenReady();
    example.draw(lens, target);
  } else lens.draw(scene, example.camera, { target });
  const pixels = await target.read();
  target.dispose();
  return pixels;
}

function followPointer(canvas: HTMLCanvasElement, camera: SceneNode, example: Example): void {
  canvas.addEventListener('pointermove', (event) => {
    const { origin, direction } = cameraRay(
      camera,
      event.offsetX,
      event.offsetY,
      canvas.clientWidth,
      canvas.clientHeight,
    );
    const length = Math.hypot(...direction);
    example.point?.({ origin, direction: direction.map((part) => part / length) });
  });
  canvas.addEventListener('pointerleave', () => example.point?.(undefined));
}
