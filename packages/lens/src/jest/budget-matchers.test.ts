import { box, Scene, type SceneNode, Swarm } from '@umber-lens/core/engine';
import { budgetMatchers, figuresOfScene } from './index.js';

expect.extend(budgetMatchers);

function crates(count: number): { scene: Scene; camera: SceneNode } {
  const scene = new Scene();
  const geometry = box();
  for (let i = 0; i < count; i++)
    scene.createNode({
      mesh: { geometry, material: { roughnessFactor: i / count } },
      translation: [i - count / 2, 0, 0],
    });
  const camera = scene.createNode({
    translation: [0, 0, 60],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  return { scene, camera };
}

test('a scene is held against a budget without a GPU', async () => {
  await expect(crates(40)).toKeepWithin({ draws: 1, triangles: 480, instances: 40, uploadKb: 0.5 });
  await expect(expect(crates(41)).toKeepWithin({ draws: 1, triangles: 480 })).rejects.toThrow(
    'the scene is over its budget:\n  triangles that a frame draws: 492, of 480',
  );
  await expect(crates(41)).not.toKeepWithin({ triangles: 480 });
  await expect(expect(crates(2)).not.toKeepWithin({ draws: 9 })).rejects.toThrow('should not be');
});

test('swarms are counted as they are drawn: a steady frame sends nothing', async () => {
  const { scene, camera } = crates(1);
  const translations = Float32Array.from({ length: 30_000 }, (_, i) =>
    i % 3 === 1 ? 0 : ((i * 7919) % 500) / 5 - 50,
  );
  scene.createNode({ mesh: new Swarm({ geometry: box(), transforms: { translations } }) });
  const figures = await figuresOfScene({ scene, camera });
  expect(figures.draws).toBe(2);
  expect(figures.uploadKb).toBeLessThan(0.5);
  expect(figures.triangles).toBeGreaterThan(12 * 1000);
});
