import { readdirSync, readFileSync } from 'node:fs';
import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });

describe.each<Backend>(['webgpu', 'webgl2'])('the device alone, on %s', (backend) => {
  test('several targets, depth, dynamic offsets and instances', async () => {
    const out = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      const shader = device.createShader(
        umber.compileModule(
          `struct Place { offset: vec2f, depth: f32 }
           @group(0) @binding(0) var<uniform> place: Place;
           struct Varying { @builtin(position) at: vec4f, @location(0) color: vec4f }
           @vertex fn v(@location(0) corner: vec2f, @location(1) tint: vec4f) -> Varying {
             return Varying(vec4f(corner + place.offset, place.depth, 1), tint);
           }
           struct Out { @location(0) color: vec4f, @location(1) data: vec4f }
           @fragment fn f(i: Varying) -> Out { return Out(i.color, vec4f(i.at.xy, i.at.z * 100, 7)); }`,
          { vertex: 'v', fragment: 'f' },
        ),
      );
      const [a, b] = (['rgba8unorm', 'rgba32float'] as const).map((format) =>
        device.createTexture({ width: 4, height: 4, format, renderable: true }),
      ) as [never, never];
      const depth = device.createTexture({ width: 4, height: 4, format: 'depth32float', renderable: true });
      const step = device.limits.uniformAlignment;
      const places = device.createBuffer({ usage: 'uniform', size: step * 2 });
      device.writeBuffer(places, 0, new Float32Array([0, 0, 0.5, 0]));
      device.writeBuffer(places, step, new Float32Array([-1, 0, 0.25, 0]));
      const group = device.createBindGroup({ entries: [{ binding: 0, buffer: places, size: 16 }] });
      const pipeline = device.createRenderPipeline({
        shader,
        vertexBuffers: [
          { arrayStride: 8, attributes: [{ shaderLocation: 0, format: 'float32x2', offset: 0 }] },
          // The same for all vertices and instances.
          { arrayStride: 0, attributes: [{ shaderLocation: 1, format: 'unorm8x4', offset: 0 }] },
        ],
        topology: 'triangle-strip',
        depth: { format: 'depth32float', compare: 'greater', write: true },
        targets: [{ format: 'rgba8unorm' }, { format: 'rgba32float' }],
      });
      const corners = device.createBuffer({
        usage: 'vertex',
        data: new Float32Array([0, -1, 1, -1, 0, 1, 1, 1]),
      });
      const tints = [
        [255, 0, 0, 255],
        [0, 255, 0, 255],
      ].map((tint) => device.createBuffer({ usage: 'vertex', data: new Uint8Array(tint) }));
      const pass = device.beginRenderPass({
        colorAttachments: [
          { texture: a, clearValue: [0, 0, 1, 1] },
          { texture: b, clearValue: [0, 0, 0, 0] },
        ],
        depthAttachment: { texture: depth, clearValue: 0 },
      });
      pass.setPipeline(pipeline);
      pass.setVertexBuffer(0, corners);
      [0, step].forEach((offset, i) => {
        pass.setBindGroup(0, group, offset);
        pass.setVertexBuffer(1, tints[i]!);
        pass.draw(4, 2);
      });
      // Behind what is there: the depth test leaves it out.
      pass.setBindGroup(0, group, step);
      pass.setVertexBuffer(1, tints[0]!);
      pass.draw(4);
      pass.end();
      device.submit();
      const result = [[...(await device.readTexture(a))], [...(await device.readTexture(b))]];
      const { draws, instances } = device.counts;
      device.dispose();
      const living = device.counts.living;
      release();
      return { result, draws, instances, living };
    }, backend);
    const [color, data] = out.result as [number[], number[]];
    // Left half green at depth 0.25, right half red at depth 0.5.
    expect(color.slice(0, 4)).toEqual([0, 255, 0, 255]);
    expect(color.slice(12, 16)).toEqual([255, 0, 0, 255]);
    expect(data.slice(0, 4)).toEqual([0.5, 0.5, 25, 7]);
    expect(data.slice(60, 64)).toEqual([3.5, 3.5, 50, 7]);
    expect([out.draws, out.instances, out.living]).toEqual([3, 5, 0]);
  });

  test('storage buffers are read by index, with their length, also after a part was written', async () => {
    const out = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      const shader = device.createShader(
        umber.compileModule(
          `struct Item { a: f32, b: vec3f }
           @group(0) @binding(0) var<storage, read> items: array<Item>;
           @vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
             return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
           }
           @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
             let item = items[u32(at.x) * 700];
             return vec4f(item.a, item.b.z, f32(arrayLength(&items)), items[3].b.x);
           }`,
          { vertex: 'v', fragment: 'f' },
        ),
      );
      const count = 2200;
      const data = Float32Array.from({ length: count * 8 }, (_, i) => i);
      const items = device.createBuffer({ usage: 'storage', data });
      device.writeBuffer(items, 3 * 32 + 16, new Float32Array([-5]));
      const texture = device.createTexture({ width: 4, height: 1, format: 'rgba32float', renderable: true });
      const pass = device.beginRenderPass({ colorAttachments: [{ texture, clearValue: [0, 0, 0, 0] }] });
      pass.setPipeline(device.createRenderPipeline({ shader, targets: [{ format: 'rgba32float' }] }));
      pass.setBindGroup(0, device.createBindGroup({ entries: [{ binding: 0, buffer: items }] }));
      pass.draw(3);
      pass.end();
      const result = [...(await device.readTexture(texture))];
      device.dispose();
      release();
      return result;
    }, backend);
    expect(out).toEqual([0, 700, 1400, 2100].flatMap((n) => [n * 8, n * 8 + 6, 2200, -5]));
  });

  test('textures from canvases and arrays, with levels of detail', async () => {
    const out = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      const canvas = document.createElement('canvas');
      [canvas.width, canvas.height] = [4, 4];
      const context = canvas.getContext('2d')!;
      context.fillStyle = '#ff0000';
      context.fillRect(0, 0, 4, 2);
      context.fillStyle = '#0000ff';
      context.fillRect(0, 2, 4, 2);
      const drawn = device.createTexture({ width: 4, height: 4, format: 'rgba8unorm' });
      device.copyExternalImage(drawn, canvas);
      const data = Uint8Array.from({ length: 64 }, (_, i) => (i % 4 === 3 ? 255 : (i >> 2) % 2 ? 200 : 100));
      const given = device.createTexture({ width: 4, height: 4, format: 'rgba8unorm', data, mipmaps: true });
      const shader = device.createShader(
        umber.compileModule(
          `@group(0) @binding(0) var a: texture_2d<f32>;
           @group(0) @binding(1) var b: texture_2d<f32>;
           @vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
             return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
           }
           @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
             let top = textureLoad(a, vec2i(0, 0), 0);
             let bottom = textureLoad(a, vec2i(3, 3), 0);
             return vec4f(top.r, bottom.b, textureLoad(b, vec2i(0), 2).r, textureLoad(b, vec2i(1, 0), 0).r);
           }`,
          { vertex: 'v', fragment: 'f' },
        ),
      );
      const texture = device.createTexture({ width: 1, height: 1, format: 'rgba8unorm', renderable: true });
      const timer = await device.createTimer('one pixel');
      const pass = device.beginRenderPass({
        colorAttachments: [{ texture, clearValue: [0, 0, 0, 0] }],
        ...(timer ? { timer } : {}),
      });
      pass.setPipeline(device.createRenderPipeline({ shader }));
      pass.setBindGroup(
        0,
        device.createBindGroup({
          entries: [
            { binding: 0, texture: drawn },
            { binding: 1, texture: given },
          ],
        }),
      );
      pass.draw(3);
      pass.end();
      const pixel = [...(await device.readTexture(texture))];
      const result = {
        pixel,
        levels: given.mipLevelCount,
        time: await timer?.milliseconds(),
        has: device.features.has('timestamps'),
      };
      device.dispose();
      release();
      return result;
    }, backend);
    expect(out.pixel[0]).toBe(255);
    expect(out.pixel[1]).toBe(255);
    expect(Math.abs(out.pixel[2]! - 150)).toBeLessThanOrEqual(1);
    expect(out.pixel[3]).toBe(200);
    expect(out.levels).toBe(3);
    expect(out.has).toBe(true);
    expect(out.time).toBeGreaterThanOrEqual(0);
  });

  test('what is missing is named', async () => {
    const told = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      const compiled = umber.compileModule(
        `@group(0) @binding(2) var picture: texture_2d<f32>;
         @vertex fn v(@location(0) p: vec4f) -> @builtin(position) vec4f { return p; }
         @fragment fn f() -> @location(0) vec4f { return textureLoad(picture, vec2i(), 0); }`,
        { vertex: 'v', fragment: 'f' },
      );
      const pipeline = device.createRenderPipeline({
        label: 'kelp',
        shader: device.createShader(compiled),
        vertexBuffers: [
          { arrayStride: 16, attributes: [{ shaderLocation: 0, format: 'float32x4', offset: 0 }] },
        ],
      });
      const texture = device.createTexture({ width: 1, height: 1, format: 'rgba8unorm', renderable: true });
      const vertices = device.createBuffer({ usage: 'vertex', size: 64 });
      const out: string[] = [];
      const attempt = (prepare: (pass: ReturnType<typeof device.beginRenderPass>) => void): void => {
        const pass = device.beginRenderPass({ colorAttachments: [{ texture }] });
        try {
          prepare(pass);
          pass.draw(3);
          out.push('drawn');
        } catch (error) {
          out.push(String(error));
        }
        pass.end();
      };
      attempt(() => undefined);
      attempt((pass) => pass.setPipeline(pipeline));
      attempt((pass) => {
        pass.setPipeline(pipeline);
        pass.setVertexBuffer(0, vertices);
        pass.setBindGroup(0, device.createBindGroup({ entries: [] }));
      });
      const reflection = {
        entryPoints: [
          {
            name: 'v',
            stage: 'vertex' as const,
            inputs: [{ name: 'position', type: 'vec3f', location: 0 }],
            outputs: [],
            resources: [],
          },
        ],
        resources: [],
      };
      try {
        umber.vertexLayout({ reflection, file: 'kelp.wgsl' }, { positon: 'float32x3' });
      } catch (error) {
        out.push((error as InstanceType<typeof umber.LensError>).toString());
      }
      device.dispose();
      release();
      return out;
    }, backend);
    expect(told[0]).toContain('a draw needs a pipeline');
    expect(told[1]).toMatch(/pipeline "kelp" needs/);
    expect(told[2]).toMatch(/pipeline "kelp" needs a texture at group 0, binding 2/);
    expect(told[3]).toMatch(/kelp\.wgsl has no vertex input "positon"[\s\S]*Did you mean "position"/);
  });
});

test('pages built for production carry neither the compiler nor the messages', () => {
  const folder = 'examples/dist/assets';
  const code = readdirSync(folder)
    .filter((name) => name.endsWith('.js'))
    .map((name) => readFileSync(`${folder}/${name}`, 'utf8'))
    .join('');
  expect(code).toContain('@fragment fn meshFragment');
  expect(code).not.toContain('nothing lights the scene');
  expect(code).not.toContain('is reserved by the language');
});
