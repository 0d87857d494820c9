import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

/** What is done with a device; each runs in the page and is refused the same on both interfaces. */
const ROWS: [what: string, act: string, says: RegExp][] = [
  [
    'a pipeline without an attribute that its shader reads',
    `device.createRenderPipeline({ label: 'bare', shader: shader(), targets });`,
    /pipeline "bare" feeds no @location\(0\)/,
  ],
  [
    'a target of another format',
    `const pass = device.beginRenderPass({ label: 'to half', colorAttachments: [{ texture: texture({ format: 'rgba16float' }), clearValue }] });
     try { pass.setPipeline(pipeline()); } finally { pass.end(); }`,
    /does not fit pass "to half"[^]*rgba8unorm[^]*rgba16float/,
  ],
  [
    'a pass with depth that the pipeline does not know of',
    `const depth = texture({ format: 'depth32float' });
     const pass = device.beginRenderPass({ label: 'deep', colorAttachments: [{ texture: texture({}), clearValue }], depthAttachment: { texture: depth, clearValue: 0 } });
     try { pass.setPipeline(pipeline()); } finally { pass.end(); }`,
    /does not fit pass "deep"[^]*depth/,
  ],
  [
    'an unaligned write',
    `device.writeBuffer(buffer(16), 2, new Uint8Array(4));`,
    /byte 2 of buffer "b"[^]*multiples of 4/,
  ],
  [
    'a buffer that was disposed of',
    `const b = buffer(16); b.dispose(); device.writeBuffer(b, 0, new Float32Array(4));`,
    /buffer "b" was disposed of/,
  ],
  [
    'a vertex buffer that was disposed of',
    `const b = buffer(64, 'vertex'); b.dispose();
     const pass = device.beginRenderPass({ label: 'p', colorAttachments: [{ texture: texture({}), clearValue }] });
     try { pass.setVertexBuffer(0, b); } finally { pass.end(); }`,
    /buffer "b" was disposed of, and cannot be drawn/,
  ],
  [
    'reading what is drawn into',
    `const t = texture({});
     const group = device.createBindGroup({ entries: [{ binding: 0, texture: t }] });
     const pass = device.beginRenderPass({ label: 'loop', colorAttachments: [{ texture: t, clearValue }] });
     try { pass.setBindGroup(0, group); } finally { pass.end(); }`,
    /pass "loop" draws into texture "t" and reads it at binding 0[^]*copyTexture/,
  ],
  [
    'a uniform buffer that is too small',
    `const group = device.createBindGroup({ entries: [{ binding: 0, buffer: buffer(16, 'uniform') }] });
     const pass = device.beginRenderPass({ label: 'p', colorAttachments: [{ texture: texture({}), clearValue }] });
     try { pass.setPipeline(pipeline()); pass.setVertexBuffer(0, buffer(64, 'vertex')); pass.setBindGroup(0, group); pass.draw(3); } finally { pass.end(); }`,
    /"given" of pipeline "fine" takes 32 bytes, and buffer "b" gives it 16/,
  ],
  [
    'a clear value of three numbers',
    `device.beginRenderPass({ label: 'p', colorAttachments: [{ texture: texture({}), clearValue: [0, 0, 0] }] });`,
    /clearValue of pass "p" has 3 numbers/,
  ],
  [
    'drawing into what is not renderable',
    `device.beginRenderPass({ label: 'p', colorAttachments: [{ texture: texture({ renderable: false }), clearValue }] });`,
    /cannot draw into texture "t", which is not renderable/,
  ],
  [
    'a format that is not there',
    `texture({ format: 'rgba8unrom' });`,
    /texture "t" cannot be "rgba8unrom"[^]*"rgba8unorm"/,
  ],
  [
    'a pass within a pass',
    `const one = { label: 'first', colorAttachments: [{ texture: texture({}), clearValue }] };
     const pass = device.beginRenderPass(one);
     try { device.beginRenderPass({ ...one, label: 'second' }); } finally { pass.end(); }`,
    /render pass "first" is still open/,
  ],
];

