import type { Page } from 'playwright-core';
import { compileWgsl, type CpuTexture, runWgsl, toGlsl } from '@umber-lens/core/engine';
import { closeBrowser, openPage } from '../browser/stage.js';
import { COMPUTE_TAIL, FRAGMENT_TAIL, glslRun, gpuScript, storageTexels, webgpuRun } from './gpu.js';

let page: Page;

beforeAll(async () => {
  ({ page } = await openPage({ webgpu: true }));
  await page.addScriptTag({ content: gpuScript });
});
afterAll(async () => {
  await page.close();
  await closeBrowser();
});

const onCpu = (text: string): number[] => {
  const shader = compileWgsl(text + COMPUTE_TAIL);
  // Each invocation of the GPU's run begins with workgroup memory of its own.
  return Array.from({ length: 4 }, (_, i) => runWgsl(shader, 'program', [i]) as number[]).flat();
};

/** Programs of a workgroup of one, whose memory is all its own. */
const ALONE: [string, string][] = [
  [
    'atomicAdd, atomicSub, atomicMax, atomicMin',
    `var<workgroup> w: array<atomic<u32>, 4>;
     fn program(i: u32) -> vec4u {
       atomicStore(&w[0], i + 7); atomicStore(&w[1], 3); atomicStore(&w[2], i); atomicStore(&w[3], i * 5);
       let before = atomicAdd(&w[0], 4294967290) + atomicSub(&w[1], 5) + atomicMax(&w[2], 2) + atomicMin(&w[3], 6);
       return vec4u(atomicLoad(&w[0]), atomicLoad(&w[1]), atomicLoad(&w[2]) * 16 + atomicLoad(&w[3]), before);
     }`,
  ],
  [
    'atomicAnd, atomicOr, atomicXor, atomicExchange',
    `var<workgroup> w: array<atomic<i32>, 4>;
     fn program(i: u32) -> vec4u {
       for (var k = 0; k < 4; k++) { atomicStore(&w[k], i32(i) * 37 - 50); }
       let before = atomicAnd(&w[0], 12) + atomicOr(&w[1], 9) + atomicXor(&w[2], -1) + atomicExchange(&w[3], -2);
       return vec4u(u32(atomicLoad(&w[0])), u32(atomicLoad(&w[1])), u32(atomicLoad(&w[2]) - atomicLoad(&w[3])), u32(before));
     }`,
  ],
  [
    'signed atomicMax, atomicMin and wrapping atomicAdd',
    `var<workgroup> a: atomic<i32>; var<workgroup> b: atomic<i32>; var<workgroup> c: atomic<i32>;
     fn program(i: u32) -> vec4u {
       atomicStore(&a, -5); atomicStore(&b, -5); atomicStore(&c, 2147483647);
       atomicMax(&a, i32(i) - 6); atomicMin(&b, i32(i) - 6); atomicAdd(&c, i32(i));
       return vec4u(u32(atomicLoad(&a)), u32(atomicLoad(&b)), u32(atomicLoad(&c)), 0);
     }`,
  ],
  [
    'atomicCompareExchangeWeak that does not match',
    `var<workgroup> a: atomic<u32>;
     fn program(i: u32) -> vec4u {
       atomicStore(&a, i + 10);
       let r = atomicCompareExchangeWeak(&a, 5, 77);
       return vec4u(r.old_value, u32(r.exchanged), atomicLoad(&a), 0);
     }`,
  ],
  [
    'workgroupBarrier, storageBarrier and workgroupUniformLoad',
    `var<workgroup> w: array<u32, 4>; var<workgroup> a: atomic<u32>;
     fn program(i: u32) -> vec4u {
       w[i % 4] = i * i; atomicStore(&a, i + 2);
       workgroupBarrier(); storageBarrier();
       return vec4u(w[i % 4], workgroupUniformLoad(&w[2]), workgroupUniformLoad(&a), 1);
     }`,
  ],
  [
    'workgroup memory begins with zeros',
    `struct S { a: u32, b: vec3f } var<workgroup> s: S;
     fn program(i: u32) -> vec4u { s.a += i; return vec4u(s.a, bitcast<vec3u>(s.b)); }`,
  ],
  [
    'bufferView writes and reads what it wrote',
    `struct S { a: u32, b: vec3f, c: array<vec2i, 2> } var<workgroup> w: buffer<128>;
     fn fill(p: ptr<workgroup, S>, i: u32) { p.a = i; p.b.y = 1.5; (*p).b.z = f32(i); p.c[1] = vec2i(i32(i), -3); p.c[0].y += 4; }
     fn program(i: u32) -> vec4u {
       fill(bufferView<S>(&w, 16), i);
       let words = bufferView<array<u32, 32>>(&w, 0);
       return vec4u(words[4], words[9] + words[10], words[13], words[14] + words[15] + bufferLength(&w));
     }`,
  ],
  [
    'bufferArrayView has the length of its size',
    `var<workgroup> w: buffer<128>;
     fn program(i: u32) -> vec4u {
       let list = bufferArrayView<array<vec3f>>(&w, i * 16, 32);
       list[1] = vec3f(1, f32(i), 3);
       let whole = bufferView<array<vec4u>>(&w, 0);
       return vec4u(arrayLength(list), arrayLength(whole), whole[i + 1].y, whole[1].x);
     }`,
  ],
];

