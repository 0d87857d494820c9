import type { Page } from 'playwright-core';
import { compileWgsl, type CpuSampler, type CpuTexture, drawWgsl, toGlsl } from '@umber-lens/core/engine';
import { closeBrowser, openPage } from '../browser/stage.js';
import { gpuScript } from './gpu.js';

let page: Page;

beforeAll(async () => {
  ({ page } = await openPage({ webgpu: true }));
  await page.addScriptTag({ content: gpuScript });
  await page.addScriptTag({ content: textureScript });
});
afterAll(async () => {
  await page.close();
  await closeBrowser();
});

/** Texels are multiples of 1/64, which half floats hold exactly. */
const texels = (n: number, seed: number): number[] =>
  Array.from({ length: n * 4 }, (_, i) => ((i * 37 + seed * 11) % 64) / 64);
const depths = (n: number): number[] => Array.from({ length: n }, (_, i) => ((i * 23) % 16) / 15);

const SAMPLER: CpuSampler = {
  magFilter: 'linear',
  minFilter: 'linear',
  mipmapFilter: 'nearest',
  addressModeU: 'repeat',
  addressModeV: 'mirror-repeat',
};
const RESOURCES: Record<
  string,
  { declaration: string; cpu: CpuTexture | CpuSampler; shape?: { dimension: string; size: number[] } }
> = {
  flat: {
    declaration: 'texture_2d<f32>',
    cpu: { width: 4, height: 4, data: texels(16, 1), levels: [texels(4, 2), texels(1, 3)] },
    shape: { dimension: '2d', size: [4, 4, 1] },
  },
  whole: {
    declaration: 'texture_2d<i32>',
    cpu: { width: 4, height: 4, data: texels(16, 4).map((x) => Math.round(x * 64) - 30) },
    shape: { dimension: '2d-int', size: [4, 4, 1] },
  },
  layered: {
    declaration: 'texture_2d_array<f32>',
    cpu: { width: 4, height: 4, layers: 3, data: texels(48, 5) },
    shape: { dimension: '2d-array', size: [4, 4, 3] },
  },
  solid: {
    declaration: 'texture_3d<f32>',
    cpu: { width: 4, height: 4, depth: 4, data: texels(64, 6) },
    shape: { dimension: '3d', size: [4, 4, 4] },
  },
  around: {
    declaration: 'texture_cube<f32>',
    cpu: { width: 4, height: 4, layers: 6, data: texels(96, 7) },
    shape: { dimension: 'cube', size: [4, 4, 6] },
  },
  shade: {
    declaration: 'texture_depth_2d',
    cpu: { width: 4, height: 4, data: depths(16).flatMap((d) => [Math.round(d * 65535) / 65535, 0, 0, 1]) },
    shape: { dimension: 'depth', size: [4, 4, 1] },
  },
  point: {
    declaration: 'sampler',
    cpu: { ...SAMPLER, magFilter: 'nearest', minFilter: 'nearest' },
  },
  smp: { declaration: 'sampler', cpu: SAMPLER },
  cmp: { declaration: 'sampler_comparison', cpu: { ...SAMPLER, compare: 'less-equal' } },
};

