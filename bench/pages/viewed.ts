/** A page whose nodes move, with the viewfinder over it or without. */
import { openViewfinder, type Viewfinder } from '@umber-lens/viewfinder';
import { box, openLens, Scene } from 'umber-lens';

export interface ViewedPage {
  /** Frames that were drawn so far. */
  frames(): number;
  /** Opens the viewfinder, or closes it. */
  view(isOpen: boolean): Promise<void>;
}

const MOVING = 3000;
const ACROSS = 60;

/** @param count nodes in all, of which the first 3,000 move */
async function viewed(count: number): Promise<ViewedPage> {
  const canvas = document.createElement('canvas');
  Object.assign(canvas.style, { width: '160px', height: '100px', display: 'block' });
  document.body.append(canvas);
  const lens = await openLens(canvas, {
    backend: 'webgl2',
    pixelRatio: 1,
    antialias: false,
    dynamicResolution: false,
  });
  const scene = new Scene();
  const geometry = box({ width: 0.1, height: 0.1, depth: 0.1 });
  const material = { baseColorFactor: [0.8, 0.5, 0.2, 1] as [number, number, number, number] };
  const nodes = Array.from({ length: count }, (_, i) =>
    scene.createNode({
      name: `crate ${i}`,
      // What does not move lies behind whoever looks.
      translation: [(i % ACROSS) - ACROSS / 2, 0, i < MOVING ? -Math.floor(i / ACROSS) : 100 + i / ACROSS],
      mesh: { geometry, material },
    }),
  ).slice(0, MOVING);
  scene.createNode({ light: { type: 'directional' } });
  const camera = scene.createNode({
    translation: [0, 8, 20],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  let turn = 0;
  lens.run(() => {
    turn++;
    for (const [i, node] of nodes.entries())
      node.setTranslation((i % ACROSS) - ACROSS / 2, Math.sin(turn * 0.1 + i), -Math.floor(i / ACROSS));
    lens.draw(scene, camera);
  });
  let viewfinder: Viewfinder | undefined;
  return {
    frames: () => turn,
    async view(isOpen) {
      viewfinder?.close();
      viewfinder = isOpen ? await openViewfinder(lens, scene, { keep: false }) : undefined;
    },
  };
}

Object.assign(window, { viewed });
