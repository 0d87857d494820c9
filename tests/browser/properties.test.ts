import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

/** A member, by kind and names, and another value than the scene's. */
const WRITES: [kind: string, names: string[], value: unknown][] = [
  ['node', ['translation'], [0.6, 0.4, 0]],
  ['node', ['rotation'], [0, 0.38, 0, 0.92]],
  ['node', ['scale'], [0.5, 0.5, 0.5]],
  ['node', ['visible'], false],
  ['light', ['color'], [1, 0, 0]],
  ['light', ['intensity'], 9],
  ['light', ['range'], 2.5],
  ['light', ['innerConeAngle'], 0.2],
  ['light', ['outerConeAngle'], 0.25],
  ['camera', ['yfov'], 1.2],
  ['camera', ['znear'], 4],
  ['camera', ['zfar'], 2.6],
  ['material', ['baseColorFactor'], [0, 1, 0, 1]],
  ['material', ['roughnessFactor'], 0.1],
  ['material', ['metallicFactor'], 1],
  ['material', ['emissiveFactor'], [0, 0, 1]],
  ['material', ['alphaMode'], 'blend'],
  ['material', ['unlit'], true],
  ['material', ['clearcoatFactor'], 1],
  ['material', ['sheenColorFactor'], [1, 1, 1]],
  ['material', ['baseColorTexture', 'transform', 'offset'], [0.25, 0.1]],
  ['material', ['baseColorTexture', 'transform', 'rotation'], 0.7],
  ['scene', ['clearColor'], [0, 0, 1, 1]],
  ['scene', ['fog'], { type: 'linear', color: [1, 0, 0], near: 1, far: 8 }],
  ['look', ['exposure'], 2],
  ['look', ['toneMapping'], 'aces'],
  ['look', ['contrast'], 1.5],
  ['look', ['saturation'], 0],
  ['look', ['whiteBalance'], 3000],
  ['look', ['vignette'], { weight: 1 }],
  ['view', ['show'], 'world-normals'],
  ['view', ['minPixels'], 5000],
];

describe.each<Backend>(['webgpu', 'webgl2'])('properties on %s', (backend) => {
  const held = testPage({ as: backend });

  test('what is written to a running scene by name is seen, and put back', async () => {
    const found = await held.page.evaluate(
      async ([name, writes]) => {
        const { Scene, box, facing, openLens, readMember, writeMember } = umber;
        const lens = await openLens(undefined, {
          backend: name,
          antialias: false,
          onMessage: () => undefined,
        });
        const target = lens.createTarget({ width: 48, height: 32 });
        const scene = new Scene({ clearColor: [0.2, 0.2, 0.2, 1] });
        const data = Uint8Array.from({ length: 4 * 4 * 4 }, (_, i) =>
          i % 4 === 3 ? 255 : ((i >> 2) * 53 + i * 29) % 256,
        );
        const texture = { image: { content: { kind: 'pixels' as const, width: 4, height: 4, data } } };
        const material = {
          baseColorFactor: [0.8, 0.6, 0.4, 0.7],
          metallicFactor: 0,
          baseColorTexture: { texture },
        };
        const node = scene.createNode({ mesh: { geometry: box(), material }, rotation: [0.2, 0.3, 0, 0.93] });
        const lamp = scene.createNode({
          translation: [1, 1.5, 2],
          rotation: facing([-1, -1.5, -2]),
          light: { type: 'spot', intensity: 30 },
        });
        const eye = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.7, znear: 0.1 },
        });
        const things: Record<string, object> = {
          node,
          scene,
          material,
          light: lamp.light!,
          camera: eye.camera!,
          look: lens.look,
          view: lens.view,
        };
        const picture = async (): Promise<Uint8Array> => {
          await lens.load(scene);
          lens.draw(scene, eye, { target });
          await new Promise((resolve) => setTimeout(resolve, 0));
          await lens.load(scene);
          lens.draw(scene, eye, { target });
          return target.read();
        };
        const differ = (a: Uint8Array, b: Uint8Array): number =>
          a.reduce((n, v, i) => n + Number(Math.abs(v - b[i]!) > 2), 0);
        let before = await picture();
        const out: [string, number, number][] = [];
        for (const [kind, names, value] of writes) {
          const thing = things[kind]!;
          const old = readMember(kind as 'node', thing, names);
          writeMember(kind as 'node', thing, names, value);
          const after = await picture();
          writeMember(kind as 'node', thing, names, old);
          const back = await picture();
          out.push([`${kind}.${names.join('.')}`, differ(before, after), differ(before, back)]);
          before = back;
        }
        lens.dispose();
        return out;
      },
      [backend, WRITES] as const,
    );
    for (const [name, changed, left] of found) {
      expect([name, changed > 20]).toEqual([name, true]);
      expect([name, left]).toEqual([name, 0]);
    }
    expect(found.length).toBe(WRITES.length);
  });
});
