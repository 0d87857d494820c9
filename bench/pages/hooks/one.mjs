import { box, openLens, Scene } from 'umber-lens';
import rim from './rim.wgsl';

const lens = await openLens(globalThis.document.querySelector('canvas'));
const scene = new Scene();
for (const shader of [rim]) scene.createNode({ mesh: { geometry: box(), material: { shader } } });
lens.draw(scene, scene.createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } }));