/** Each function once or more, over 4x4 pixels; `at` is the pixel, `uv` a place between texels. */
const CASES: [string, string][] = [
  ['textureSample', 'textureSample(flat, smp, uv)'],
  ['textureSample, offset', 'textureSample(flat, smp, uv, vec2i(1, -2))'],
  ['textureSample, smaller level by derivatives', 'textureSample(flat, smp, at.xy * 0.5)'],
  ['textureSample, array', 'textureSample(layered, smp, uv, 2)'],
  ['textureSample, 3d', 'textureSample(solid, smp, vec3f(uv, 0.4))'],
  ['textureSample, cube', 'textureSample(around, smp, vec3f(1, uv * 0.5 - 0.3))'],
  ['textureSample, depth', 'vec4f(textureSample(shade, point, uv))'],
  ['textureSampleBias', 'textureSampleBias(flat, smp, at.xy * 0.25, 1)'],
  ['textureSampleLevel', 'textureSampleLevel(flat, smp, uv, 1)'],
  ['textureSampleLevel, depth', 'vec4f(textureSampleLevel(shade, point, uv, 0))'],
  ['textureSampleGrad', 'textureSampleGrad(flat, smp, uv, vec2f(0.5, 0), vec2f(0, 0.5))'],
  ['textureSampleCompare', 'vec4f(textureSampleCompare(shade, cmp, uv, 0.5))'],
  ['textureSampleCompareLevel', 'vec4f(textureSampleCompareLevel(shade, cmp, uv, 0.3))'],
  [
    'textureSampleBaseClampToEdge',
    'textureSampleBaseClampToEdge(flat, smp, clamp(uv, vec2f(0.2), vec2f(0.8)))',
  ],
  ['textureLoad', 'textureLoad(flat, vec2i(at.xy), 0)'],
  ['textureLoad, level', 'textureLoad(flat, vec2u(at.xy) / 2u, 1)'],
  ['textureLoad, whole numbers', 'vec4f(textureLoad(whole, vec2i(at.xy), 0))'],
  ['textureLoad, array', 'textureLoad(layered, vec2i(at.xy), 1, 0)'],
  ['textureLoad, 3d', 'textureLoad(solid, vec3i(vec2i(at.xy), 3), 0)'],
  ['textureLoad, depth', 'vec4f(textureLoad(shade, vec2i(at.xy), 0))'],
  ['textureGather', 'textureGather(2, flat, smp, uv)'],
  ['textureGather, array and offset', 'textureGather(0, layered, smp, uv, 1, vec2i(-1, 2))'],
  ['textureGather, depth', 'textureGather(shade, point, uv)'],
  ['textureGatherCompare', 'textureGatherCompare(shade, cmp, uv, 0.43)'],
  ['textureNumLevels', 'vec4f(f32(textureNumLevels(flat)))'],
  ['textureDimensions', 'vec4f(vec2f(textureDimensions(flat, 1)), vec2f(textureDimensions(solid).yz))'],
  ['textureNumLayers', 'vec4f(f32(textureNumLayers(layered)))'],
  ...['', 'Coarse', 'Fine'].flatMap((how): [string, string][] => [
    [`dpdx${how}`, `vec4f(dpdx${how}(at.x * 3 + at.y))`],
    [`dpdy${how}`, `vec4f(dpdy${how}(at.y * at.y))`],
    [`fwidth${how}`, `vec4f(fwidth${how}(at.x * 2 - at.y * 5))`],
  ]),
  ['dpdx of a vector', 'vec4f(dpdx(at.xy * at.xy), dpdy(at.yx * 2))'],
];

function shaderText(expr: string): { text: string; used: string[] } {
  const used = Object.keys(RESOURCES).filter((name) => new RegExp(`\\b${name}\\b`).test(expr));
  const declarations = used
    .map((name, i) => `@group(0) @binding(${i}) var ${name}: ${RESOURCES[name]!.declaration};`)
    .join('\n');
  return {
    used,
    text: `${declarations}\n@fragment fn main(@builtin(position) at: vec4f) -> @location(0) vec4f {\n  let uv = at.xy * 0.21 + 0.07;\n  return ${expr};\n}\n`,
  };
}

test('each texture and derivative function gives the same on WebGPU, on WebGL2 and on the CPU', async () => {
  const programs = CASES.map(([name, expr]) => {
    const { text, used } = shaderText(expr);
    const shader = compileWgsl(text);
    // What WebGL2 lacks is compared on the other two.
    const inWebgl2 = !/Gather|NumLevels/.test(name);
    const glsl = inWebgl2 ? toGlsl(shader, 'main') : { text: '', samplers: {} };
    const resources = Object.fromEntries(used.map((key) => [key, RESOURCES[key]!.cpu]));
    const cpu = [...drawWgsl(shader, 'main', { width: 4, height: 4, resources }).data];
    const samplers = Object.entries(glsl.samplers).map(([key, { texture, sampler }]) => ({
      key,
      texture: used[texture[1]]!,
      sampler: sampler ? used[sampler[1]]! : '',
    }));
    return { name, text, used, glsl: glsl.text, samplers, cpu };
  });
  const data = Object.fromEntries(
    Object.entries(RESOURCES).map(([name, { cpu, shape }]) => [name, { cpu, shape: shape ?? null }]),
  );
  const results = await page.evaluate(
    ([list, given]) =>
      (
        window as unknown as {
          drawTextured(l: unknown, d: unknown): Promise<{ gpu: number[] | string; gl: number[] | string }[]>;
        }
      ).drawTextured(list, given),
    [programs, data] as const,
  );
  const wrong = programs.flatMap(({ name, cpu }, i) => {
    const { gpu, gl } = results[i]!;
    // Filtering weights have eight bits on many GPUs.
    const near = (other: number[] | string): boolean =>
      typeof other !== 'string' && cpu.every((x, k) => Math.abs(x - other[k]!) <= 0.012);
    return near(gpu) && (near(gl) || programs[i]!.glsl === '')
      ? []
      : [
          {
            name,
            cpu: cpu.slice(0, 8),
            gpu: typeof gpu === 'string' ? gpu : gpu.slice(0, 8),
            gl: typeof gl === 'string' ? gl : gl.slice(0, 8),
          },
        ];
  });
  expect(wrong).toEqual([]);
});

