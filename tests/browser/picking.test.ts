import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgpu', 'webgl2'])('rays on %s', (backend) => {
  const held = testPage({ as: backend });

  test('meet at every pixel what is drawn there: turned, mirrored, flat, bent, seen from both sides', async () => {
    const found = await held.page.evaluate(async (name) => {
      const {
        Scene,
        openLens,
        castRay,
        cameraRay,
        box,
        torus,
        plane,
        sphere,
        poseNode,
        axisAngle,
        attributeFrom,
        facing,
      } = umber;
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const color = (i: number): [number, number, number, number] => [
        (i & 1) * 0.5 + 0.5,
        (i & 2) * 0.25 + 0.5,
        i / 8,
        1,
      ];
      const colors = new Map<string, number[]>();
      let count = 0;
      const put = (
        geometry: ReturnType<typeof box>,
        options: object,
        doubleSided = false,
      ): ReturnType<typeof scene.createNode> => {
        const node = scene.createNode({
          name: `thing ${count}`,
          ...options,
          mesh: { geometry, material: { unlit: true, doubleSided, baseColorFactor: color(count) } },
        });
        colors.set(node.name, color(count++));
        return node;
      };
      put(box(), { translation: [-1.2, 0.2, 0], rotation: axisAngle([1, 2, 3], 0.7) });
      put(torus(), {
        translation: [0.4, 0.3, -0.5],
        rotation: axisAngle([1, 0, 0], 1),
        scale: [-1.6, 1.2, 1.4],
      });
      put(
        plane({ width: 1.4, depth: 1 }),
        { translation: [1.5, -0.2, 0.3], rotation: axisAngle([1, 0, 0], 2) },
        true,
      );
      // Seen from behind alone, so it is not there.
      put(plane({ width: 3, depth: 3 }), { translation: [0, 0, 0.8], rotation: axisAngle([1, 0, 0], -1.6) });
      const bent = sphere({ radius: 0.5 });
      const n = bent.attributes['position']!.count;
      bent.attributes['joints0'] = attributeFrom(new Float32Array(n * 4), 4);
      bent.attributes['weights0'] = attributeFrom(
        Float32Array.from({ length: n * 4 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
        4,
      );
      const joint = scene.createNode({ translation: [0.1, -0.8, 0.4], scale: [-1.4, 0.6, 1] });
      poseNode(put(bent, { translation: [30, 0, 0] }), { skin: { joints: [joint] } });
      const camera = scene.createNode({
        translation: [0.4, 0.9, 4],
        rotation: facing([-0.1, -0.22, -1]),
        camera: { type: 'perspective', yfov: 0.7, znear: 0.1 },
      });
      const [width, height] = [96, 60];
      const target = lens.createTarget({ width, height });
      await lens.load(scene);
      lens.draw(scene, camera, { target });
      const pixels = await target.read();
      const encoded = (c: number): number =>
        Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055));
      let off = 0;
      const met = new Map<string, number>();
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const at = (y * width + x) * 4;
          // Where an edge goes through the middle of a pixel rounding decides: GPUs may put corners on sixteenths of a pixel.
          const near = [0, 0.05, -0.05];
          const isDrawn = near
            .flatMap((dx) => near.map((dy) => [dx, dy]))
            .some(([dx, dy], i) => {
              const hit = castRay(scene, cameraRay(camera, x + 0.5 + dx!, y + 0.5 + dy!, width, height));
              if (hit && i === 0) met.set(hit.node.name, (met.get(hit.node.name) ?? 0) + 1);
              const wanted = hit ? colors.get(hit.node.name)! : [0, 0, 0, 1];
              return [0, 1, 2].every((k) => Math.abs(pixels[at + k]! - encoded(wanted[k]!)) <= 2);
            });
          if (!isDrawn) off++;
        }
      lens.dispose();
      return { off, met: [...met] };
    }, backend);
    expect(found.met.map(([name]) => name).sort()).toEqual(['thing 0', 'thing 1', 'thing 2', 'thing 4']);
    for (const [, pixels] of found.met) expect(pixels).toBeGreaterThan(60);
    expect(found.off).toBe(0);
  });
});
