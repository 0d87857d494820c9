import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });

describe('passes that compute', () => {
  test('write buffers that draws take their numbers and vertices from', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { compileCompute, compileModule, openDevice } = umber;
      const { device, release } = await openDevice(undefined, { backend: 'webgpu' });
      const compute = (await device.openCompute())!;
      const isSame = (await device.openCompute()) === compute;
      const places = device.createBuffer({ label: 'places', usage: 'vertex', writable: true, size: 16 });
      const numbers = device.createBuffer({ label: 'numbers', usage: 'indirect', writable: true, size: 32 });
      const steps = device.createBuffer({
        usage: 'uniform',
        data: Float32Array.from({ length: 128 }, (_, i) => (i === 64 ? 3 : i === 0 ? 100 : 0)),
      });
      const pipeline = compute.createPipeline({
        shader: compileCompute(
          `@group(0) @binding(0) var<uniform> step: f32;
           @group(0) @binding(1) var<storage, read_write> places: array<f32>;
           @group(0) @binding(2) var<storage, read_write> numbers: array<atomic<u32>>;
           override first = 7;
           @compute @workgroup_size(4) fn fill(@builtin(global_invocation_id) id: vec3u) {
             places[id.x] = f32(id.x) * step;
             if id.x < 2 { atomicAdd(&numbers[first + 1 - 6], 1); }
             if id.x == 0 { atomicStore(&numbers[0], 3); }
           }`,
          'fill',
        ),
        constants: { first: 6 },
      });
      const group = device.createBindGroup({
        entries: [
          { binding: 0, buffer: steps, size: 16 },
          { binding: 1, buffer: places },
          { binding: 2, buffer: numbers },
        ],
      });
      const pass = compute.beginPass();
      let open = '';
      try {
        device.beginRenderPass({ colorAttachments: [] });
      } catch (error) {
        open = (error as { code: string }).code;
      }
      pass.setPipeline(pipeline);
      pass.setBindGroup(0, group, 256);
      pass.dispatch(1);
      pass.end();
      const written = [...new Float32Array(await compute.readBuffer(places))];
      const counted = [...new Uint32Array(await compute.readBuffer(numbers, 0, 16))];
      // Two instances, each a pixel further right.
      const out = device.createTexture({ width: 8, height: 1, format: 'rgba8unorm', renderable: true });
      const draw = device.createRenderPipeline({
        shader: device.createShader(
          compileModule(
            `@vertex fn v(@builtin(vertex_index) i: u32, @location(0) at: f32) -> @builtin(position) vec4f {
               let x = at + f32(i & 1) * 2;
               return vec4f(x / 4 - 1, f32(i >> 1) * 4 - 1, 0.5, 1);
             }
             @fragment fn f() -> @location(0) vec4f { return vec4f(1); }`,
            { vertex: 'v', fragment: 'f' },
          ),
        ),
        vertexBuffers: [
          {
            arrayStride: 4,
            stepMode: 'instance',
            attributes: [{ shaderLocation: 0, format: 'float32', offset: 0 }],
          },
        ],
        targets: [{ format: 'rgba8unorm' }],
      });
      const render = device.beginRenderPass({
        colorAttachments: [{ texture: out, clearValue: [0, 0, 0, 1] }],
      });
      render.setPipeline(draw);
      render.setVertexBuffer(0, places);
      render.drawIndirect(numbers, 0);
      render.end();
      const pixels = [...(await device.readTexture(out))].filter((_, i) => i % 4 === 0);
      const faults: string[] = [];
      for (const attempt of [
        () => compute.readBuffer(places, 2),
        () => compute.readBuffer(places, 0, 64),
        async () => compileCompute('fn f() {}', 'fill'),
        async () => compute.beginPass().dispatch(1),
      ]) {
        try {
          await attempt();
        } catch (error) {
          faults.push((error as { code: string }).code);
        }
      }
      release();
      return { isSame, open, written, counted, pixels, faults };
    });
    expect(seen.isSame).toBe(true);
    expect(seen.open).toBe('device/pass-open');
    expect(seen.written).toEqual([0, 3, 6, 9]);
    expect(seen.counted).toEqual([3, 2, 0, 0]);
    // A triangle of the first instance covers pixel 0, that of the second pixel 3.
    expect(seen.pixels).toEqual([255, 0, 0, 255, 0, 0, 0, 0]);
    expect(seen.faults).toEqual([
      'device/read-out-of-bounds',
      'device/read-out-of-bounds',
      'shader/entry',
      'device/no-pipeline',
    ]);
  });

  test('are not there on WebGL2, which says so', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { device, release } = await umber.openDevice(undefined, { backend: 'webgl2' });
      const compute = await device.openCompute();
      const out = device.createTexture({ width: 1, height: 1, format: 'rgba8unorm', renderable: true });
      const numbers = device.createBuffer({ usage: 'indirect', size: 32 });
      const pass = device.beginRenderPass({ colorAttachments: [{ texture: out, clearValue: [0, 0, 0, 1] }] });
      let code = '';
      try {
        pass.drawIndirect(numbers, 0);
      } catch (error) {
        code = (error as { code: string }).code;
      }
      pass.end();
      const has = device.features.has('compute');
      release();
      return { code, compute, has };
    });
    expect(seen).toEqual({ code: 'device/no-indirect', compute: undefined, has: false });
  });
});
