import type { Backend, Device } from 'umber-lens';
import type {
  BlendFactor,
  BlendOperation,
  CompareFunction,
  TextureFormat,
  VertexFormat,
} from 'umber-lens/device';
import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });

/** Colours of rectangles, drawn one over the other by a pipeline of the given state. */
interface Draw {
  /** Linear RGBA. */
  color: number[];
  depth?: number;
  /** Left, bottom, right, top in clip space; default the whole picture. */
  area?: number[];
}

interface Job {
  backend: Backend;
  draws: Draw[];
  clear?: number[];
  blend?: [color: [BlendFactor, BlendFactor], alpha: [BlendFactor, BlendFactor]];
  operation?: BlendOperation;
  /** Bits of the channels that are written. */
  mask?: number;
  bias?: number;
  scissor?: [number, number, number, number];
  compare?: CompareFunction;
  /** Whether depths are written. Default true. */
  write?: boolean;
  cullMode?: 'none' | 'back' | 'front';
  frontFace?: 'ccw' | 'cw';
  format?: TextureFormat;
  viewport?: [number, number, number, number];
  size?: number;
}

/** Draws a job and reads its picture. */
const draw = (job: Job): Promise<number[]> =>
  stage.page.evaluate(async (given) => {
    const operation = given.operation ? { operation: given.operation } : {};
    const { backend, draws, blend, compare, format = 'rgba32float', size = 4 } = given;
    const { device, release } = await umber.openDevice(undefined, { backend });
    const target = device.createTexture({ width: size, height: size, format, renderable: true });
    const depth = device.createTexture({
      width: size,
      height: size,
      format: 'depth32float',
      renderable: true,
    });
    const shader = device.createShader(
      umber.compileModule(
        `struct Quad { color: vec4f, area: vec4f, depth: f32 }
         @group(0) @binding(0) var<uniform> quad: Quad;
         @vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
           let corner = vec2f(f32(i & 1), f32(i >> 1));
           return vec4f(mix(quad.area.xy, quad.area.zw, corner), quad.depth, 1);
         }
         @fragment fn f() -> @location(0) vec4f { return quad.color; }`,
        { vertex: 'v', fragment: 'f' },
      ),
    );
    const pipeline = device.createRenderPipeline({
      shader,
      topology: 'triangle-strip',
      cullMode: given.cullMode ?? 'none',
      frontFace: given.frontFace ?? 'ccw',
      ...(compare
        ? { depth: { format: 'depth32float', compare, write: given.write ?? true, bias: given.bias ?? 0 } }
        : {}),
      targets: [
        blend
          ? {
              format,
              blend: {
                color: { srcFactor: blend[0][0], dstFactor: blend[0][1], ...operation },
                alpha: { srcFactor: blend[1][0], dstFactor: blend[1][1], ...operation },
              },
              write: given.mask ?? true,
            }
          : { format },
      ],
    });
    const step = Math.max(device.limits.uniformAlignment, 48);
    const uniforms = device.createBuffer({ usage: 'uniform', size: step * draws.length });
    draws.forEach(({ color, depth: z = 0.5, area = [-1, -1, 1, 1] }, i) =>
      device.writeBuffer(uniforms, i * step, new Float32Array([...color, ...area, z, 0, 0, 0])),
    );
    const group = device.createBindGroup({ entries: [{ binding: 0, buffer: uniforms, size: 48 }] });
    const pass = device.beginRenderPass({
      colorAttachments: [{ texture: target, clearValue: given.clear ?? [0, 0, 0, 0] }],
      ...(compare ? { depthAttachment: { texture: depth, clearValue: 0.5 } } : {}),
    });
    pass.setPipeline(pipeline);
    if (given.viewport) pass.setViewport(...given.viewport);
    if (given.scissor) pass.setScissor(...given.scissor);
    draws.forEach((_, i) => {
      pass.setBindGroup(0, group, i * step);
      pass.setBlendConstant([0.75, 0.75, 0.75, 0.75]);
      pass.draw(4);
    });
    pass.end();
    device.submit();
    const pixels = [...(await device.readTexture(target))];
    device.dispose();
    release();
    return pixels;
  }, job);

