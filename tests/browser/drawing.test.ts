import type { Backend, Lens, Scene, SceneNode } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  test('what is nearer hides what is farther, whatever the order of creation', async () => {
    const pixel = await stage.page.evaluate(async () => {
      const { openLens, Scene, box } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1 });
      const scene = new Scene();
      const put = (z: number, color: [number, number, number, number]): unknown =>
        scene.createNode({
          translation: [0, 0, z],
          mesh: { geometry: box(), material: { unlit: true, baseColorFactor: color } },
        });
      put(0, [0, 1, 0, 1]);
      put(-3, [1, 0, 0, 1]);
      put(-40000, [0, 0, 1, 1]);
      const camera = scene.createNode({
        translation: [0, 0, 4],
        camera: { type: 'perspective', yfov: 0.3, znear: 0.01 },
      });
      const target = lens.createTarget({ width: 9, height: 9 });
      lens.draw(scene, camera, { target });
      const out = [...(await target.read()).slice(160, 164)];
      lens.dispose();
      return out;
    });
    expect(pixel).toEqual([0, 255, 0, 255]);
  });

  test('alpha: masked texels are cut out, blended ones mix, opaque ones ignore it', async () => {
    const pixels = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, axisAngle } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const out: Record<string, number[]> = {};
      for (const [name, material] of Object.entries({
        opaque: { alphaMode: 'opaque' as const },
        mask: { alphaMode: 'mask' as const, alphaCutoff: 0.6 },
        blend: { alphaMode: 'blend' as const },
      })) {
        const scene = new Scene({ clearColor: [0, 0, 1, 1] });
        scene.createNode({
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          mesh: {
            geometry: plane(),
            material: { ...material, unlit: true, baseColorFactor: [0.5, 0, 0, 0.5] },
          },
        });
        const camera = scene.createNode({
          translation: [0, 0, 1],
          camera: { type: 'orthographic', xmag: 0.4, ymag: 0.4, znear: 0, zfar: 5 },
        });
        const target = lens.createTarget({ width: 3, height: 3 });
        lens.draw(scene, camera, { target });
        out[name] = [...(await target.read()).slice(16, 20)];
      }
      lens.dispose();
      return out;
    });
    // sRGB of linear 0.5 is 188, of 0.25 is 137.
    expect(pixels['opaque']).toEqual([188, 0, 0, 255]);
    expect(pixels['mask']).toEqual([0, 0, 255, 255]);
    expect(pixels['blend']![0]).toBe(137);
    expect(pixels['blend']![3]).toBe(255);
  });

  test('back faces are left out unless the material is double-sided; mirroring keeps the right side', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, axisAngle } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const out: Record<string, number> = {};
      for (const back of [false, true]) {
        for (const doubleSided of [false, true]) {
          for (const mirrored of [false, true]) {
            const scene = new Scene();
            scene.createNode({
              rotation: axisAngle([1, 0, 0], back ? -Math.PI / 2 : Math.PI / 2),
              scale: [mirrored ? -1 : 1, 1, 1],
              mesh: { geometry: plane(), material: { doubleSided, unlit: true } },
            });
            const camera = scene.createNode({
              translation: [0, 0, 1],
              camera: { type: 'orthographic', xmag: 0.4, ymag: 0.4, znear: 0, zfar: 5 },
            });
            const target = lens.createTarget({ width: 3, height: 3 });
            lens.draw(scene, camera, { target });
            out[`${back ? 'back' : 'front'} ${doubleSided} ${mirrored}`] = (await target.read())[16]!;
          }
        }
      }
      lens.dispose();
      return out;
    });
    for (const [name, red] of Object.entries(seen))
      expect([name, red]).toEqual([name, name.startsWith('back false') ? 0 : 255]);
  });

  test('textures: first row on top, both coordinate sets, transforms, vertex colours', async () => {
    const pixels = await stage.page.evaluate(async () => {
      const { openLens, Scene, geometryFrom } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      // Red, green over blue, white.
      const data = new Uint8Array([255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 255, 255, 255, 255]);
      const texture = {
        image: { content: { kind: 'pixels' as const, width: 2, height: 2, data } },
        sampler: {
          magFilter: 'nearest' as const,
          minFilter: 'nearest' as const,
          mipmapFilter: 'none' as const,
        },
      };
      const quad = (extra: Record<string, number[]>): umberGeometry =>
        geometryFrom(
          {
            position: [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0],
            texcoord0: [0, 1, 1, 1, 1, 0, 0, 0],
            ...extra,
          },
          [0, 1, 2, 0, 2, 3],
        );
      type umberGeometry = ReturnType<typeof geometryFrom>;
      const draw = async (geometry: umberGeometry, use: object): Promise<number[][]> => {
        const scene = new Scene();
        scene.createNode({
          mesh: { geometry, material: { unlit: true, baseColorTexture: { texture, ...use } } },
        });
        const camera = scene.createNode({
          translation: [0, 0, 1],
          camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 5 },
        });
        const target = lens.createTarget({ width: 2, height: 2 });
        lens.draw(scene, camera, { target });
        const all = await target.read();
        return [0, 4, 8, 12].map((i) => [...all.slice(i, i + 3)]);
      };
      const out = {
        plain: await draw(quad({}), {}),
        second: await draw(quad({ texcoord1: [0, 0, 1, 0, 1, 1, 0, 1] }), { texCoord: 1 }),
        turned: await draw(quad({}), { transform: { offset: [0, 1], rotation: Math.PI / 2, scale: [1, 1] } }),
        tinted: await draw(quad({ color0: [1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1] }), {}),
      };
      lens.dispose();
      return out;
    });
    const [r, g, b, w] = [
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255],
      [255, 255, 255],
    ];
    expect(pixels.plain).toEqual([r, g, b, w]);
    expect(pixels.second).toEqual([b, w, r, g]);
    // KHR_texture_transform by hand: u' = v, v' = 1 - u at a quarter turn with offset (0, 1).
    expect(pixels.turned).toEqual([b, r, w, g]);
    expect(pixels.tinted).toEqual([r, [0, 0, 0], [0, 0, 0], r]);
  });

  test('antialiasing gives edges in-between values, and none without it', async () => {
    const counts = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, axisAngle } = umber;
      const out: number[] = [];
      for (const antialias of [true, false]) {
        const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias });
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        const tilted = scene.createNode({ rotation: axisAngle([0, 0, 1], 0.3) });
        scene.createNode({
          parent: tilted,
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          mesh: { geometry: plane(), material: { unlit: true } },
        });
        const camera = scene.createNode({
          translation: [0, 0, 1],
          camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 5 },
        });
        const target = lens.createTarget({ width: 64, height: 64 });
        lens.draw(scene, camera, { target });
        out.push((await target.read()).filter((v, i) => i % 4 === 0 && v > 0 && v < 255).length);
        lens.dispose();
      }
      return out;
    });
    expect(counts[0]).toBeGreaterThan(40);
    expect(counts[1]).toBe(0);
  });
});

