import { box, openLens, Scene } from 'umber-lens';
import rim from './rim.wgsl';
import wave from './wave.wgsl';
import steps from './steps.wgsl';
import tint from './tint.wgsl';
import rust from './rust.wgsl';
import flag from './flag.wgsl';

const lens = await openLens(globalThis.document.querySelector('canvas'));
const scene = new Scene();
for (const shader of [rim, wave, steps, tint, rust, flag])
  scene.createNode({ mesh: { geometry: box(), material: { shader } } });
lens.draw(scene, scene.createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } }));
