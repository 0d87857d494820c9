import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgpu', 'webgl2'])('figures on %s', (backend) => {
  const held = testPage({ as: backend });

  test('two ways are compared, passes are timed, and a report says where a frame goes', async () => {
    const found = await held.page.evaluate(async (name) => {
      const { Scene, box, facing, openLens, plane, verdictText } = umber;
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const target = lens.createTarget({ width: 256, height: 200 });
      const scene = new Scene();
      scene.createNode({ rotation: facing([-1, -2, -1]), light: { type: 'directional', intensity: 3 } });
      const camera = scene.createNode({
        translation: [0, 8, 0],
        rotation: facing([0, -1, 0.001]),
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const geometry = plane({ width: 20, depth: 20 });
      // Sheets of glass all over the picture: what they cost is pixels.
      const sheets = Array.from({ length: 8 }, (_, i) =>
        scene.createNode({
          translation: [0, i * 0.1, 0],
          mesh: { geometry, material: { alphaMode: 'blend', baseColorFactor: [1, 0.5, 0, 0.2] } },
        }),
      );
      scene.createNode({ mesh: { geometry: box(), material: { batch: false } } });
      scene.createNode({ mesh: { geometry: box(), material: { unlit: true } } });
      const show = (count: number): void => sheets.forEach((sheet, i) => sheet.setVisible(i < count));
      const draw = (count: number) => () => {
        show(count);
        lens.draw(scene, camera, { target });
      };
      // One in a hundred times a verdict that is 99% sure is wrong: not twice.
      let equal = await lens.compare({ a: draw(3), b: draw(3) }, { turns: 8, frames: 1 });
      if (equal.verdict.kind === 'slower')
        equal = await lens.compare({ a: draw(3), b: draw(3) }, { turns: 8, frames: 1 });
      // Far apart, so that it shows on a machine that is busy with others, too.
      let slower = await lens.compare({ a: draw(0), b: draw(8) }, { turns: 8, frames: 1 });
      if (slower.verdict.kind === 'cannot tell')
        slower = await lens.compare({ a: draw(0), b: draw(8) }, { turns: 24, frames: 1 });
      show(8);
      const hasClock = await lens.timePasses(true);
      for (let i = 0; i < 6; i++) {
        lens.draw(scene, camera, { target });
        await target.read();
        await new Promise((resolve) => setTimeout(resolve, 20));
      }
      const gpu = lens.ledger.passes.find((part) => part.gpuMilliseconds !== undefined)?.gpuMilliseconds;
      const sum = lens.ledger.recent.at(lens.ledger.recent.length - 1, 'gpuMilliseconds');
      await lens.timePasses(false);
      const report = await lens.ledger.report();
      const apart = await lens.batchBreaks();
      const owners = lens.device.owners();
      const living = lens.ledger.living;
      const { recent } = lens.ledger;
      const before = { buffers: living.buffers, textures: living.textures };
      lens.dispose();
      return {
        equal: verdictText(equal.verdict),
        slower: [slower.verdict.kind, verdictText(slower.verdict), slower.b.draws, slower.a.draws],
        hasClock,
        gpu,
        sum,
        report,
        apart: apart.map(({ reason }) => reason),
        owned: owners.reduce((bytes, owner) => bytes + owner.bytes, 0),
        counted: before.buffers + before.textures,
        frames: [recent.length, recent.frames, recent.over('draws', 2) > 0],
        left: lens.device.owners().length,
        bytes: [living.bufferBytes, living.textureBytes],
      };
    }, backend);
    expect(found.equal).not.toContain('is slower');
    expect(found.slower.slice(0, 1)).toEqual(['slower']);
    expect(found.slower[1]).toMatch(
      /^b is slower than a: [\d.]+% more time \([\d.]+% to [\d.]+%, 99% sure\), by (8|24) pairs$/,
    );
    expect(found.hasClock).toBe(true);
    expect(found.gpu).toBeGreaterThan(0);
    expect(found.sum).toBeGreaterThan(0);
    expect(found.report.dominant).toBe('pixels');
    expect(found.report.text).toMatch(
      /^pixels dominate \([\d.]+ ms of [\d.]+ ms\)\n {2}a frame of 256 x 200 takes/,
    );
    expect(found.report.first.length).toBeGreaterThan(0);
    expect(found.apart).toContain('asked');
    expect(found.owned).toBeGreaterThan(256 * 200 * 4);
    expect(found.frames[0]).toBe(found.frames[1]);
    expect(found.left).toBe(0);
    expect(found.bytes).toEqual([0, 0]);
  });
});
