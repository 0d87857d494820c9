import { facing, plane, type Material, type Scene, createMaterial } from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';
import print from './chart-print.wgsl';
import sea from './sea.wgsl';

/** The tug as a print in an old chart book: a model of the file's own, with another answer to light. */
export async function createChartPrint(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  scene.clearColor = [0.78, 0.73, 0.58, 1];
  addSkyLight(scene, [0.12, 0.12, 0.12], [0.05, 0.05, 0.05]);
  const tug = await placeModel('tug', scene);
  // Every material of the file keeps its colours and gets the print's hooks; the settings are shared.
  const { settings, shader } = createMaterial(print);
  const printed = new Map<Material, Material>();
  for (const node of tug.descendants()) {
    for (const primitive of node.mesh?.primitives ?? []) {
      const { material = {} } = primitive;
      if (material.shader) continue;
      let twin = printed.get(material);
      if (!twin)
        printed.set(material, (twin = { ...material, shader: shader!, settings: settings as never }));
      primitive.material = twin;
    }
  }
  scene.createNode({
    name: 'sea',
    mesh: { geometry: plane({ width: 60, depth: 60 }), material: createMaterial(sea, { name: 'sea' }) },
  });
  scene.createNode({
    name: 'sun',
    rotation: facing([0.55, -1, -0.75]),
    light: { type: 'directional', intensity: 3.2 },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [6.2, 3.6, 7.2],
    rotation: facing([-0.62, -0.26, -0.72]),
    camera: { type: 'perspective', yfov: 0.6, znear: 0.1 },
  });
  return {
    camera,
    rig: { target: [0, 1.1, 0], distanceRange: [4, 25], elevationRange: [0.03, 1.57] },
    frame(time) {
      tug.setTranslation(0, -0.05 + 0.07 * Math.sin(time * 1.1), 0);
      const roll = 0.03 * Math.sin(time * 0.9);
      tug.setRotation(0.02 * Math.sin(time * 0.7), 0, roll, 1);
    },
  };
}
