import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgpu', 'webgl2'])('picking on %s', (backend) => {
  const held = testPage({ as: backend });

  test('tells where, what and how; hidden, filtered and cropped things by the camera', async () => {
    const found = await held.page.evaluate(async (name) => {
      const { Scene, openLens, box, plane } = umber;
      const lens = await openLens(undefined, { backend: name });
      const scene = new Scene();
      scene.createNode({ light: { type: 'ambient', intensity: Math.PI } });
      const size = { width: 200, height: 100 };
      const wall = scene.createNode({ name: 'wall', mesh: { geometry: plane({ width: 4, depth: 4 }) } });
      const crate = scene.createNode({
        name: 'crate',
        mesh: [
          { geometry: box({ width: 0.2, height: 0.2, depth: 0.2 }) },
          { geometry: box() },
          { geometry: box({ width: 0.1, height: 0.9 }) },
        ],
        translation: [0.5, 0.5, 0],
      });
      const camera = scene.createNode({
        translation: [0, 5, 0],
        rotation: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2],
        camera: { type: 'orthographic', xmag: 2, ymag: 1, znear: 0.1, zfar: 10 },
      });
      // A metre is 50 pixels; the crate covers x from 100 to 150.
      const told = [];
      for (const gpu of [false, true]) {
        const at = async (x: number, y: number, more: object = {}): Promise<string> => {
          const hit = await lens.pick(scene, camera, x, y, { size, gpu, ...more });
          const round = (v: readonly number[]): string => v.map((p) => +p.toFixed(3) + 0).join(' ');
          return hit
            ? `${hit.node.name} ${hit.primitive} at ${round(hit.point)} facing ${round(hit.normal)} ${hit.distance.toFixed(3)} away, uv ${hit.texcoord!.map((p) => p.toFixed(2)).join(' ')}`
            : 'nothing';
        };
        const names = async (x: number, width: number, more: object = {}): Promise<string> =>
          (await lens.pickRegion(scene, camera, { x, y: 40, width, height: 20 }, { size, gpu, ...more }))
            .map((node) => node.name)
            .join(' ');
        told.push({
          crate: await at(110.5, 50.5),
          wall: await at(80.5, 50.5),
          filtered: await at(110.5, 50.5, { filter: (node: unknown) => node !== crate }),
          outside: await at(110.5, 50.5, { filter: () => false }),
          region: [
            await names(90, 40),
            await names(20, 20),
            await names(90, 40, { filter: (node: unknown) => node !== wall }),
          ],
          // The wall under the crate is there and cannot be seen.
          under: await names(110, 20),
        });
      }
      const all = (await lens.pickAll(scene, camera, 110.5, 50.5, { size })).map(({ node }) => node.name);
      // Beyond its reach the camera draws nothing.
      camera.setCamera({ type: 'orthographic', xmag: 2, ymag: 1, znear: 0.1, zfar: 4.5 });
      const short = (await lens.pick(scene, camera, 80.5, 50.5, { size }))?.node.name ?? 'nothing';
      camera.setCamera({ type: 'orthographic', xmag: 2, ymag: 1, znear: 4.2, zfar: 9 });
      const near = (await lens.pick(scene, camera, 110.5, 50.5, { size }))?.node.name ?? 'nothing';
      const error = await lens.pick(scene, camera, 1, 1).then(
        () => '',
        (reason: unknown) => String(reason),
      );
      lens.dispose();
      return { told, all, short, near, error };
    }, backend);
    const [script, gpu] = found.told;
    expect(script).toEqual({
      crate: 'crate 1 at 0.21 1 0.01 facing 0 1 0 4.000 away, uv 0.21 0.51',
      wall: 'wall 0 at -0.39 0 0.01 facing 0 1 0 5.000 away, uv 0.40 0.50',
      filtered: 'wall 0 at 0.21 0 0.01 facing 0 1 0 5.000 away, uv 0.55 0.50',
      outside: 'nothing',
      region: ['wall crate', 'wall', 'crate'],
      under: 'wall crate',
    });
    expect(gpu).toEqual({ ...script, under: 'crate' });
    expect(found.all).toEqual(['crate', 'wall']);
    expect([found.short, found.near]).toEqual(['nothing', 'wall']);
    expect(found.error).toContain('has no canvas');
  });

  test('asks the GPU for what hooks displace, march and cut, and finds fingers something near', async () => {
    const found = await held.page.evaluate(async (name) => {
      const { Scene, openLens, box, plane, createMaterial, compileMaterialShader } = umber;
      const lens = await openLens(undefined, { backend: name });
      const scene = new Scene();
      scene.createNode({ light: { type: 'ambient', intensity: Math.PI } });
      const size = { width: 100, height: 100 };
      const lifted = compileMaterialShader(
        'fn displace(vertex: Vertex) -> Vertex { var v = vertex; v.position.x += 3; return v; }',
      );
      const ball = compileMaterialShader(`fn march(ray: Ray) -> Hit {
  let b = dot(ray.origin, ray.direction);
  let h = b * b - dot(ray.origin, ray.origin) + 0.16;
  if h < 0 { return miss(); }
  let at = ray.origin - ray.direction * (b + sqrt(h));
  return hitAt(at, normalize(at));
}`);
      const cut = compileMaterialShader(
        'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.alpha = step(0.5, fract(p.texcoord0.x * 2)); return s; }',
      );
      const put = (label: string, x: number, material: object, geometry = box()): void =>
        void scene.createNode({ name: label, translation: [x, 0, 0], mesh: { geometry, material } });
      put('lifted', -3, createMaterial(lifted));
      put('ball', -1.5, createMaterial(ball));
      put('cut', 2, { ...createMaterial(cut), alphaMode: 'mask' }, plane({ width: 1, depth: 1 }));
      scene.find('cut')!.setRotation(Math.SQRT1_2, 0, 0, Math.SQRT1_2);
      const camera = scene.createNode({
        translation: [0, 0, 5],
        camera: { type: 'orthographic', xmag: 2.5, ymag: 2.5, znear: 0.1, zfar: 10 },
      });
      const at = async (x: number, y: number, more: object = {}): Promise<string> => {
        const hit = await lens.pick(scene, camera, x, y, { size, gpu: true, ...more });
        return hit ? `${hit.node.name} ${hit.distance.toFixed(2)}` : 'nothing';
      };
      // A metre is 20 pixels, the middle is at 50.
      const told = {
        lifted: await at(50.5, 50.5),
        ball: await at(20.5, 49.5),
        besideBall: await at(12, 42),
        holes: [await at(82.5, 50.5), await at(87.5, 50.5), await at(92.5, 50.5), await at(97.5, 50.5)],
        near: [
          await at(62.5, 50.5),
          await at(62.5, 50.5, { radius: 4 }),
          await at(62.5, 50.5, { radius: 2 }),
        ],
      };
      lens.dispose();
      return told;
    }, backend);
    expect(found).toEqual({
      lifted: 'lifted 4.50',
      ball: 'ball 4.60',
      besideBall: 'nothing',
      holes: ['nothing', 'cut 5.00', 'nothing', 'cut 5.00'],
      near: ['nothing', 'lifted 4.50', 'nothing'],
    });
  });

  test('a bent, morphed and mirrored mesh is where the script says, within the error of floats', async () => {
    const found = await held.page.evaluate(async (name) => {
      const {
        Scene,
        openLens,
        sphere,
        poseNode,
        attributeFrom,
        axisAngle,
        castRay,
        cameraRay,
        posedGeometry,
        attributeFloats,
      } = umber;
      const lens = await openLens(undefined, { backend: name });
      const scene = new Scene();
      scene.createNode({ light: { type: 'ambient', intensity: Math.PI } });
      const geometry = sphere({ radius: 0.8, slices: 24, stacks: 12 });
      const position = geometry.attributes['position']!;
      const n = position.count;
      const place = new Float32Array(position.bytes.buffer, position.bytes.byteOffset, n * 3);
      geometry.attributes['joints0'] = attributeFrom(
        Float32Array.from({ length: n * 4 }, (_, i) => i % 4),
        4,
      );
      const weights = new Float32Array(n * 4);
      for (let v = 0; v < n; v++) {
        const share = (place[v * 3 + 1]! + 0.8) / 1.6;
        weights.set([share * 0.7, (1 - share) * 0.7, share * 0.3, (1 - share) * 0.3], v * 4);
      }
      geometry.attributes['weights0'] = attributeFrom(weights, 4);
      const swell = Float32Array.from(place, (part, i) => (i % 3 === 0 ? part * 0.5 : -part * 0.1));
      const bent = {
        ...geometry,
        targets: [{ name: 'swell', attributes: { position: attributeFrom(swell, 3) } }],
      };
      const joints = [0, 1, 2, 3].map((i) =>
        scene.createNode({
          translation: [0.1 * i - 0.2, 0.05 * i, 0],
          rotation: axisAngle([1, i, 0.5], 0.2 * i),
          scale: i === 2 ? [-1.1, 0.9, 1] : [-1, 1.2, 1],
        }),
      );
      const node = scene.createNode({
        name: 'bent',
        mesh: { geometry: bent },
        translation: [4, 4, 4],
        scale: [1, -1, 2],
      });
      poseNode(node, { skin: { joints }, weights: [0.6] });
      const camera = scene.createNode({
        translation: [0.2, 0.1, 4],
        camera: { type: 'perspective', yfov: 0.6, znear: 0.1 },
      });
      const size = { width: 64, height: 48 };
      let [met, most, mostTurned, differing] = [0, 0, 0, 0];
      for (let y = 2; y < 48; y += 7)
        for (let x = 2; x < 64; x += 8) {
          const [px, py] = [x + 0.5, y + 0.5];
          const hit = castRay(scene, cameraRay(camera, px, py, size.width, size.height), {});
          const seen = await lens.pick(scene, camera, px, py, { size, gpu: true });
          if (Boolean(hit) !== Boolean(seen)) differing++;
          if (!hit || !seen) continue;
          met++;
          most = Math.max(most, Math.hypot(...hit.point.map((v, k) => v - seen.point[k]!)));
          mostTurned = Math.max(mostTurned, Math.hypot(...hit.normal.map((v, k) => v - seen.normal[k]!)));
        }
      // Points are one pixel each, whose place nothing is mixed from.
      node.setMesh({ geometry: { ...bent, mode: 'points', indices: undefined } as never });
      poseNode(node, { skin: { joints }, weights: [0.6] });
      const posed = attributeFloats(posedGeometry(node).attributes['position']!);
      const m = node.readWorld(new Float32Array(12));
      let [points, off] = [0, 0];
      const flat = new Set<string>();
      for (let v = 0; v < n; v += 17) {
        const at = [0, 4, 8].map(
          (r) =>
            m[r]! * posed[v * 3]! + m[r + 1]! * posed[v * 3 + 1]! + m[r + 2]! * posed[v * 3 + 2]! + m[r + 3]!,
        );
        const scale = size.height / (2 * Math.tan(0.3) * (4 - at[2]!));
        const [px, py] = [size.width / 2 + (at[0]! - 0.2) * scale, size.height / 2 - (at[1]! - 0.1) * scale];
        const seen = await lens.pick(scene, camera, px, py, { size, gpu: true });
        if (!seen || flat.has(`${Math.floor(px)} ${Math.floor(py)}`)) continue;
        flat.add(`${Math.floor(px)} ${Math.floor(py)}`);
        let least = 1;
        for (let w = 0; w < n; w++) {
          const p = [0, 4, 8].map(
            (r) =>
              m[r]! * posed[w * 3]! +
              m[r + 1]! * posed[w * 3 + 1]! +
              m[r + 2]! * posed[w * 3 + 2]! +
              m[r + 3]!,
          );
          least = Math.min(least, Math.hypot(...p.map((part, k) => part - seen.point[k]!)));
        }
        points++;
        off = Math.max(off, least);
      }
      lens.dispose();
      return { met, most, mostTurned, differing, points, off };
    }, backend);
    expect(found.met).toBeGreaterThan(9);
    expect(found.differing).toBe(0);
    // Corners are put on sixteenths of a pixel, of 5 cm each, and steep surfaces are far behind beside it.
    expect(found.most).toBeLessThan(2e-2);
    expect(found.mostTurned).toBeLessThan(5e-2);
    expect(found.points).toBeGreaterThan(7);
    expect(found.off).toBeLessThan(3e-6);
  });
});
