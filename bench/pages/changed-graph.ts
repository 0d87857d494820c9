/** A lit ball painted by a graph that is edited: how long until a change of it is on screen. */
import { openViewfinder } from '@umber-lens/viewfinder';
import { createMaterial, openLens, plane, Scene, sphere } from 'umber-lens';
import { compileGraphShader } from 'umber-lens/shaders';

/** Stepped light with a rim: what people build first. */
const GRAPH = `{
  "graph": 1,
  "settings": { "edge": { "type": "f32", "value": 2.5, "range": [0.5, 6] }, "glow": { "type": "color", "value": "#ffb46a" } },
  "nodes": {
    "facing": { "call": "dot", "in": ["@p.normal", "@p.toCamera"] },
    "inside": { "call": "saturate", "in": ["@facing"] },
    "rim": { "call": "pow", "in": [{ "call": "-", "in": [1, "@inside"] }, "@settings.edge"] },
    "from above": { "call": "smoothstep", "in": [-0.5, 0.8, "@p.normal.y"] },
    "share": { "call": "*", "in": ["@rim", "@from above"] },
    "rim light": { "call": "*", "in": ["@settings.glow", "@share"] },
    "lit": { "call": "saturate", "in": [{ "call": "dot", "in": ["@s.normal", "@l.direction"] }] },
    "steps": { "call": "stepped", "in": ["@lit", 3, 0.1] },
    "painted": { "call": "*", "in": ["@s.baseColor", "@steps"] },
    "answer": { "call": "*", "in": ["@l.color", "@painted"] }
  },
  "hooks": { "surface": { "emissive": "@rim light" }, "light": "@answer" },
  "layout": {
    "facing": [0, 0], "inside": [260, 0], "rim": [520, 0], "from above": [520, 200], "share": [780, 100], "rim light": [1040, 100],
    "lit": [0, 400], "steps": [260, 400], "painted": [520, 400], "answer": [780, 400]
  }
}
`;
async function openChanged(): Promise<void> {
  const canvas = document.createElement('canvas');
  Object.assign(canvas.style, { width: '1280px', height: '800px', display: 'block' });
  document.body.style.margin = '0';
  document.body.append(canvas);
  const lens = await openLens(canvas, {
    backend: 'webgl2',
    pixelRatio: 0.05,
    antialias: false,
    dynamicResolution: false,
  });
  const scene = new Scene();
  const material = createMaterial(compileGraphShader(GRAPH, { file: 'changed.graph.json' }), {
    name: 'changed',
    baseColorFactor: [0.8, 0.4, 0.2, 1],
    metallicFactor: 0,
  });
  scene.createNode({ name: 'ball', translation: [0, 1, 0], mesh: { geometry: sphere(), material } });
  scene.createNode({
    name: 'quay',
    translation: [0, -0.5, 0],
    mesh: { geometry: plane({ width: 8, depth: 8 }), material: { metallicFactor: 0 } },
  });
  scene.createNode({ rotation: [-0.3, 0.3, 0, 0.9], light: { type: 'directional', intensity: 3 } });
  const camera = scene.createNode({
    translation: [0, 0.6, 5],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  const gl = canvas.getContext('webgl2')!; // the lens's own
  let shown = '';
  let pressed = 0;
  const waits: ((milliseconds: number) => void)[] = [];
  lens.run(() => {
    lens.draw(scene, camera);
    if (waits.length === 0) return;
    const pixels = new Uint8Array(canvas.width * canvas.height * 4);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.readPixels(0, 0, canvas.width, canvas.height, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
    const now = pixels.join();
    if (pressed > 0 && shown !== '' && now !== shown) {
      for (const done of waits.splice(0)) done(performance.now() - pressed);
      pressed = 0;
    } else if (pressed === 0) shown = now;
  });
  addEventListener(
    'keydown',
    ({ key }) => {
      if (key === 'Enter') pressed = performance.now();
    },
    true,
  );
  const viewfinder = await openViewfinder(lens, scene, { keep: false });
  viewfinder.openGraph(material);
  Object.assign(window, {
    // Milliseconds from the key that ends an input until the picture is another one.
    changed: () => {
      shown = '';
      pressed = 0;
      return new Promise<number>((done) => waits.push(done));
    },
  });
}

Object.assign(window, { openChanged });
