import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgpu', 'webgl2'])('ways of drawing on %s', (backend) => {
  const held = testPage({ as: backend });

  test('forward, prepass and deferred give one picture, of all that a scene may have', async () => {
    const found = await held.page.evaluate(async (name) => {
      const {
        Scene,
        Swarm,
        box,
        compileMaterialShader,
        facing,
        openLens,
        placeDecal,
        plane,
        skyPanorama,
        sphere,
        sunIrradiance,
      } = umber;
      const [width, height] = [112, 84];
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const target = lens.createTarget({ width, height });
      const sun: [number, number, number] = [-0.6, 0.64, 0.48];
      const panorama = skyPanorama({ sunDirection: sun });
      const scene = new Scene();
      scene.imageLight = { panorama };
      scene.backdrop = { panorama };
      scene.fog = { type: 'exponential', density: 0.015, color: 'sky' };
      scene.createNode({
        rotation: facing(sun.map((v) => -v) as never),
        light: {
          type: 'directional',
          intensity: Math.max(...sunIrradiance(sun)) / 2,
          shadow: { distance: 30 },
        },
      });
      // More lights than one picture can have without cells.
      for (let i = 0; i < 70; i++)
        scene.createNode({
          translation: [(i % 10) - 4.5, 0.4, Math.floor(i / 10) - 3],
          light: { type: 'point', intensity: 3, range: 1.5, color: [1, (i % 3) / 2, (i % 5) / 4] },
        });
      const pixels = new Uint8Array(4 * 64);
      for (let i = 0; i < 64; i++) pixels.set([200, 180, 90, (i + (i >> 3)) % 2 ? 255 : 0], i * 4);
      const checked = { image: { content: { kind: 'pixels', width: 8, height: 8, data: pixels } } } as never;
      const shader = compileMaterialShader(`
        fn displace(v: Vertex) -> Vertex { var out = v; out.position *= 1 + 0.1 * sin(9 * v.position.y); return out; }
        fn surface(p: Fragment) -> Surface {
          var out = surfaceDefaults(p);
          out.baseColor = vec3f(0.2, 0.5, 0.8);
          out.emissive = vec3f(0, 2, 0) * step(0.8, p.normal.y);
          out.roughness = 0.3;
          return out;
        }`);
      const stepped = compileMaterialShader(`
        fn light(s: Surface, l: Light) -> vec3f { return s.baseColor * l.color * step(0.3, dot(s.normal, l.direction)); }`);
      const ball = sphere({ radius: 0.6, slices: 24, stacks: 16 });
      const materials = [
        { baseColorFactor: [0.9, 0.9, 0.9, 1], metallicFactor: 1, roughnessFactor: 0.2 },
        { baseColorTexture: { texture: checked }, alphaMode: 'mask', doubleSided: true, metallicFactor: 0 },
        { shader },
        { shader: stepped, baseColorFactor: [0.9, 0.4, 0.2, 1] },
        { clearcoatFactor: 1, baseColorFactor: [0.6, 0.05, 0.05, 1], metallicFactor: 0 },
        { unlit: true, baseColorFactor: [0.9, 0.8, 0.1, 1] },
        { alphaMode: 'blend', baseColorFactor: [0.1, 0.3, 0.9, 0.5] },
        { emissiveFactor: [4, 1, 0], baseColorFactor: [0, 0, 0, 1] },
      ];
      scene.createNode({
        mesh: {
          geometry: plane({ width: 14, depth: 10 }),
          material: { metallicFactor: 0, roughnessFactor: 0.8 },
        },
      });
      materials.forEach((material, i) =>
        scene.createNode({
          translation: [(i % 4) * 2 - 3, 0.9, Math.floor(i / 4) * 2.4 - 1.6],
          scale: i === 0 ? [-1, 1, 1] : [1, 1, 1],
          mesh: { geometry: ball, material: material as never },
        }),
      );
      scene
        .createNode({
          translation: [0, 0.5, 2.8],
          mesh: { geometry: box({ width: 6, height: 0.4, depth: 0.3 }), material: { metallicFactor: 0 } },
        })
        .setShadows(true, false);
      // A stain that runs over a ball and the floor.
      const tar = {
        baseColorFactor: [0.02, 0.02, 0.02, 0.8],
        alphaMode: 'blend',
        metallicFactor: 0,
      } as never;
      const stains = placeDecal(scene, { position: [-3, 0.3, -1.6], size: [3, 1], depth: 3, material: tar });
      const translations = Array.from({ length: 90 }, (_, i) =>
        i % 3 === 1 ? 0.15 : Math.sin(i * 12.9) * 5,
      );
      scene.createNode({
        mesh: new Swarm({
          geometry: box({ width: 0.2, height: 0.3, depth: 0.2 }),
          material: { metallicFactor: 0, baseColorFactor: [0.2, 0.6, 0.2, 1] },
          transforms: { translations },
        }),
      });
      const camera = scene.createNode({
        translation: [1, 5, 8],
        rotation: facing([-0.1, -0.58, -1]),
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const pictures: number[][] = [];
      const passes: string[][] = [];
      // Each interface draws a part of it: making so many pipelines takes its time.
      const paths = name === 'webgl2' ? (['forward', 'prepass', 'deferred'] as const) : [];
      for (const path of paths) {
        lens.view.renderPath = path;
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        await lens.whenReady();
        lens.draw(scene, camera, { target });
        pictures.push([...(await target.read())]);
        passes.push(lens.ledger.passes.map((part) => part.name));
      }
      // Parallel rays, and what stands before something that is seen through.
      camera.setCamera({ type: 'orthographic', xmag: 6, ymag: 4.5, znear: 0.1, zfar: 30 });
      const glass = scene.createNode({
        translation: [2, 2.5, 3],
        mesh: {
          geometry: ball,
          material: { transmissionFactor: 1, roughnessFactor: 0.1, metallicFactor: 0 } as never,
        },
      });
      for (const path of name === 'webgpu' ? (['forward', 'deferred'] as const) : []) {
        lens.view.renderPath = path;
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        await lens.whenReady();
        lens.draw(scene, camera, { target });
        pictures.push([...(await target.read())]);
      }
      glass.remove();
      const left = lens.ledger.waiting;
      let wrong = '';
      try {
        lens.view.renderPath = 'sideways' as never;
      } catch (error) {
        wrong = String((error as { code: string }).code);
      }
      lens.dispose();
      return { pictures, passes, left, wrong, stains: stains.length };
    }, backend);
    const differs = (a: number[], b: number[]): { mean: number; off: number } => {
      let [sum, off] = [0, 0];
      for (let i = 0; i < a.length; i += 4) {
        const d = Math.max(...[0, 1, 2].map((k) => Math.abs(a[i + k]! - b[i + k]!)));
        sum += d;
        if (d > 6) off++;
      }
      return { mean: sum / (a.length / 4), off };
    };
    // Directions and roughness are kept in half floats; edges of shadows may fall to either side.
    const agree = (a: number[], b: number[]): void => {
      const { mean, off } = differs(a, b);
      expect(mean).toBeLessThan(0.3);
      expect(off).toBeLessThan(30);
    };
    const [first, second, third] = found.pictures as [number[], number[], number[]?];
    expect(new Set(first.map((v, i) => (i % 4 === 3 ? -1 : v >> 3))).size).toBeGreaterThan(20);
    if (third) {
      // Where two surfaces have one depth, the later one wins instead of the first.
      expect(differs(first, second).off).toBeLessThan(8);
      agree(first, third);
      expect(found.passes[0]).not.toContain('gather');
      expect(found.passes[1]).toContain('depth');
      expect(found.passes[2]).toEqual(expect.arrayContaining(['gather', 'light']));
    } else agree(first, second);
    expect(found.stains).toBe(3);
    expect([found.left, found.wrong]).toEqual([0, 'lens/path']);
  });
});
