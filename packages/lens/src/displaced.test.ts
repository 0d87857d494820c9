import { box, lensOn, Scene } from './index.js';
import { TraceDevice } from './device.js';
import { compileMaterialShader } from './shaders/index.js';

/** A box that its shader lifts by 8 m, seen by a camera that sees nothing below 5 m. */
function drawn(setting: string, margin?: number): { instances: number; told: string[]; top: number } {
  const told: string[] = [];
  const lens = lensOn(new TraceDevice(), { onMessage: ({ code }) => void told.push(code) });
  const shader = compileMaterialShader(
    `struct Settings { lift: f32, ${setting}\n}
fn displace(v: Vertex, s: Settings) -> Vertex { var out = v; out.position.y += s.lift; return out; }`,
    { file: 'lift.wgsl' },
  );
  const scene = new Scene();
  scene.createNode({ light: { type: 'directional' } });
  const node = scene.createNode({
    name: 'lifted',
    mesh: {
      primitives: [{ geometry: box(), material: { shader, settings: { lift: 8 } } }],
      ...(margin === undefined ? {} : { boundsMargin: margin }),
    },
  });
  const camera = scene.createNode({
    translation: [0, 8, 12],
    camera: { type: 'perspective', yfov: 0.4, znear: 0.1 },
  });
  lens.draw(scene, camera);
  lens.draw(scene, camera);
  return { instances: lens.ledger.instances, told, top: node.worldBounds().max[1] };
}

test('what a hook moves within the ranges of its settings is seen where it is', () => {
  const { instances, told, top } = drawn('// 0..9 = 0');
  expect(instances).toBe(1);
  expect(told).toEqual([]);
  expect(top).toBeCloseTo(9.5);
});

test('where nobody knows how far it moves it is left out and said once, or kept by a margin of the mesh', () => {
  const unknown = drawn('// = 0');
  expect(unknown.instances).toBe(0);
  expect(unknown.told.filter((code) => code === 'mesh/unknown-reach')).toHaveLength(1);
  const given = drawn('// = 0', 9);
  expect(given.instances).toBe(1);
  expect(given.told).toEqual([]);
  // A mesh that knows better than the shader's ranges.
  expect(drawn('// 0..9 = 0', 0).instances).toBe(0);
});

test('a material that takes another shader takes its margin along', () => {
  const lens = lensOn(new TraceDevice(), { onMessage: () => undefined });
  const shaderOf = (most: number): ReturnType<typeof compileMaterialShader> =>
    compileMaterialShader(
      `struct Settings { lift: f32, // 0..${most} = 0\n}
fn displace(v: Vertex, s: Settings) -> Vertex { var out = v; out.position.y += s.lift; return out; }`,
      { file: `lift-${most}.wgsl` },
    );
  const scene = new Scene();
  scene.createNode({ light: { type: 'directional' } });
  const material = { shader: shaderOf(1) };
  scene.createNode({ mesh: { geometry: box(), material } });
  const camera = scene.createNode({
    translation: [0, 8, 12],
    camera: { type: 'perspective', yfov: 0.4, znear: 0.1 },
  });
  lens.draw(scene, camera);
  expect(lens.ledger.instances).toBe(0);
  material.shader = shaderOf(9);
  lens.draw(scene, camera);
  expect(lens.ledger.instances).toBe(1);
});