const nearly = (got: readonly number[], want: readonly number[], tolerance = 1e-5): void => {
  expect(got).toHaveLength(want.length);
  got.forEach((value, i) => expect(Math.abs(value - want[i]!)).toBeLessThanOrEqual(tolerance));
};

/** What `draw` sets the blend constant to. */
const CONSTANT = 0.75;

describe.each<Backend>(['webgpu', 'webgl2'])('states of pipelines, on %s', (backend) => {
  /** What each factor stands for, of a channel of source and destination, and of their alpha. */
  const FACTORS: Record<
    BlendFactor,
    (s: number, d: number, source: number, destination: number, isAlpha: boolean) => number
  > = {
    zero: () => 0,
    one: () => 1,
    constant: () => CONSTANT,
    'one-minus-constant': () => 1 - CONSTANT,
    'src-alpha': (s) => s,
    'one-minus-src-alpha': (s) => 1 - s,
    'dst-alpha': (_, d) => d,
    'one-minus-dst-alpha': (_, d) => 1 - d,
    src: (_, __, source) => source,
    'one-minus-src': (_, __, source) => 1 - source,
    dst: (_, __, ___, destination) => destination,
    'one-minus-dst': (_, __, ___, destination) => 1 - destination,
    'src-alpha-saturated': (s, d, _, __, isAlpha) => (isAlpha ? 1 : Math.min(s, 1 - d)),
  };

  test('every blend factor weighs what it says', async () => {
    const [source, destination] = [
      [0.5, 0.25, 1, 0.25],
      [0.125, 0.5, 0.75, 0.5],
    ];
    const names = Object.keys(FACTORS) as BlendFactor[];
    for (const [i, first] of names.entries()) {
      const second = names[(i + 2) % names.length]!;
      const pixels = await draw({
        backend,
        clear: destination,
        draws: [{ color: source }],
        blend: [
          [first, second],
          [second, first],
        ],
        // Floats of 16 bits can be blended everywhere.
        format: 'rgba16float',
      });
      const weigh = (name: BlendFactor, k: number): number =>
        FACTORS[name](source[3]!, destination[3]!, source[k]!, destination[k]!, k === 3);
      const want = [0, 1, 2].map((k) => source[k]! * weigh(first, k) + destination[k]! * weigh(second, k));
      want.push(source[3]! * weigh(second, 3) + destination[3]! * weigh(first, 3));
      nearly(pixels.slice(0, 4), want, 1e-3);
    }
  });

  test.each<[BlendOperation, (s: number, d: number) => number]>([
    ['add', (s, d) => s + d],
    ['subtract', (s, d) => s - d],
    ['reverse-subtract', (s, d) => d - s],
    ['min', Math.min],
    ['max', Math.max],
  ])('the operation "%s" is what it says, and channels may be left alone', async (operation, by) => {
    const [source, destination] = [
      [0.5, 0.25, 1, 0.25],
      [0.125, 0.5, 0.75, 0.5],
    ];
    const given = { backend, clear: destination, draws: [{ color: source }], format: 'rgba16float' as const };
    const one: [BlendFactor, BlendFactor] = ['one', 'one'];
    const all = await draw({ ...given, blend: [one, one], operation });
    nearly(
      all.slice(0, 4),
      source.map((part, k) => by(part, destination[k]!)),
      1e-3,
    );
    const some = await draw({ ...given, blend: [one, one], operation, mask: 2 + 8 });
    nearly(
      some.slice(0, 4),
      source.map((part, k) => (k % 2 === 1 ? by(part, destination[k]!) : destination[k]!)),
      1e-3,
    );
  });

  test('a bias brings things nearer', async () => {
    const draws = [
      { color: [1, 0, 0, 1], depth: 0.75 },
      { color: [0, 1, 0, 1], depth: 0.75 },
    ];
    const green = async (bias: number): Promise<number> =>
      (await draw({ backend, compare: 'greater', draws, bias }))[1]!;
    expect([await green(0), await green(-8)]).toEqual([0, 0]);
    // Both are biased alike, against a depth that is as near as they are.
    expect(
      (await draw({ backend, compare: 'greater', draws: [{ color: [1, 0, 0, 1], depth: 0.5 }] }))[0],
    ).toBe(0);
    expect(
      (await draw({ backend, compare: 'greater', draws: [{ color: [1, 0, 0, 1], depth: 0.5 }], bias: 8 }))[0],
    ).toBe(1);
  });

  test('a scissor cuts what is drawn, counted from the top, and ends with its pass', async () => {
    const given = { backend, draws: [{ color: [1, 0, 0, 1] }] };
    const pixels = await draw({ ...given, scissor: [1, 0, 2, 1] });
    const red = Array.from({ length: 16 }, (_, i) => pixels[i * 4]);
    expect(red).toEqual([0, 1, 1, 0, ...new Array<number>(12).fill(0)]);
    expect((await draw(given))[4 * 15]).toBe(1);
  });

  test.each<[CompareFunction, boolean[]]>([
    // Against a depth of 0.5: something at 0.25, at 0.5 and at 0.75.
    ['always', [true, true, true]],
    ['never', [false, false, false]],
    ['less', [true, false, false]],
    ['less-equal', [true, true, false]],
    ['equal', [false, true, false]],
    ['not-equal', [true, false, true]],
    ['greater-equal', [false, true, true]],
    ['greater', [false, false, true]],
  ])('depths are compared by "%s"', async (compare, passes) => {
    for (const [i, depth] of [0.25, 0.5, 0.75].entries()) {
      const pixels = await draw({ backend, compare, draws: [{ color: [1, 0, 0, 1], depth }] });
      expect([depth, pixels[0]]).toEqual([depth, passes[i] ? 1 : 0]);
    }
  });

  test('a depth that is not written hides nothing', async () => {
    const draws = [
      { color: [1, 0, 0, 1], depth: 0.9 },
      { color: [0, 1, 0, 1], depth: 0.7 },
    ];
    expect((await draw({ backend, compare: 'greater', draws })).slice(0, 3)).toEqual([1, 0, 0]);
    expect((await draw({ backend, compare: 'greater', write: false, draws })).slice(0, 3)).toEqual([0, 1, 0]);
  });

  test.each([
    ['none', 'ccw', true, true],
    ['back', 'ccw', true, false],
    ['front', 'ccw', false, true],
    ['back', 'cw', false, true],
    ['front', 'cw', true, false],
  ] as const)('faces: cull %s, front %s', async (cullMode, frontFace, plain, turned) => {
    // The strip's first triangle winds counter-clockwise; drawn from right to left it winds the other way.
    const [ccw, cw] = [
      { color: [1, 0, 0, 1], area: [-1, -1, 1, 1] },
      { color: [1, 0, 0, 1], area: [1, -1, -1, 1] },
    ];
    expect((await draw({ backend, cullMode, frontFace, draws: [ccw] }))[0]).toBe(plain ? 1 : 0);
    expect((await draw({ backend, cullMode, frontFace, draws: [cw] }))[0]).toBe(turned ? 1 : 0);
  });

  test('a viewport counts from the top, and what lies outside is left alone', async () => {
    const pixels = await draw({ backend, draws: [{ color: [1, 0, 0, 1] }], viewport: [1, 0, 2, 1] });
    const red = Array.from({ length: 16 }, (_, i) => pixels[i * 4]);
    expect(red).toEqual([0, 1, 1, 0, ...new Array<number>(12).fill(0)]);
  });

  test.each<[TextureFormat, number[], number]>([
    ['rgba8unorm', [64, 128, 255, 191], 1],
    // The GPU encodes: 0.25 becomes 137, 0.5 becomes 188.
    ['rgba8unorm-srgb', [137, 188, 255, 191], 1],
    ['rgba16float', [0.25, 0.5, 1000, 0.75], 1e-3],
    ['rgba32float', [0.25, 0.5, 1000, 0.75], 0],
  ])('%s holds what is drawn into it', async (format, want, tolerance) => {
    const blue = format.startsWith('rgba8') ? 1 : 1000;
    const pixels = await draw({ backend, format, draws: [{ color: [0.25, 0.5, blue, 0.75] }] });
    nearly(pixels.slice(0, 4), want, tolerance);
    nearly(pixels.slice(60, 64), want, tolerance);
  });

  test('vertex formats, index formats, first elements and topologies', async () => {
    const out = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      const read = async (
        format: VertexFormat,
        data: ArrayBufferView,
        type: string,
        use: (pass: ReturnType<Device['beginRenderPass']>) => void,
        topology: 'point-list' | 'line-list' = 'point-list',
      ): Promise<number[]> => {
        const target = device.createTexture({ width: 4, height: 1, format: 'rgba32float', renderable: true });
        const shader = device.createShader(
          umber.compileModule(
            `struct V { @builtin(position) at: vec4f, @location(0) value: vec4f }
             @vertex fn v(@location(0) value: ${type}, @builtin(vertex_index) i: u32, @builtin(instance_index) n: u32) -> V {
               return V(vec4f((f32(n) + 0.5) / 2 - 1, 0, 0.5, 1), vec4f(value));
             }
             @fragment fn f(i: V) -> @location(0) vec4f { return i.value; }`,
            { vertex: 'v', fragment: 'f' },
          ),
        );
        const pipeline = device.createRenderPipeline({
          shader,
          topology,
          vertexBuffers: [{ arrayStride: 16, attributes: [{ shaderLocation: 0, format, offset: 0 }] }],
          targets: [{ format: 'rgba32float' }],
        });
        const bytes = new Uint8Array(48);
        bytes.set(new Uint8Array(data.buffer), 0);
        const buffer = device.createBuffer({ usage: 'vertex', data: bytes });
        const pass = device.beginRenderPass({
          colorAttachments: [{ texture: target, clearValue: [0, 0, 0, 0] }],
        });
        pass.setPipeline(pipeline);
        pass.setVertexBuffer(0, buffer);
        use(pass);
        pass.end();
        return [...(await device.readTexture(target))];
      };
      const one = (pass: ReturnType<Device['beginRenderPass']>): void => pass.draw(1);
      const formats = {
        unorm8x4: await read('unorm8x4', new Uint8Array([255, 128, 0, 51]), 'vec4f', one),
        snorm8x4: await read('snorm8x4', new Int8Array([127, -127, 0, -128]), 'vec4f', one),
        unorm16x2: await read('unorm16x2', new Uint16Array([65535, 13107]), 'vec4f', one),
        snorm16x4: await read('snorm16x4', new Int16Array([32767, -32767, 0, 16384]), 'vec4f', one),
        uint8x4: await read('uint8x4', new Uint8Array([1, 2, 200, 255]), 'vec4u', one),
        sint16x4: await read('sint16x4', new Int16Array([-5, 300, -32768, 7]), 'vec4i', one),
        float32x3: await read('float32x3', new Float32Array([1.5, -2, 1e6]), 'vec4f', one),
      };
      const values = new Float32Array([1, 0, 0, 0, 2, 0, 0, 0, 3, 0, 0, 0]);
      const indices = (
        format: 'uint16' | 'uint32',
      ): ((pass: ReturnType<Device['beginRenderPass']>) => void) => {
        const data = format === 'uint16' ? new Uint16Array([0, 0, 2, 0]) : new Uint32Array([0, 0, 2, 0]);
        const buffer = device.createBuffer({ usage: 'index', data });
        return (pass) => {
          pass.setIndexBuffer(buffer, format);
          pass.drawIndexed(1, 3, 2);
        };
      };
      const drawn = {
        first: await read('float32', values, 'f32', (pass) => pass.draw(1, 2, 1)),
        uint16: await read('float32', values, 'f32', indices('uint16')),
        uint32: await read('float32', values, 'f32', indices('uint32')),
      };
      device.dispose();
      release();
      return { formats, drawn };
    }, backend);
    const close = (got: number[] | undefined, want: number[]): void => nearly(got!.slice(0, 4), want, 1e-3);
    close(out.formats.unorm8x4, [1, 128 / 255, 0, 0.2]);
    close(out.formats.snorm8x4, [1, -1, 0, -1]);
    // What a format does not have is 0, and alpha 1.
    close(out.formats.unorm16x2, [1, 0.2, 0, 1]);
    close(out.formats.snorm16x4, [1, -1, 0, 16384 / 32767]);
    close(out.formats.uint8x4, [1, 2, 200, 255]);
    close(out.formats.sint16x4, [-5, 300, -32768, 7]);
    close(out.formats.float32x3, [1.5, -2, 1e6, 1]);
    const reds = (pixels: number[]): number[] => [0, 1, 2, 3].map((i) => pixels[i * 4]!);
    expect(reds(out.drawn.first)).toEqual([2, 2, 0, 0]);
    expect(reds(out.drawn.uint16)).toEqual([3, 3, 3, 0]);
    expect(reds(out.drawn.uint32)).toEqual([3, 3, 3, 0]);
  });

  test('samplers: filters, wrapping and levels of detail', async () => {
    const out = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      // Two columns: black and white.
      const data = new Uint8Array([0, 0, 0, 255, 255, 255, 255, 255]);
      const texture = device.createTexture({ width: 2, height: 1, format: 'rgba8unorm', data });
      const shader = device.createShader(
        umber.compileModule(
          `@group(0) @binding(0) var picture: texture_2d<f32>;
           @group(0) @binding(1) var how: sampler;
           @vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
             return vec4f(f32(i & 1) * 4 - 1, f32(i >> 1) * 4 - 1, 0.5, 1);
           }
           @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
             // From u = -0.75 in steps of a half.
             return textureSampleLevel(picture, how, vec2f(at.x * 0.5 - 1, 0.5), 0);
           }`,
          { vertex: 'v', fragment: 'f' },
        ),
      );
      const pipeline = device.createRenderPipeline({ shader, targets: [{ format: 'rgba32float' }] });
      const row = async (options: Parameters<Device['createSampler']>[0]): Promise<number[]> => {
        const target = device.createTexture({ width: 8, height: 1, format: 'rgba32float', renderable: true });
        const group = device.createBindGroup({
          entries: [
            { binding: 0, texture },
            { binding: 1, sampler: device.createSampler({ mipmapFilter: 'none', ...options }) },
          ],
        });
        const pass = device.beginRenderPass({
          colorAttachments: [{ texture: target, clearValue: [0, 0, 0, 0] }],
        });
        pass.setPipeline(pipeline);
        pass.setBindGroup(0, group);
        pass.draw(3);
        pass.end();
        const pixels = await device.readTexture(target);
        return Array.from({ length: 8 }, (_, i) => pixels[i * 4]!);
      };
      const nearest = { magFilter: 'nearest', minFilter: 'nearest' } as const;
      const rows = {
        repeat: await row({ ...nearest, addressModeU: 'repeat' }),
        clamp: await row({ ...nearest, addressModeU: 'clamp-to-edge' }),
        mirror: await row({ ...nearest, addressModeU: 'mirror-repeat' }),
      };
      device.dispose();
      release();
      return rows;
    }, backend);
    // u = -0.75, -0.25, 0.25, 0.75, 1.25, ... : the two columns begin at 0 and 0.5.
    expect(out.repeat).toEqual([0, 1, 0, 1, 0, 1, 0, 1]);
    expect(out.clamp).toEqual([0, 0, 0, 1, 1, 1, 1, 1]);
    expect(out.mirror).toEqual([1, 0, 0, 1, 1, 0, 0, 1]);
  });

  test('parts of a storage buffer may be written anywhere, in any order', async () => {
    const out = await stage.page.evaluate(async (name) => {
      const { device, release } = await umber.openDevice(undefined, { backend: name });
      // More than a row of the texture that WebGL2 keeps it in.
      const words = 5000;
      const buffer = device.createBuffer({ usage: 'storage', size: words * 4 });
      const shader = device.createShader(
        umber.compileModule(
          `@group(0) @binding(0) var<storage, read> words: array<u32>;
           @vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
             return vec4f(f32(i & 1) * 4 - 1, f32(i >> 1) * 4 - 1, 0.5, 1);
           }
           @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
             return vec4f(f32(words[u32(at.x) + u32(at.y) * 100]), 0, 0, 1);
           }`,
          { vertex: 'v', fragment: 'f' },
        ),
      );
      const pipeline = device.createRenderPipeline({ shader, targets: [{ format: 'rgba32float' }] });
      const group = device.createBindGroup({ entries: [{ binding: 0, buffer }] });
      const target = device.createTexture({
        width: 100,
        height: 50,
        format: 'rgba32float',
        renderable: true,
      });
      const expected = new Uint32Array(words);
      let wrong = 0;
      const check = async (): Promise<void> => {
        const pass = device.beginRenderPass({
          colorAttachments: [{ texture: target, clearValue: [0, 0, 0, 0] }],
        });
        pass.setPipeline(pipeline);
        pass.setBindGroup(0, group);
        pass.draw(3);
        pass.end();
        const pixels = await device.readTexture(target);
        for (let i = 0; i < words; i++) if (pixels[i * 4] !== expected[i]) wrong++;
      };
      const write = (
        offset: number,
        count: number,
        first: number,
        kind: 'words' | 'floats' = 'words',
      ): void => {
        const data = Uint32Array.from({ length: count + first }, (_, i) => (offset * 7 + i) % 9973);
        const source = kind === 'words' ? data : new Float32Array(data.buffer);
        device.writeBuffer(buffer, offset * 4, source, first, count);
        expected.set(data.subarray(first), offset);
      };
      // Whole texels first: across rows, within one, whole rows.
      write(0, 5000, 0);
      write(4096, 400, 0, 'floats');
      write(4000, 200, 8);
      write(8, 4, 0);
      await check();
      // Then single words, which lie anywhere within a texel.
      write(13, 1, 0);
      write(4095, 3, 2);
      write(101, 777, 5, 'floats');
      await check();
      write(16, 64, 0);
      write(4999, 1, 0);
      await check();
      device.dispose();
      release();
      return wrong;
    }, backend);
    expect(out).toBe(0);
  });

  test.each([
    ['sizes', { width: 8, height: 4 }, 1],
    ['samples', { width: 4, height: 4 }, 4],
  ])('attachments of different %s are refused', async (_, size, sampleCount) => {
    const error = await stage.page.evaluate(
      async ([name, given, samples]) => {
        const messages: string[] = [];
        const { device, release } = await umber.openDevice(undefined, {
          backend: name,
          onError: (e) => messages.push(e.message),
        });
        const color = device.createTexture({ width: 4, height: 4, format: 'rgba8unorm', renderable: true });
        const depth = device.createTexture({
          ...given,
          format: 'depth32float',
          renderable: true,
          sampleCount: samples,
        });
        try {
          const pass = device.beginRenderPass({
            colorAttachments: [{ texture: color, clearValue: [0, 0, 0, 1] }],
            depthAttachment: { texture: depth, clearValue: 0 },
          });
          pass.end();
          device.submit();
          await device.readTexture(color).catch(() => undefined);
        } catch (e) {
          messages.push(String(e));
        }
        device.dispose();
        release();
        return messages.join('\n');
      },
      [backend, size, sampleCount] as const,
    );
    expect(error).toMatch(/attachment/i);
  });
});
