import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { readModel, writeObj, writePly, writeStl } from '@umber-lens/core/engine';
import { temporaryFolder } from '../folders.js';
import { testPage } from './stage.js';

const folder = temporaryFolder('formats');

const held = testPage();

test('a page loads every format by its contents, and saves what it shows', async () => {
  const crate = await readModel(new Uint8Array(readFileSync('examples/public/models/crate.glb')));
  const { files } = writeObj(crate, 'crate');
  const served = new Map<string, Uint8Array>([
    ...files,
    ['crate.ply', writePly(crate)],
    ['crate.stl', writeStl(crate)],
  ]);
  await held.page.route('**/served/**', (route) => {
    const name = decodeURIComponent(new URL(route.request().url()).pathname.replace(/.*\/served\//, ''));
    const found = served.get(name);
    return found
      ? route.fulfill({ body: Buffer.from(found), contentType: 'application/octet-stream' })
      : route.fulfill({ status: 404, body: '' });
  });
  const download = held.page.waitForEvent('download');
  const found = await held.page.evaluate(async () => {
    const { Scene, loadModel, openLens, readModel: read, saveModel } = umber;
    const lens = await openLens(undefined, { backend: 'webgl2' });
    const scene = new Scene();
    const formats: [string, number, number][] = [];
    for (const file of ['crate.obj', 'crate.ply', 'crate.stl']) {
      const model = await loadModel(`served/${file}`);
      const { asset } = model;
      formats.push([asset.format, asset.images.length, asset.warnings.length]);
      if (file === 'crate.obj') model.placeIn(scene, { name: 'crate' });
    }
    const data = new Uint8Array(16).fill(200);
    scene.createNode({
      name: 'patch',
      mesh: {
        geometry: umber.plane(),
        material: {
          baseColorTexture: {
            texture: { image: { content: { kind: 'pixels', width: 2, height: 2, data } } },
          },
        },
      },
    });
    const { bytes, warnings } = await saveModel(scene, { name: 'yard' });
    const again = await read(bytes);
    lens.dispose();
    return {
      formats,
      warnings,
      names: again.nodes.map(({ name }) => name),
      kinds: again.images
        .map(({ content }) => (content.kind === 'encoded' ? content.mimeType : content.kind))
        .sort(),
    };
  });
  expect(found.formats).toEqual([
    ['OBJ', 3, 0],
    ['PLY', 0, 0],
    ['STL', 0, 0],
  ]);
  expect(found.warnings).toEqual([]);
  expect(found.names).toEqual(expect.arrayContaining(['crate', 'patch']));
  // Pictures as they came, and the pixels as PNG.
  expect(found.kinds).toEqual(['image/jpeg', 'image/jpeg', 'image/jpeg', 'image/png']);
  const file = await download;
  expect(file.suggestedFilename()).toBe('yard.glb');
  const saved = join(folder, 'yard.glb');
  await file.saveAs(saved);
  const { issues } = await validateBytes(new Uint8Array(readFileSync(saved)));
  expect(issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
});
