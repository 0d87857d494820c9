import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });
const BACKENDS: Backend[] = ['webgl2', 'webgpu'];

const FULL = `@vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0.5, 1);
}`;

describe.each(BACKENDS)('textures with layers and levels on %s', (backend) => {
  test('sides of a cube are drawn into one by one and read by direction', async () => {
    const seen = await stage.page.evaluate(
      async ({ backend: wanted, full }) => {
        const { device, release } = await umber.openDevice(undefined, { backend: wanted });
        const cube = device.createTexture({
          shape: 'cube',
          width: 4,
          height: 4,
          format: 'rgba32float',
          mipLevelCount: 2,
          renderable: true,
        });
        for (let level = 0; level < 2; level++) {
          for (let layer = 0; layer < 6; layer++) {
            const pass = device.beginRenderPass({
              colorAttachments: [{ texture: cube, level, layer, clearValue: [layer, level, 0, 1] }],
            });
            pass.end();
          }
        }
        const out = device.createTexture({ width: 6, height: 2, format: 'rgba32float', renderable: true });
        const shader = device.createShader(
          umber.compileModule(
            `${full}
             @group(0) @binding(0) var sides: texture_cube<f32>;
             @group(0) @binding(1) var plain: sampler;
             @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
               let side = u32(at.x);
               var way = vec3f();
               way[side / 2] = select(1.0, -1.0, (side & 1) == 1);
               return textureSampleLevel(sides, plain, way, floor(at.y));
             }`,
            { vertex: 'v', fragment: 'f' },
          ),
        );
        const pipeline = device.createRenderPipeline({ shader, targets: [{ format: 'rgba32float' }] });
        const sampler = device.createSampler({
          minFilter: 'nearest',
          magFilter: 'nearest',
          mipmapFilter: 'nearest',
        });
        const group = device.createBindGroup({
          entries: [
            { binding: 0, texture: cube },
            { binding: 1, sampler },
          ],
        });
        const pass = device.beginRenderPass({
          colorAttachments: [{ texture: out, clearValue: [9, 9, 9, 9] }],
        });
        pass.setPipeline(pipeline);
        pass.setBindGroup(0, group);
        pass.draw(3);
        pass.end();
        device.submit();
        const read = [...(await device.readTexture(out))];
        const side = [...(await device.readTexture(cube, { level: 1, layer: 4 }))].slice(0, 4);
        const { textureBytes } = device.counts;
        release();
        return { read, side, textureBytes };
      },
      { backend, full: FULL },
    );
    const expected = [0, 1].flatMap((level) => [0, 1, 2, 3, 4, 5].flatMap((layer) => [layer, level, 0, 1]));
    expect(seen.read).toEqual(expected);
    expect(seen.side).toEqual([4, 1, 0, 1]);
    expect(seen.textureBytes).toBe(6 * (16 + 4) * 16 + 12 * 16);
  });

  test('rows of a side of a cube are top first, as they are read by direction', async () => {
    const seen = await stage.page.evaluate(
      async ({ backend: wanted, full }) => {
        const { device, release } = await umber.openDevice(undefined, { backend: wanted });
        const cube = device.createTexture({
          shape: 'cube',
          width: 2,
          height: 2,
          format: 'rgba32float',
          renderable: true,
        });
        const own = (text: string): ReturnType<typeof device.createShader> =>
          device.createShader(umber.compileModule(text, { vertex: 'v', fragment: 'f' }));
        const drawn = device.createRenderPipeline({
          shader: own(
            `${full} @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f { return vec4f(floor(at.xy), 0, 1); }`,
          ),
          targets: [{ format: 'rgba32float' }],
        });
        const pass = device.beginRenderPass({
          colorAttachments: [{ texture: cube, layer: 4, clearValue: [0, 0, 0, 0] }],
        });
        pass.setPipeline(drawn);
        pass.draw(3);
        pass.end();
        device.submit();
        const out = device.createTexture({ width: 2, height: 2, format: 'rgba32float', renderable: true });
        const looked = device.createRenderPipeline({
          shader: own(
            `${full}
             @group(0) @binding(0) var sides: texture_cube<f32>;
             @group(0) @binding(1) var plain: sampler;
             @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
               // +Z is seen with x to the right and y up.
               return textureSampleLevel(sides, plain, vec3f(at.x - 1, 1 - at.y, 1), 0);
             }`,
          ),
          targets: [{ format: 'rgba32float' }],
        });
        const sampler = device.createSampler({
          minFilter: 'nearest',
          magFilter: 'nearest',
          mipmapFilter: 'none',
        });
        const group = device.createBindGroup({
          entries: [
            { binding: 0, texture: cube },
            { binding: 1, sampler },
          ],
        });
        const second = device.beginRenderPass({
          colorAttachments: [{ texture: out, clearValue: [9, 9, 9, 9] }],
        });
        second.setPipeline(looked);
        second.setBindGroup(0, group);
        second.draw(3);
        second.end();
        device.submit();
        const read = [...(await device.readTexture(out))];
        release();
        return read;
      },
      { backend, full: FULL },
    );
    expect(seen).toEqual([0, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1]);
  });

  test('layers of a depth array are drawn into and compared with', async () => {
    const seen = await stage.page.evaluate(
      async ({ backend: wanted, full }) => {
        const { device, release } = await umber.openDevice(undefined, { backend: wanted });
        const depths = device.createTexture({
          shape: '2d-array',
          layers: 3,
          width: 2,
          height: 2,
          format: 'depth32float',
          renderable: true,
        });
        for (let layer = 0; layer < 3; layer++) {
          const pass = device.beginRenderPass({
            colorAttachments: [],
            depthAttachment: { texture: depths, layer, clearValue: [0.2, 0.5, 0.8][layer]! },
          });
          pass.end();
        }
        const out = device.createTexture({ width: 3, height: 1, format: 'rgba32float', renderable: true });
        const shader = device.createShader(
          umber.compileModule(
            `${full}
             @group(0) @binding(0) var depths: texture_depth_2d_array;
             @group(0) @binding(1) var nearer: sampler_comparison;
             @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
               let layer = i32(at.x);
               let low = textureSampleCompareLevel(depths, nearer, vec2f(0.5), layer, 0.4);
               let high = textureSampleCompareLevel(depths, nearer, vec2f(0.5), layer, 0.6);
               return vec4f(low, high, 0, 1);
             }`,
            { vertex: 'v', fragment: 'f' },
          ),
        );
        const pipeline = device.createRenderPipeline({ shader, targets: [{ format: 'rgba32float' }] });
        const sampler = device.createSampler({ compare: 'greater-equal', mipmapFilter: 'none' });
        const group = device.createBindGroup({
          entries: [
            { binding: 0, texture: depths },
            { binding: 1, sampler },
          ],
        });
        const pass = device.beginRenderPass({
          colorAttachments: [{ texture: out, clearValue: [9, 9, 9, 9] }],
        });
        pass.setPipeline(pipeline);
        pass.setBindGroup(0, group);
        pass.draw(3);
        pass.end();
        device.submit();
        const read = [...(await device.readTexture(out))];
        release();
        return read;
      },
      { backend, full: FULL },
    );
    expect(seen).toEqual([1, 1, 0, 1, 0, 1, 0, 1, 0, 0, 0, 1]);
  });

  test('arrays keep what is written into their layers, and smaller levels are made of each', async () => {
    const seen = await stage.page.evaluate(async (wanted) => {
      const { device, release } = await umber.openDevice(undefined, { backend: wanted });
      const array = device.createTexture({
        shape: '2d-array',
        layers: 2,
        width: 2,
        height: 2,
        format: 'rgba8unorm',
        mipLevelCount: 2,
        renderable: true,
      });
      const flat = (value: number): Uint8Array => new Uint8Array(16).fill(value);
      device.writeTexture(array, flat(40), { layer: 0 });
      device.writeTexture(array, flat(200), { layer: 1 });
      device.generateMipmaps(array);
      const levels = [];
      for (const layer of [0, 1]) levels.push([...(await device.readTexture(array, { level: 1, layer }))]);
      const faults: string[] = [];
      for (const wrong of [
        () => device.writeTexture(array, flat(0), { layer: 2 }),
        () => device.createTexture({ shape: 'cube', width: 4, height: 2, format: 'rgba8unorm' }),
        () =>
          device.createTexture({ shape: '2d-array', layers: 0, width: 4, height: 2, format: 'rgba8unorm' }),
        () =>
          device.createTexture({ shape: 'cube', width: 4, height: 4, format: 'rgba8unorm', sampleCount: 4 }),
      ]) {
        try {
          wrong();
        } catch (error) {
          faults.push(String(error));
        }
      }
      release();
      return { levels, faults };
    }, backend);
    expect(seen.levels).toEqual([
      [40, 40, 40, 40],
      [200, 200, 200, 200],
    ]);
    expect(seen.faults).toEqual([
      expect.stringContaining('has no layer 2 at level 0'),
      expect.stringContaining('the sides of a cube are square'),
      expect.stringContaining('1 to 256 layers, not 0'),
      expect.stringContaining('only plain textures may have several samples'),
    ]);
  });
});
