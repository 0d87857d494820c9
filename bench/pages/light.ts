/** Whole frames, the GPU's part included: many lights by cells, shadows kept, environments made. */
import { bakePanorama } from '@umber-lens/core/formats';
import { box, facing, openLens, plane, Scene, type SceneNode, skyPanorama, sphere } from 'umber-lens';
import { race } from '../measure.js';

interface Stage {
  scene: Scene;
  camera: SceneNode;
  caster: SceneNode;
}

/** A hall of boxes, or of other things. */
function hall(geometry = box()): Stage {
  const scene = new Scene();
  const material = { metallicFactor: 0, roughnessFactor: 0.7 };
  scene.createNode({ mesh: { geometry: plane({ width: 80, depth: 80 }), material } });
  let caster!: SceneNode; // the last of them
  for (let i = 0; i < 200; i++)
    caster = scene.createNode({
      translation: [((i * 7) % 29) - 14, 0.5, -((i * 11) % 37)],
      mesh: { geometry, material },
    });
  const camera = scene.createNode({
    translation: [0, 4, 9],
    rotation: facing([0, -0.3, -1]),
    camera: { type: 'perspective', yfov: 0.9, znear: 0.1 },
  });
  return { scene, camera, caster };
}

/** Lamps over the floor; without a range each must be asked everywhere. */
function withLamps(count: number, range: number | undefined): Stage {
  const stage = hall();
  for (let i = 0; i < count; i++)
    stage.scene.createNode({
      translation: [((i * 13) % 40) - 20, 0.8, 6 - ((i * 17) % 45)],
      light: { type: 'point', intensity: 0.1, ...(range === undefined ? {} : { range }) },
    });
  return stage;
}

function withSun(): Stage {
  // As many triangles as a scene has that is worth keeping maps for.
  const stage = hall(sphere({ radius: 0.5, slices: 64, stacks: 32 }));
  stage.scene.createNode({
    rotation: facing([-0.5, -1, -0.3]),
    light: { type: 'directional', intensity: 3, shadow: true },
  });
  return stage;
}

async function light(rounds: number): Promise<Record<string, number>> {
  const canvas = document.createElement('canvas');
  const lens = await openLens(canvas, { backend: 'webgl2', pixelRatio: 1, antialias: false });
  const target = lens.createTarget({ width: 160, height: 100 });
  const frame = async ({ scene, camera }: Stage): Promise<void> => {
    lens.draw(scene, camera, { target });
    await target.read();
  };
  // Maps belong to one scene at a time: the scene whose casters move has a lens of its own.
  const other = await openLens(document.createElement('canvas'), {
    backend: 'webgl2',
    pixelRatio: 1,
    antialias: false,
  });
  const otherTarget = other.createTarget({ width: 160, height: 100 });
  const stages: Record<string, Stage> = {};
  for (const count of [10, 100, 1000]) {
    stages[`${count} by cells`] = withLamps(count, 2.5);
    stages[`${count} in a loop`] = withLamps(count, undefined);
  }
  const still = withSun();
  const moving = withSun();
  for (const { scene } of [...Object.values(stages), still]) await lens.load(scene);
  await other.load(moving.scene);
  const ball = new Scene();
  ball.createNode({ mesh: { geometry: sphere(), material: {} } });
  const looking = ball.createNode({
    translation: [0, 0, 3],
    camera: { type: 'perspective', yfov: 0.5, znear: 0.1 },
  });
  const sky = skyPanorama();
  let step = 0;
  return race(
    {
      ...Object.fromEntries(Object.entries(stages).map(([name, stage]) => [name, () => frame(stage)])),
      'shadows kept': () => frame(still),
      'shadows drawn': async () => {
        moving.caster.setTranslation(2, 0.5 + 0.1 * Math.sin(step++), 0);
        other.draw(moving.scene, moving.camera, { target: otherTarget });
        await otherTarget.read();
      },
      'environment kept': () => frame({ scene: ball, camera: looking, caster: looking }),
      'the same sums in script': () => void bakePanorama(sky),
      'environment made': () => {
        // Another object is another environment.
        ball.imageLight = { panorama: { ...sky } };
        return frame({ scene: ball, camera: looking, caster: looking });
      },
    },
    rounds,
  );
}

Object.assign(window, { light });