test.each(ALONE)('%s: WebGPU and the CPU agree', async (_, text) => {
  const [gpu] = await webgpuRun(page, [text], 4);
  expect(onCpu(text)).toEqual(gpu);
});

test('a subgroup of one: WebGPU and the CPU agree', async () => {
  const text = `enable subgroups;
    fn program(i: u32) -> vec4u {
      let f = f32(i) + 0.5;
      let sums = subgroupAdd(i) + subgroupMul(i) * 3 + subgroupInclusiveAdd(i) * 5 + subgroupExclusiveAdd(i) * 7;
      let more = subgroupExclusiveMul(i) + subgroupInclusiveMul(i) + subgroupAnd(i) + subgroupOr(i) + subgroupXor(i);
      let sides = vec2f(subgroupMin(f), subgroupMax(vec2f(f, 1)).y) + vec2f(subgroupBroadcast(f, 0), subgroupBroadcastFirst(f));
      let yes = u32(subgroupElect()) + u32(subgroupAll(i > 1)) * 2 + u32(subgroupAny(i > 2)) * 4 + u32(subgroupShuffle(i, 0)) * 8;
      return vec4u(sums, more, u32(sides.x * 16 + sides.y), yes) + subgroupBallot(i > 0);
    }`;
  const [gpu] = await webgpuRun(page, [text], 4);
  expect(onCpu(text)).toEqual(gpu);
  const other = compileWgsl(
    'enable subgroups; fn f(x: f32) -> f32 { return subgroupShuffle(x, 3) + quadSwapX(x); }',
  );
  expect(() => runWgsl(other, 'f', [1])).toThrow(/one runs at a time/);
});

test('views into read-only buffers: WebGPU, WebGL2 and the CPU agree', async () => {
  const data = Array.from({ length: 64 }, (_, i) => (i * 2654435761) >>> 0);
  const text = `struct S { a: u32, b: vec3<u32>, list: array<vec2u> }
    @group(0) @binding(1) var<storage> b: buffer;
    fn part(p: ptr<storage, S>, i: u32) -> u32 { return p.a + p.b.z + p.list[i].y + arrayLength(&p.list); }
    fn program(i: u32) -> vec4u {
      let at = i * 16;
      let view = bufferView<vec2u>(&b, at + 8);
      return vec4u(view.y, bufferView<array<u32>>(&b, 12)[i], part(bufferView<S>(&b, 16), i),
        bufferLength(&b) + arrayLength(bufferArrayView<array<u32>>(&b, at, 40)) + (*bufferView<vec4u>(&b, at)).w);
    }`;
  const shader = compileWgsl(text);
  const cpu = Array.from({ length: 4 }, (_, i) =>
    runWgsl(shader, 'program', [i], { resources: { b: data } }),
  );
  const [gpu] = await webgpuRun(page, [text], 4, data);
  const [gl] = await glslRun(page, [toGlsl(compileWgsl(text + FRAGMENT_TAIL), 'umber_fragment')], 4, data);
  expect(cpu.flat()).toEqual(gpu);
  expect(gl).toEqual(gpu);
});

const FORMATS =
  'rgba8unorm rgba8snorm rgba8uint rgba8sint rgba16uint rgba16sint rgba16float r32float rg32float rgba32float r32uint rg32sint rgba32sint'.split(
    ' ',
  );

test.each(FORMATS)('textureStore into %s holds the same on WebGPU and the CPU', async (format) => {
  const of = format.endsWith('uint') ? 'u32' : format.endsWith('sint') ? 'i32' : 'f32';
  const value = {
    f32: 'vec4f(f32(at.x) * 0.37 - 0.6, f32(at.y) * 0.171, 1.25 - f32(at.x) * 0.1, 0.3337)',
    i32: 'vec4i(at.x * 50 - 60, at.y * -70, 300 * at.x, 1000)',
    u32: 'vec4u(vec2u(at) * 90u, 7u, 70000u)',
  }[of];
  const text = `@group(0) @binding(0) var picture: texture_storage_2d<${format}, write>;
    fn paint(at: vec2i) { textureStore(picture, at, ${value}); }
    @compute @workgroup_size(1) fn main(@builtin(global_invocation_id) id: vec3u) { paint(vec2i(id.xy)); }`;
  const shader = compileWgsl(text);
  const picture: CpuTexture = { width: 4, height: 4, data: new Array<number>(64).fill(0) };
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 4; x++) runWgsl(shader, 'paint', [[x, y]], { resources: { picture } });
  // Outside of the texture nothing happens.
  runWgsl(shader, 'paint', [[4, 0]], { resources: { picture } });
  runWgsl(shader, 'paint', [[0, -1]], { resources: { picture } });
  const gpu = await storageTexels(page, text, format, of, 4);
  // A normalised value halfway between two steps may go either way.
  const step = /8(u|s)norm/.test(format) ? 1 / 127 : 0;
  Array.from(picture.data).forEach((x, i) => expect(Math.abs(x - gpu[i]!)).toBeLessThanOrEqual(step));
});