describe('on a canvas, and by the device alone', () => {
  const stage = testPage();

  test('the canvas follows its size on the page, and the picture is never stretched', async () => {
    const measure = (): Promise<{ size: number[]; box: number[] }> =>
      stage.page.evaluate(async () => {
        const frame = (): Promise<unknown> => new Promise((done) => requestAnimationFrame(done));
        const canvas = document.querySelector('canvas')!;
        type Kept = { lens: Lens; scene: Scene; camera: SceneNode };
        const held = window as unknown as { kept?: Kept };
        if (!held.kept) {
          const { openLens, Scene, plane, axisAngle } = umber;
          const lens = await openLens(canvas, { antialias: false });
          const scene = new Scene({ clearColor: [0, 0, 0, 1] });
          scene.createNode({
            rotation: axisAngle([1, 0, 0], Math.PI / 2),
            mesh: { geometry: plane(), material: { unlit: true } },
          });
          const camera = scene.createNode({
            translation: [0, 0, 2],
            camera: { type: 'perspective', yfov: 1, znear: 0.1 },
          });
          held.kept = { lens, scene, camera };
        }
        await frame();
        await frame();
        const { lens, scene, camera } = held.kept!; // made above
        lens.draw(scene, camera);
        const pixels = await lens.device.readTexture(lens.device.canvasTexture!);
        let [left, right, top, bottom] = [1e9, -1, 1e9, -1];
        for (let i = 0; i < pixels.length; i += 4) {
          if (pixels[i]! < 128) continue;
          const [x, y] = [(i / 4) % canvas.width, Math.floor(i / 4 / canvas.width)];
          [left, right, top, bottom] = [
            Math.min(left, x),
            Math.max(right, x),
            Math.min(top, y),
            Math.max(bottom, y),
          ];
        }
        return { size: [canvas.width, canvas.height], box: [right - left + 1, bottom - top + 1] };
      });
    const wide = await measure();
    expect(wide.size).toEqual([320, 200]);
    expect(Math.abs(wide.box[0]! - wide.box[1]!)).toBeLessThanOrEqual(1);
    await stage.page.setViewportSize({ width: 150, height: 240 });
    const tall = await measure();
    expect(tall.size).toEqual([150, 240]);
    expect(Math.abs(tall.box[0]! - tall.box[1]!)).toBeLessThanOrEqual(1);
    await stage.page.setViewportSize({ width: 320, height: 200 });
  });

  test('a shader that does not compile is reported with its line, when it is drawn with', async () => {
    const error = await stage.page.evaluate(async () => {
      const lens = await umber.openLens(document.createElement('canvas'));
      try {
        const shader = lens.device.createShader({
          label: 'kelp',
          glsl: {
            vertex: { text: '#version 300 es\nvoid main() {\n  gl_Position = vec4(oops);\n}' },
            fragment: { text: '#version 300 es\nvoid main() {}' },
          },
        });
        const pipeline = lens.device.createRenderPipeline({ shader });
        const pass = lens.device.beginRenderPass({
          colorAttachments: [{ texture: lens.device.canvasTexture!, clearValue: [0, 0, 0, 1] }],
        });
        pass.setPipeline(pipeline);
        pass.draw(3);
        return '';
      } catch (e) {
        return String(e);
      } finally {
        lens.dispose();
      }
    });
    expect(error).toContain('kelp (vertex)');
    expect(error).toContain('3 | gl_Position = vec4(oops);');
  });

  test('several color attachments and float read-back, by the device alone', async () => {
    const out = await stage.page.evaluate(async () => {
      const lens = await umber.openLens(document.createElement('canvas'));
      const { device } = lens;
      const make = (format: 'rgba8unorm' | 'rgba32float'): ReturnType<typeof device.createTexture> =>
        device.createTexture({ width: 2, height: 2, format, renderable: true });
      const [a, b] = [make('rgba8unorm'), make('rgba32float')];
      const shader = device.createShader({
        glsl: {
          vertex: {
            text: '#version 300 es\nin vec2 at;\nvoid main() { gl_Position = vec4(at, 0.5, 1.0); }',
          },
          fragment: {
            text: '#version 300 es\nprecision highp float;\nlayout(location = 0) out vec4 a;\nlayout(location = 1) out vec4 b;\nvoid main() { a = vec4(1.0, 0.5, 0.0, 1.0); b = vec4(gl_FragCoord.xy, -7.5, 1000.0); }',
          },
        },
      });
      const pipeline = device.createRenderPipeline({
        shader,
        vertexBuffers: [
          { arrayStride: 8, attributes: [{ shaderLocation: 0, format: 'float32x2', offset: 0 }] },
        ],
        targets: [{ format: 'rgba8unorm' }, { format: 'rgba32float' }],
      });
      const vertices = device.createBuffer({ usage: 'vertex', size: 24 });
      device.writeBuffer(vertices, 0, new Float32Array([-1, -1, 3, -1, -1, 3]));
      const pass = device.beginRenderPass({
        colorAttachments: [{ texture: a, clearValue: [0, 0, 0, 0] }, { texture: b }],
      });
      pass.setPipeline(pipeline);
      pass.setVertexBuffer(0, vertices);
      pass.draw(3);
      pass.end();
      const result = [[...(await device.readTexture(a))], [...(await device.readTexture(b))]];
      lens.dispose();
      return result;
    });
    expect(out[0]!.slice(0, 4)).toEqual([255, 128, 0, 255]);
    // Rows run from the top, as in WebGPU.
    expect(out[1]).toEqual([
      0.5, 0.5, -7.5, 1000, 1.5, 0.5, -7.5, 1000, 0.5, 1.5, -7.5, 1000, 1.5, 1.5, -7.5, 1000,
    ]);
  });
});
