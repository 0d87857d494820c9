import {
  type Camera,
  facing,
  frameNode,
  type Lens,
  LensError,
  type Model,
  Scene,
  type SceneNode,
} from 'umber-lens';
import type { ShotFacts, ShotRequest } from './shot.js';

/** Draws a model as the request asks. The pixels are sRGB-encoded RGBA, premultiplied, top row first. */
export async function drawShot(
  lens: Lens,
  model: Model,
  request: ShotRequest,
): Promise<ShotFacts & { pixels: Uint8Array }> {
  const { width, height } = request;
  const scene = new Scene({ background: { color: request.background } });
  const top = model.placeIn(scene);
  const eye = chooseEye(scene, top, request, width / height);
  const addedLight = scene.lights.size === 0;
  if (addedLight) addNeutralLight(scene, eye);
  // A model lit by its own lights still stands in some room, not in the void.
  scene.ambient = addedLight
    ? { sky: [0.75, 0.78, 0.82], ground: [0.42, 0.4, 0.38] }
    : { sky: [0.22, 0.24, 0.28], ground: [0.1, 0.1, 0.1] };
  const target = lens.createTarget({ width, height });
  lens.draw(scene, eye, target);
  const pixels = await target.read();
  const { draws, triangles } = lens.ledger;
  return { pixels, camera: eye.name, addedLight, draws, triangles };
}

function chooseEye(scene: Scene, top: SceneNode, request: ShotRequest, aspect: number): SceneNode {
  const cameras = [...scene.cameras];
  if (request.camera !== undefined) {
    const found = cameras.find(
      ([node, camera]) => node.name === request.camera || camera.name === request.camera,
    );
    if (found) return found[0];
    const names = cameras.map(([node, camera]) => node.name || camera.name || '(unnamed)');
    throw new LensError('shoot/no-camera', `the model has no camera "${request.camera}"`, {
      hint:
        names.length > 0
          ? `It has: ${names.join(', ')}.`
          : 'It has none; leave --camera out to frame the whole model.',
    });
  }
  const first = cameras[0];
  if (first) return first[0];
  const { translation, rotation, znear } = frameNode(top, { yfov: 0.7, aspect });
  const camera: Camera = { type: 'perspective', yfov: 0.7, znear };
  return scene.createNode({ name: '', translation, rotation, camera });
}

/** A soft key from above the viewer's left. */
function addNeutralLight(scene: Scene, eye: SceneNode): void {
  const [x, y, z, w] = eye.readRotation([0, 0, 0, 1]);
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
