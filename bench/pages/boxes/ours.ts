import { box, facing, type Lens, Scene, type SceneNode, worldTransformsChanged } from 'umber-lens';
import { COUNT, height, placeX, placeZ, turn, type Way, writeMatrices } from './motion.js';

/** The boxes by the library, moved by the nodes' setters or in bulk. */
export function ours(lens: Lens, inBulk: boolean, finish: Way['finish']): Way {
  const scene = new Scene();
  const [geometry, material] = [box(), {}];
  const nodes = Array.from({ length: COUNT }, (_, i) =>
    scene.createNode({ translation: [placeX(i), 0, placeZ(i)], mesh: { geometry, material } }),
  );
  scene.createNode({ rotation: facing([-0.48, -0.8, -0.36]), light: { type: 'directional', intensity: 3 } });
  const camera = { type: 'perspective', yfov: 1.2, znear: 0.1 } as const;
  const cameraNode = scene.createNode({ translation: [0, 60, 60], rotation: facing([0, -0.5, -1]), camera });
  const target = lens.createTarget({ width: 320, height: 200 });
  const move = inBulk ? moveInBulk : moveBySetters;
  return {
    finish,
    get draws() {
      return lens.ledger.draws;
    },
    frame(time) {
      move(scene, nodes, time);
      lens.draw(scene, cameraNode, { target });
    },
  };
}

function moveBySetters(_: Scene, nodes: SceneNode[], time: number): void {
  for (let i = 0; i < COUNT; i++) {
    const node = nodes[i]!;
    const half = turn(i, time) / 2;
    node.setTranslation(placeX(i), height(i, time), placeZ(i));
    node.setRotation(0, Math.sin(half), 0, Math.cos(half));
  }
}

function moveInBulk(scene: Scene, nodes: SceneNode[], time: number): void {
  const first = nodes[0]!.row;
  writeMatrices(scene.columns.world, first * 12, time);
  worldTransformsChanged(scene, first, COUNT);
}