describe.each(['webgl2', 'webgpu'] as Backend[])('verdicts on %s', (backend) => {
  const held = testPage({ webgpu: true });

  test.each(ROWS)('%s is refused in the same words', async (_, act, says) => {
    const said = await held.page.evaluate(
      async ([name, text]) => {
        const lens = await umber.openLens(undefined, { backend: name as Backend });
        const { device } = lens;
        const helpers = `
          const clearValue = [0, 0, 0, 1];
          const targets = [{ format: 'rgba8unorm' }];
          const buffer = (size, usage = 'uniform') => device.createBuffer({ label: 'b', usage, size });
          const texture = (given) => device.createTexture({ label: 't', width: 4, height: 4, format: 'rgba8unorm', renderable: true, ...given });
          const shader = () => device.createShader(umber.compileModule(
            'struct Given { a: vec4f, b: vec4f } @group(0) @binding(0) var<uniform> given: Given; @vertex fn v(@location(0) p: vec3f) -> @builtin(position) vec4f { return vec4f(p, 1) + given.a; } @fragment fn f() -> @location(0) vec4f { return given.b; }',
            { vertex: 'v', fragment: 'f' }));
          const pipeline = () => device.createRenderPipeline({ label: 'fine', shader: shader(), targets, vertexBuffers: [{ arrayStride: 12, attributes: [{ shaderLocation: 0, format: 'float32x3', offset: 0 }] }] });`;
        try {
          new Function('umber', 'device', `${helpers}\n${text}`)(umber, device);
          return 'nothing was said';
        } catch (error) {
          return String((error as Error).message);
        } finally {
          lens.dispose();
        }
      },
      [backend, act] as const,
    );
    expect(said).toMatch(says);
  });

  test.each([
    ['r8unorm', [51, 204]],
    ['rg8unorm', [51, 204]],
    ['r16float', [0.25, -3]],
    ['rg16float', [0.25, -3]],
    ['r32float', [0.125, 1e6]],
    ['rgba16float', [0.25, -3]],
    ['rgb10a2unorm', [0x3ff, 0xc00fffff]],
  ] as const)('%s is written, drawn into and read back', async (format, values) => {
    const found = await held.page.evaluate(
      async ([name, of, given]) => {
        const lens = await umber.openLens(undefined, { backend: name });
        const { device } = lens;
        const parts = {
          r8unorm: 1,
          rg8unorm: 2,
          r16float: 1,
          rg16float: 2,
          r32float: 1,
          rgba16float: 4,
          rgb10a2unorm: 1,
        }[of];
        const size = 2 * parts;
        const numbers = Array.from({ length: size }, (_, i) => given[i % 2]!);
        const data = of.endsWith('float')
          ? new Float32Array(numbers)
          : of === 'rgb10a2unorm'
            ? new Uint32Array(numbers)
            : new Uint8Array(numbers);
        const texture = device.createTexture({
          label: of,
          width: 2,
          height: 1,
          format: of,
          renderable: true,
        });
        const read = async (): Promise<number[]> => [...(await device.readTexture(texture))];
        // 32-bit floats of one number are not uploaded as halves.
        device.writeTexture(texture, of === 'r32float' ? new Float32Array(numbers) : data);
        const written = await read();
        device
          .beginRenderPass({ label: 'clear', colorAttachments: [{ texture, clearValue: [1, 1, 1, 1] }] })
          .end();
        device.submit();
        const drawn = await read();
        lens.dispose();
        return { written, drawn, numbers };
      },
      [backend, format, values] as const,
    );
    expect(found.written).toEqual(found.numbers);
    const one = format.endsWith('float') ? 1 : format === 'rgb10a2unorm' ? 0xffffffff : 255;
    expect(found.drawn).toEqual(found.numbers.map(() => one));
  });
});

describe('on WebGL2', () => {
  const held = testPage({ webgpu: true });

  test('depths are refused instead of being read as rubbish', async () => {
    const said = await held.page.evaluate(async () => {
      const lens = await umber.openLens(undefined, { backend: 'webgl2' });
      const texture = lens.device.createTexture({
        label: 'deep',
        width: 2,
        height: 2,
        format: 'depth32float',
        renderable: true,
      });
      const message = await lens.device
        .readTexture(texture)
        .catch((error: unknown) => String((error as Error).message));
      lens.dispose();
      return message;
    });
    expect(said).toMatch(/WebGL2 cannot read depths back, as those of texture "deep"/);
  });
});