/** Runs inside the page, after gpuScript. */
const textureScript = `
const MODES = { repeat: 10497, 'mirror-repeat': 33648, 'clamp-to-edge': 33071 };
function gpuTexture(gpu, { cpu, shape }) {
  const { dimension, size } = shape;
  const format = dimension === 'depth' ? 'depth16unorm' : dimension === '2d-int' ? 'rgba32sint' : 'rgba16float';
  const texture = gpu.createTexture({ size, format, dimension: dimension === '3d' ? '3d' : '2d', mipLevelCount: 1 + (cpu.levels?.length ?? 0), usage: GPUTextureUsage.TEXTURE_BINDING | GPUTextureUsage.COPY_DST });
  [cpu.data, ...(cpu.levels ?? [])].forEach((data, level) => {
    const [w, h] = [size[0] >> level, size[1] >> level];
    const bytes = dimension === 'depth' ? Uint16Array.from(data.filter((_, i) => i % 4 === 0), (x) => Math.round(x * 65535)) : dimension === '2d-int' ? Int32Array.from(data) : new Float16Array(data);
    const texelBytes = dimension === 'depth' ? 2 : dimension === '2d-int' ? 16 : 8;
    gpu.queue.writeTexture({ texture, mipLevel: level }, bytes, { bytesPerRow: w * texelBytes, rowsPerImage: h }, [w, h, size[2]]);
  });
  const view = { '2d-array': '2d-array', cube: 'cube', '3d': '3d' }[dimension] ?? '2d';
  return texture.createView({ dimension: view });
}
function glTexture(gl, { cpu, shape }) {
  const { dimension, size } = shape;
  const target = { '2d-array': gl.TEXTURE_2D_ARRAY, cube: gl.TEXTURE_CUBE_MAP, '3d': gl.TEXTURE_3D }[dimension] ?? gl.TEXTURE_2D;
  const texture = gl.createTexture();
  gl.bindTexture(target, texture);
  gl.texParameteri(target, gl.TEXTURE_MAX_LEVEL, cpu.levels?.length ?? 0);
  [cpu.data, ...(cpu.levels ?? [])].forEach((data, level) => {
    const [w, h] = [size[0] >> level, size[1] >> level];
    const floats = new Float32Array(data);
    if (dimension === 'depth') gl.texImage2D(target, level, gl.DEPTH_COMPONENT16, w, h, 0, gl.DEPTH_COMPONENT, gl.UNSIGNED_SHORT, Uint16Array.from(data.filter((_, i) => i % 4 === 0), (x) => Math.round(x * 65535)));
    else if (dimension === '2d-int') gl.texImage2D(target, level, gl.RGBA32I, w, h, 0, gl.RGBA_INTEGER, gl.INT, Int32Array.from(data));
    else if (dimension === 'cube') for (let f = 0; f < 6; f++) gl.texImage2D(gl.TEXTURE_CUBE_MAP_POSITIVE_X + f, level, gl.RGBA16F, w, h, 0, gl.RGBA, gl.FLOAT, floats.slice(f * w * h * 4, (f + 1) * w * h * 4));
    else if (target === gl.TEXTURE_2D) gl.texImage2D(target, level, gl.RGBA16F, w, h, 0, gl.RGBA, gl.FLOAT, floats);
    else gl.texImage3D(target, level, gl.RGBA16F, w, h, size[2], 0, gl.RGBA, gl.FLOAT, floats);
  });
  // Read without a sampler it must be complete by itself.
  gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
  gl.texParameteri(target, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
  return { texture, target };
}
function glSampler(gl, cpu, shape) {
  const sampler = gl.createSampler();
  const linear = cpu.magFilter === 'linear';
  gl.samplerParameteri(sampler, gl.TEXTURE_MAG_FILTER, linear ? gl.LINEAR : gl.NEAREST);
  gl.samplerParameteri(sampler, gl.TEXTURE_MIN_FILTER, linear ? gl.LINEAR_MIPMAP_NEAREST : gl.NEAREST_MIPMAP_NEAREST);
  gl.samplerParameteri(sampler, gl.TEXTURE_WRAP_S, MODES[cpu.addressModeU]);
  gl.samplerParameteri(sampler, gl.TEXTURE_WRAP_T, MODES[cpu.addressModeV]);
  gl.samplerParameteri(sampler, gl.TEXTURE_WRAP_R, MODES['clamp-to-edge']);
  if (cpu.compare) {
    gl.samplerParameteri(sampler, gl.TEXTURE_COMPARE_MODE, gl.COMPARE_REF_TO_TEXTURE);
    gl.samplerParameteri(sampler, gl.TEXTURE_COMPARE_FUNC, gl.LEQUAL);
  }
  return sampler;
}
window.drawTextured = async (programs, given) => {
  const gpu = await getDevice();
  const gl = getGl();
  gl.getExtension('EXT_color_buffer_float');
  const vertex = gpu.createShaderModule({ code: '@vertex fn v(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return vec4f(f32(i & 1u) * 4 - 1, f32(i >> 1u) * 4 - 1, 0, 1); }' });
  const out = [];
  for (const { text, used, glsl, samplers } of programs) {
    const result = {};
    const module = gpu.createShaderModule({ code: text });
    const error = (await module.getCompilationInfo()).messages.find((m) => m.type === 'error');
    if (error) result.gpu = error.message;
    else {
      const pipeline = gpu.createRenderPipeline({ layout: 'auto', vertex: { module: vertex }, fragment: { module, targets: [{ format: 'rgba32float' }] } });
      const target = gpu.createTexture({ size: [4, 4], format: 'rgba32float', usage: GPUTextureUsage.RENDER_ATTACHMENT | GPUTextureUsage.COPY_SRC });
      const encoder = gpu.createCommandEncoder();
      const pass = encoder.beginRenderPass({ colorAttachments: [{ view: target.createView(), loadOp: 'clear', storeOp: 'store' }] });
      pass.setPipeline(pipeline);
      if (used.length > 0) {
        const entries = used.map((name, binding) => ({ binding, resource: given[name].shape ? gpuTexture(gpu, given[name]) : gpu.createSampler({ ...given[name].cpu }) }));
        pass.setBindGroup(0, gpu.createBindGroup({ layout: pipeline.getBindGroupLayout(0), entries }));
      }
      pass.draw(3);
      pass.end();
      const back = gpu.createBuffer({ size: 1024, usage: GPUBufferUsage.MAP_READ | GPUBufferUsage.COPY_DST });
      encoder.copyTextureToBuffer({ texture: target }, { buffer: back, bytesPerRow: 256 }, [4, 4]);
      gpu.queue.submit([encoder.finish()]);
      await back.mapAsync(GPUMapMode.READ);
      const floats = new Float32Array(back.getMappedRange());
      result.gpu = [0, 1, 2, 3].flatMap((y) => [...floats.slice(y * 64, y * 64 + 16)]);
    }
    const { program, error: glError } = build(gl, VERTEX, glsl);
    if (glError) result.gl = glError;
    else {
      const texture = gl.createTexture();
      gl.activeTexture(gl.TEXTURE15);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, 4, 4);
      gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
      gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
      gl.viewport(0, 0, 4, 4);
      gl.useProgram(program);
      samplers.forEach(({ key, texture: name, sampler }, unit) => {
        gl.activeTexture(gl.TEXTURE0 + unit);
        glTexture(gl, given[name]);
        gl.bindSampler(unit, sampler ? glSampler(gl, given[sampler].cpu) : null);
        gl.uniform1i(gl.getUniformLocation(program, key), unit);
      });
      // As the device sets it when drawing into a texture: rows from the top.
      gl.uniform4f(gl.getUniformLocation(program, 'umber_target'), 4, 4, -1, 0);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      const pixels = new Float32Array(64);
      gl.readPixels(0, 0, 4, 4, gl.RGBA, gl.FLOAT, pixels);
      result.gl = [...pixels];
      samplers.forEach((_, unit) => gl.bindSampler(unit, null));
    }
    out.push(result);
  }
  return out;
};
`;
