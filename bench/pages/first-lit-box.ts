/** The smallest page: one lit box. Its size is measured, and the time to its first frame. */
import { box, facing, openLens, Scene } from 'umber-lens';

const canvas = document.querySelector('canvas')!;
const lens = await openLens(canvas, { backend: 'webgl2' });
const scene = new Scene();
scene.createNode({ mesh: { geometry: box() } });
scene.createNode({ rotation: facing([-1, -2, -3]), light: { type: 'directional', intensity: 3 } });
const camera = { type: 'perspective', yfov: 0.8, znear: 0.1 } as const;
const cameraNode = scene.createNode({ translation: [0, 0, 3], camera });
lens.draw(scene, cameraNode);
canvas.getContext('webgl2')!.readPixels(0, 0, 1, 1, 6408, 5121, new Uint8Array(4));
Object.assign(window, { firstFrame: performance.now() });
