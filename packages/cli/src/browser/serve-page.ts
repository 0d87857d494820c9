import { isGraphName, readGraph } from '@umber-lens/core/graphs';
import { isSheetName } from '@umber-lens/core/sheets';
import { openViewfinder, watchViewfinder } from '@umber-lens/viewfinder';
import { graphStage } from './graph-stage.js';
import {
  applySheet,
  type Camera,
  frameNode,
  type Lens,
  LensError,
  loadModel,
  loadSheet,
  openLens,
  orbitRig,
  Scene,
  type SceneNode,
  skyPanorama,
} from 'umber-lens';

declare global {
  interface Window {
    /** For the console, and for those who drive this page. */
    shown: { lens: Lens; scene: Scene; camera: SceneNode; changes: number };
  }
}

const GREY: [number, number, number, number] = [0.2, 0.19, 0.18, 1];

/** A file that is served, as addresses have it. */
const addressOf = (file: string): string =>
  new URL(`/files/${file.split('/').map(encodeURIComponent).join('/')}`, location.href).href;

async function main(): Promise<void> {
  const canvas = document.querySelector('canvas')!; // in the page
  const file = canvas.dataset['file']!; // given by the server
  const allowOutside = canvas.dataset['allowOutside'] === 'true';
  const backend = new URLSearchParams(location.search).get('backend');
  // A page that lies open costs nothing.
  const lens = await openLens(canvas, {
    view: { onDemand: true },
    ...(backend === 'webgl2' || backend === 'webgpu' ? { backend } : {}),
  });
  const scene = new Scene({ clearColor: GREY });
  const isGraph = isGraphName(file);
  const isSheet = isGraph || isSheetName(file);
  let isEffect = false;
  let given: SceneNode | undefined;
  let placed: SceneNode | undefined;
  const show = async (): Promise<void> => {
    if (isSheet) {
      const address = addressOf(file);
      const text = isGraph ? await (await fetch(address)).text() : '';
      isEffect = isGraph && readGraph(text, file).hooks.effect !== undefined;
      const sheet = await loadSheet(isGraph ? graphStage(address, isEffect) : address, { allowOutside });
      ({ camera: given } = applySheet(scene, sheet, { lens }));
    } else {
      const model = await loadModel(addressOf(file), { allowOutside, shared: false });
      placed?.remove();
      placed = model.placeIn(scene);
      [given] = [...scene.cameras.keys()].filter((node) => node !== own);
    }
    light(scene);
  };
  const own = scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.05 } });
  await show();
  const { camera, rig } = look(scene, canvas, given, own);
  window.shown = { lens, scene, camera, changes: 0 };
  const folder = file.split('/').slice(0, -1);
  const adjustments = [...folder, 'adjustments.sheet.json'].join('/');
  const edit = async (): Promise<void> => {
    const viewfinder = await openViewfinder(lens, scene, { adjustments });
    if (!isGraph) return;
    const ball = scene.get('ball');
    const effect = lens.view.finish.find((one) => one.type === 'shader');
    if (!isEffect) viewfinder.select([ball]);
    viewfinder.openGraph(isEffect ? effect! : ball.mesh!.primitives[0]!.material!); // the stage has both
  };
  watchViewfinder(lens, scene, { adjustments });
  const opener = document.querySelector<HTMLButtonElement>('#viewfinder')!; // in the page
  opener.addEventListener('click', () => void edit());
  opener.disabled = false;
  lens.run(({ delta }) => {
    rig.update(delta);
    lens.draw(scene, camera);
  });
  // A graph is there to be edited.
  if (isGraph) await edit();
  const changes = new EventSource('/changes');
  changes.onmessage = () => {
    void show().then(
      () => {
        window.shown.changes++;
        fail(undefined);
      },
      // What is shown stays.
      (error: unknown) => fail(error),
    );
  };
}

/** A camera of the page's own: where the file's first one is, else where all is seen. */
function look(
  scene: Scene,
  canvas: HTMLCanvasElement,
  given: SceneNode | undefined,
  own: SceneNode,
): { camera: SceneNode; rig: ReturnType<typeof orbitRig> } {
  scene.update();
  const bounds = scene.root.worldBounds();
  const middle = [0, 1, 2].map((k) => (bounds.min[k]! + bounds.max[k]!) / 2) as [number, number, number];
  if (!given) {
    const framing = frameNode(scene.root, { yfov: 0.8, aspect: canvas.clientWidth / canvas.clientHeight });
    own.setTranslation(...framing.translation).setRotation(...framing.rotation);
    middle.splice(0, 3, ...framing.target);
  }
  if (given) {
    own.setCamera({ ...given.camera! } as Camera); // it has one
    own.setMatrix(given.readWorldMatrix(new Float32Array(16)));
    // What it looks at lies before it, as far as the middle of all.
    const world = given.readWorld(new Float32Array(12));
    const from = [world[3]!, world[7]!, world[11]!];
    const ahead = [-world[2]!, -world[6]!, -world[10]!];
    const along = Math.max(
      1,
      ahead.reduce((sum, part, k) => sum + part * (middle[k]! - from[k]!), 0),
    );
    for (let k = 0; k < 3; k++) middle[k] = from[k]! + ahead[k]! * Math.min(along, 30);
  }
  return { camera: own, rig: orbitRig(own, canvas, { target: middle }) };
}

/** What has no light of its own stands under a sky. */
function light(scene: Scene): void {
  if (scene.lights.size > 0 || scene.imageLight) return;
  scene.imageLight = { panorama: skyPanorama(), intensity: 1 };
}

function fail(error: unknown): void {
  const box = document.querySelector<HTMLElement>('#failure')!; // in the page
  box.hidden = error === undefined;
  box.textContent = error instanceof LensError ? error.toString() : String(error as Error);
}

main().catch((error: unknown) => {
  fail(error);
  // Nothing is shown yet: once it is mended, the page begins anew.
  new EventSource('/changes').onmessage = () => location.reload();
});
