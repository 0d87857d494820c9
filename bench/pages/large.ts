/** Script of scenes of 100,000 nodes of which little changes, against others of the same page. */
import { geometryFrom, type Lens, openLens, Scene, type SceneNode, type RenderTarget } from 'umber-lens';

const camera = { type: 'perspective', yfov: 1, znear: 0.1 } as const;
/** One triangle: the GPU is not what is measured. */
const geometry = geometryFrom({
  position: [0, 0, 0, 0.1, 0, 0, 0, 0.1, 0],
  normal: [0, 0, 1, 0, 0, 1, 0, 0, 1],
});
const material = {};

interface Stage {
  scene: Scene;
  camera: SceneNode;
  nodes: SceneNode[];
}

/** A field of nodes, all of them in view. */
function stage(count: number): Stage {
  const scene = new Scene();
  const side = Math.ceil(Math.sqrt(count));
  const nodes = Array.from({ length: count }, (_, i) =>
    scene.createNode({
      translation: [(i % side) - side / 2, Math.floor(i / side) - side / 2, 0],
      mesh: { geometry, material },
    }),
  );
  scene.createNode({ light: { type: 'directional' } });
  const cameraNode = scene.createNode({ translation: [0, 0, side * 1.2], camera });
  return { scene, camera: cameraNode, nodes };
}

/** Moves nodes `step` apart. */
function move(nodes: readonly SceneNode[], count: number, step: number, time: number): void {
  for (let i = 0; i < count; i++) {
    const node = nodes[i * step]!;
    node.setTranslation(i % 300, Math.sin(time + i), 0);
  }
}

async function large(rounds: number): Promise<Record<string, number>> {
  const canvas = Object.assign(document.createElement('canvas'), { width: 64, height: 40 });
  const lens: Lens = await openLens(canvas, { backend: 'webgl2', pixelRatio: 1, antialias: false });
  const gl = canvas.getContext('webgl2')!;
  // A software rasteriser takes 15 microseconds an instance. Script is what is measured: it gets one of each draw.
  const drawArrays = gl.drawArraysInstanced.bind(gl);
  gl.drawArraysInstanced = (mode, first, count, instances) =>
    drawArrays(mode, first, count, Math.min(1, instances));
  const target = (): RenderTarget => lens.createTarget({ width: 64, height: 40 });
  const targets = [target(), target(), target()];
  // A scene each, so that none is disturbed by what another way does to it.
  const together = stage(100_000);
  const apart = stage(100_000);
  const alone = stage(1000);
  const one = stage(100_000);
  const added = stage(100_000);
  const all = stage(100_000);
  const single = stage(100_000);
  const several = stage(100_000);
  const left = several.scene.createNode({ translation: [-1, 0, 400], camera });
  const last: SceneNode[] = [];
  const draw = ({ scene, camera: cameraNode }: Stage, to = 0): void =>
    lens.draw(scene, cameraNode, { target: targets[to] });
  const ways: Record<string, (time: number) => void> = {
    'one percent together': (time) => {
      move(together.nodes, 1000, 1, time);
      draw(together);
    },
    'one percent apart': (time) => {
      move(apart.nodes, 1000, 100, time);
      draw(apart);
    },
    'a thousand alone': (time) => {
      move(alone.nodes, 1000, 1, time);
      draw(alone);
    },
    one: (time) => {
      move(one.nodes, 1, 1, time);
      draw(one);
    },
    'added or removed': (time) => {
      move(added.nodes, 1, 1, time);
      if (last.length > 0) last.pop()!.remove();
      else last.push(added.scene.createNode({ translation: [1, time % 1, 0], mesh: { geometry, material } }));
      draw(added);
    },
    all: (time) => {
      move(all.nodes, 100_000, 1, time);
      draw(all);
    },
    'one camera': (time) => {
      move(single.nodes, 1000, 1, time);
      draw(single);
    },
    'two cameras': (time) => {
      move(several.nodes, 1000, 1, time);
      draw(several);
      lens.draw(several.scene, left, { target: targets[1] });
    },
    'three targets': (time) => {
      move(several.nodes, 1000, 1, time);
      for (let k = 0; k < 3; k++) draw(several, k);
    },
  };
  const pixel = new Uint8Array(4);
  const samples: Record<string, number[]> = {};
  for (let round = -6; round < rounds; round++) {
    for (const [name, way] of Object.entries(ways)) {
      const start = performance.now();
      way(round * 0.02);
      const time = performance.now() - start;
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
      await new Promise((resolve) => setTimeout(resolve, 0));
      if (round >= 0) (samples[name] ??= []).push(time);
    }
  }
  const middle = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!;
  return Object.fromEntries(Object.entries(samples).map(([name, list]) => [name, middle(list)]));
}

Object.assign(window, { large });
