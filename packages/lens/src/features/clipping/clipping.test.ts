import { TraceDevice } from '../../device.js';
import { box, lensOn, Scene } from '../../index.js';

test('marks of what is cut are sent when nodes come, go and move to another parent, and not because a camera moves', async () => {
  const device = new TraceDevice();
  const lens = lensOn(device, { onMessage: () => undefined });
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 12],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  const mesh = { geometry: box(), material: {} };
  const crate = scene.createNode({ name: 'crate' });
  const lid = scene.createNode({ parent: crate, mesh });
  const other = scene.createNode({ translation: [3, 0, 0], mesh });
  scene.clipping = { planes: [[0, -1, 0, 0]], node: crate };
  await lens.load(scene);
  const sent = (change: () => void): number => {
    change();
    device.commands.length = 0;
    lens.draw(scene, camera);
    return device.commands.filter(([name, label]) => name === 'writeBuffer' && label === 'thing marks')
      .length;
  };
  expect(sent(() => undefined)).toBe(1);
  expect(sent(() => undefined)).toBe(0);
  expect(sent(() => camera.setTranslation(1, 0, 12))).toBe(0);
  expect(sent(() => scene.createNode({ parent: crate, mesh }))).toBe(1);
  expect(sent(() => other.setParent(crate))).toBe(1);
  expect(sent(() => other.setParent(undefined))).toBe(1);
  expect(sent(() => lid.remove())).toBe(1);
  expect(sent(() => (scene.clipping = { planes: [[0, -1, 0, 0]] }))).toBe(0);
});
