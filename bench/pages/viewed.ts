/** Script of a page's frames with the viewfinder open over it and nothing chosen, against the same page without it. */
import { openViewfinder } from '@umber-lens/viewfinder';
import { box, openLens, Scene } from 'umber-lens';

export interface ViewedTimes {
  open: number;
  shut: number;
}

const MOVING = 3000;

async function viewed(rounds: number, each: number): Promise<ViewedTimes> {
  const canvas = document.createElement('canvas');
  Object.assign(canvas.style, { width: '160px', height: '100px', display: 'block' });
  document.body.append(canvas);
  // Script of all that runs in a frame, whoever asked for it.
  let inFrame = 0;
  const times: number[] = [];
  const ask = window.requestAnimationFrame.bind(window);
  let stamp = -1;
  window.requestAnimationFrame = (callback) =>
    ask((now) => {
      if (now !== stamp) {
        if (inFrame > 0) times.push(inFrame);
        stamp = now;
        inFrame = 0;
      }
      const begin = performance.now();
      callback(now);
      inFrame += performance.now() - begin;
    });
  const lens = await openLens(canvas, { backend: 'webgl2', pixelRatio: 1, antialias: false });
  const scene = new Scene();
  const geometry = box({ width: 0.1, height: 0.1, depth: 0.1 });
  const material = { baseColorFactor: [0.8, 0.5, 0.2, 1] as const };
  const nodes = Array.from({ length: MOVING }, (_, i) =>
    scene.createNode({
      name: `crate ${i}`,
      translation: [(i % 60) - 30, 0, -Math.floor(i / 60)],
      mesh: { geometry, material: material as never },
    }),
  );
  scene.createNode({ light: { type: 'directional' } });
  const camera = scene.createNode({
    translation: [0, 8, 20],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  let turn = 0;
  const stop = lens.run(() => {
    turn++;
    for (const [i, node] of nodes.entries())
      node.setTranslation((i % 60) - 30, Math.sin(turn * 0.1 + i), -Math.floor(i / 60));
    lens.draw(scene, camera);
  });
  const collect = async (): Promise<number[]> => {
    times.length = 0;
    while (times.length < each) await new Promise((again) => setTimeout(again, 20));
    return times.splice(0, each);
  };
  const [open, shut]: [number[], number[]] = [[], []];
  for (let i = 0; i < rounds; i++) {
    await collect();
    shut.push(...(await collect()));
    const viewfinder = await openViewfinder(lens, scene, { keep: false });
    await collect();
    open.push(...(await collect()));
    viewfinder.close();
  }
  stop();
  const median = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!; // not empty
  return { open: median(open), shut: median(shut) };
}

Object.assign(window, { viewed });
