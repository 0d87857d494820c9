import { attributeFrom, geometryChanged, geometryFrom, lensOn, Scene } from '../index.js';
import { TraceDevice } from '../device.js';

function stage(count = 300) {
  const device = new TraceDevice();
  const lens = lensOn(device, { onMessage: () => undefined });
  const scene = new Scene();
  const position = new Float32Array(count * 3);
  const color0 = new Float32Array(count * 4).fill(1);
  const indices = Array.from({ length: count }, (_, i) => i);
  const geometry = geometryFrom({ position, color0 }, indices);
  scene.createNode({ mesh: { geometry, material: { unlit: true } } });
  const camera = scene.createNode({
    translation: [0, 0, 4],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  /** Buffers that a frame wrote to, with their offsets and bytes. */
  const written = (): unknown[] => {
    device.commands.length = 0;
    lens.draw(scene, camera);
    return device.commands.filter(
      ([name, label]) => name === 'writeBuffer' && !['frame', 'lights'].includes(label as string),
    );
  };
  return { device, lens, geometry, position, written };
}

test('what was written to is uploaded, and nothing else', async () => {
  const { geometry, lens, position, written } = stage();
  written();
  geometryChanged(geometry, { attribute: 'indices', first: 0, count: 0 });
  // What uploads changes is loaded with the first.
  written();
  await lens.whenReady();
  written();
  expect(written()).toEqual([]);
  position.set([0.5, 0.5, 0.5], 17 * 3);
  geometryChanged(geometry, { attribute: 'position', first: 17, count: 1 });
  expect(written()).toContainEqual(['writeBuffer', 'geometry', 17 * 12, 12]);
  expect(written()).toEqual([]);
  geometryChanged(geometry, { attribute: 'color0', first: 100, count: 50 });
  geometryChanged(geometry, { attribute: 'indices', first: 3, count: 4 });
  expect(written()).toEqual([
    ['writeBuffer', 'geometry', 100 * 16, 50 * 16],
    ['writeBuffer', 'geometry indices', 4, 10],
  ]);
});

test('geometries shrink and grow; buffers of before are freed', async () => {
  const { lens, geometry, written } = stage();
  written();
  geometryChanged(geometry, { attribute: 'indices', first: 0, count: 0 });
  written();
  await lens.whenReady();
  const triangles = (): number => {
    written();
    return lens.ledger.triangles;
  };
  expect(triangles()).toBe(100);
  const { buffers } = lens.ledger.living;
  geometry.indices = geometry.indices!.subarray(0, 150);
  geometryChanged(geometry);
  expect(triangles()).toBe(50);
  geometry.attributes['position'] = attributeFrom(new Float32Array(900 * 3), 3);
  geometry.attributes['color0'] = attributeFrom(new Float32Array(900 * 4), 4);
  geometry.indices = Uint16Array.from({ length: 900 }, (_, i) => i);
  geometryChanged(geometry);
  expect(triangles()).toBe(300);
  expect(lens.ledger.living.buffers).toBe(buffers);
  lens.dispose();
});
