/** A graph of many nodes in the editor, over a picture that stands still. */
import { openViewfinder } from '@umber-lens/viewfinder';
import { createMaterial, openLens, Scene, sphere } from 'umber-lens';
import { compileGraphShader } from 'umber-lens/shaders';

async function openGraph(text: string): Promise<void> {
  const canvas = document.createElement('canvas');
  Object.assign(canvas.style, { width: '1280px', height: '800px', display: 'block' });
  document.body.style.margin = '0';
  document.body.append(canvas);
  const lens = await openLens(canvas, { backend: 'webgl2', pixelRatio: 0.1, antialias: false });
  const scene = new Scene();
  const material = createMaterial(compileGraphShader(text, { file: 'large.graph.json' }), {
    name: 'large',
  });
  scene.createNode({ mesh: { geometry: sphere(), material } });
  const camera = scene.createNode({
    translation: [0, 0, 4],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  lens.view.onDemand = true;
  lens.run(() => lens.draw(scene, camera));
  const viewfinder = await openViewfinder(lens, scene, { keep: false });
  viewfinder.openGraph(material);
}

Object.assign(window, { openGraph });
