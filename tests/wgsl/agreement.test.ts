import type { Page } from 'playwright-core';
import { checkWgsl, compileWgsl, emitWgsl, reflect, runWgsl, toGlsl } from '@umber-lens/core/engine';
import { closeBrowser, openPage } from '../browser/stage.js';
import { INVALID } from './invalid.js';
import { VALID } from './valid.js';
import { compareProgram, disagreements } from './compare.js';
import { glslErrors, glslRun, gpuScript, webgpuErrors, webgpuRun, FRAGMENT_TAIL } from './gpu.js';

let page: Page;

beforeAll(async () => {
  ({ page } = await openPage({ webgpu: true }));
  await page.addScriptTag({ content: gpuScript });
});
afterAll(async () => {
  await page.close();
  await closeBrowser();
});

test('the corpus is large enough on both sides', () => {
  expect(VALID.length).toBeGreaterThanOrEqual(300);
  expect(INVALID.length).toBeGreaterThanOrEqual(300);
});

test('what we accept, the browser accepts', async () => {
  const theirs = await webgpuErrors(
    page,
    VALID.map(({ text }) => text),
  );
  const wrong = VALID.flatMap(({ name, text }, i) => {
    const ours = checkWgsl(text)[0]?.message;
    return ours || theirs[i] ? [{ name, ours, theirs: theirs[i] }] : [];
  });
  expect(wrong).toEqual([]);
});

test('what we refuse, the browser refuses', async () => {
  const theirs = await webgpuErrors(
    page,
    INVALID.map(({ text }) => text),
  );
  const wrong = INVALID.flatMap(({ name, text }, i) =>
    checkWgsl(text).length > 0 && theirs[i] ? [] : [{ name, text, theirs: theirs[i] }],
  );
  expect(wrong).toEqual([]);
});

test('what we write out again, whole and minified, the browser accepts', async () => {
  const written = VALID.flatMap(({ name, text }) => {
    const shader = compileWgsl(text);
    return [false, true].map((minify) => ({ name, text: emitWgsl(shader, { minify }) }));
  });
  const theirs = await webgpuErrors(
    page,
    written.map(({ text }) => text),
  );
  expect(written.flatMap((w, i) => (theirs[i] ? [{ ...w, theirs: theirs[i] }] : []))).toEqual([]);
});

test('every GLSL that is emitted compiles and links in WebGL2; the rest is refused with the reason', async () => {
  const pairs: { name: string; vertex: string; fragment: string }[] = [];
  const refused: string[] = [];
  for (const { name, text } of VALID) {
    // Functions without an entry point are called by one.
    const callable = reflect(compileWgsl(text)).entryPoints.length === 0 && /\bfn f\(\)/.test(text);
    const whole = callable
      ? `${text}\n@fragment fn umber_main() { ${/\bfn f\(\) *->/.test(text) ? '_ = f();' : 'f();'} }`
      : text;
    const shader = compileWgsl(whole);
    for (const entry of reflect(shader).entryPoints) {
      try {
        const constants = Object.fromEntries(reflect(shader).overrides.map((o) => [o.name, 1]));
        const glsl = toGlsl(shader, entry.name, constants);
        pairs.push({
          name,
          vertex: glsl.stage === 'vertex' ? glsl.text : vertexFor(glsl.text),
          fragment: glsl.stage === 'fragment' ? glsl.text : '',
        });
      } catch (error) {
        refused.push(`${name}: ${(error as Error).message.split('\n')[0]}`);
      }
    }
  }
  const errors = await glslErrors(page, pairs);
  expect(pairs.flatMap((pair, i) => (errors[i] ? [{ ...pair, error: errors[i] }] : []))).toEqual([]);
  expect(pairs.length).toBeGreaterThan(180);
  const reasons = /WebGL2 (has no|cannot)|textures and samplers must be/;
  expect(refused.filter((line) => !reasons.test(line))).toEqual([]);
});

/** A vertex stage that hands over what a fragment stage wants. */
function vertexFor(fragment: string): string {
  const varyings = [...fragment.matchAll(/^((?:flat |centroid )?)in (\w+) (umber_v\d+);$/gm)];
  const outs = varyings.map(([, how, type, name]) => `${how}out ${type} ${name};`).join('\n');
  const sets = varyings.map(([, , type, name]) => `${name} = ${type}(0);`).join(' ');
  return `#version 300 es\nprecision highp float;\nprecision highp int;\n${outs}\nvoid main() { gl_Position = vec4(0.0); ${sets} }`;
}

/** Each built-in function by itself, over arguments that depend on the invocation. */
const FLOATS: Record<string, string> = {
  acos: 'x * 0.09',
  acosh: '1 + abs(x)',
  asin: 'x * 0.09',
  asinh: 'x',
  atan: 'x',
  atanh: 'x * 0.09',
  ceil: 'x',
  cos: 'x',
  cosh: 'x * 0.3',
  degrees: 'x',
  exp: 'x * 0.5',
  exp2: 'x',
  floor: 'x',
  fract: 'x',
  inverseSqrt: 'abs(x) + 0.5',
  log: 'abs(x) + 0.5',
  log2: 'abs(x) + 0.5',
  radians: 'x',
  round: 'x',
  saturate: 'x * 0.2',
  sign: 'x',
  sin: 'x',
  sinh: 'x * 0.3',
  sqrt: 'abs(x)',
  tan: 'x * 0.1',
  tanh: 'x',
  trunc: 'x',
  abs: 'x',
  quantizeToF16: 'floor(x * 8) / 8',
};
const CALLS: Record<string, string> = {
  atan2: 'atan2(x, 2.5)',
  clamp: 'clamp(x, -1, 2)',
  cross: 'length(cross(v, vec3f(1, 2, 3)))',
  determinant: 'determinant(mat3x3f(v, v.yzx, vec3f(1, 2, 3)))',
  distance: 'distance(v, vec3f(1))',
  dot: 'dot(v, vec3f(1, 2, 3))',
  faceForward: 'faceForward(v, v, vec3f(1, 0, 0)).y',
  fma: 'fma(x, 2.5, 1.25)',
  frexp: 'frexp(x).fract + f32(frexp(x).exp)',
  ldexp: 'ldexp(x, 3)',
  length: 'length(v)',
  max: 'max(x, 0.5)',
  min: 'min(x, 0.5)',
  mix: 'mix(x, 2, 0.3)',
  modf: 'modf(x).fract',
  normalize: 'normalize(v + vec3f(9)).y',
  pow: 'pow(abs(x) + 0.1, 1.7)',
  reflect: 'reflect(v, normalize(vec3f(1, 2, 3))).x',
  refract: 'refract(normalize(v + vec3f(9)), normalize(vec3f(-1, -2, -3)), 0.7).y',
  select: 'select(x, -x, x > 0)',
  smoothstep: 'smoothstep(-2, 3, x)',
  step: 'step(0.5, x)',
  transpose: 'transpose(mat2x3f(v, v * 2))[2].y',
  unpack2x16float: 'unpack2x16float(pack2x16float(v.xy)).y',
  unpack2x16snorm: 'unpack2x16snorm(pack2x16snorm(v.xy * 0.1)).y',
  unpack2x16unorm: 'unpack2x16unorm(pack2x16unorm(v.xy * 0.1)).x',
  unpack4x8snorm: 'unpack4x8snorm(pack4x8snorm(vec4f(v * 0.1, 0.31))).y',
  unpack4x8unorm: 'unpack4x8unorm(pack4x8unorm(vec4f(v * 0.1, 0.31))).w',
  all: 'f32(all(v > vec3f(0)))',
  any: 'f32(any(v > vec3f(3)))',
};
const INTS: Record<string, string> = {
  countLeadingZeros: 'countLeadingZeros(w)',
  countOneBits: 'countOneBits(w)',
  countTrailingZeros: 'countTrailingZeros(w << (i & 7u))',
  firstLeadingBit: 'u32(firstLeadingBit(n)) + firstLeadingBit(w)',
  firstTrailingBit: 'firstTrailingBit(w << (i & 7u))',
  reverseBits: 'reverseBits(w)',
  extractBits: 'u32(extractBits(n, i, 9u)) ^ extractBits(w, 3u, i)',
  insertBits: 'insertBits(w, ~w, i, 5u)',
  dot4U8Packed: 'dot4U8Packed(w, 0x01020304u)',
  dot4I8Packed: 'u32(dot4I8Packed(w, 0xff02fe04u))',
  pack4xI8: 'pack4xI8(vec4i(n, 1, -n, 300))',
  pack4xU8: 'pack4xU8(vec4u(w, 1, w >> 3u, 300))',
  pack4xI8Clamp: 'pack4xI8Clamp(vec4i(n, 1, -n, 300))',
  pack4xU8Clamp: 'pack4xU8Clamp(vec4u(w, 1, i, 300))',
  unpack4xI8: 'u32(dot(unpack4xI8(w), vec4i(1, 2, 3, 4)))',
  unpack4xU8: 'dot(unpack4xU8(w), vec4u(1, 2, 3, 4))',
  pack4x8snorm: 'pack4x8snorm(vec4f(x * 0.1, 0.5, -2, 2))',
  pack4x8unorm: 'pack4x8unorm(vec4f(x * 0.1, 0.25, -2, 2))',
  pack2x16snorm: 'pack2x16snorm(vec2f(x * 0.1, -3))',
  pack2x16unorm: 'pack2x16unorm(vec2f(x * 0.1, 3))',
  pack2x16float: 'pack2x16float(vec2f(x, 0.1))',
  bitcast: 'bitcast<u32>(bitcast<f32>(bitcast<i32>(0x3f800000u + i)))',
  clampInt: 'u32(clamp(n, -3, 3)) + clamp(w, 5u, 900u)',
  absInt: 'u32(abs(n))',
  signInt: 'u32(sign(n))',
  dotInt: 'u32(dot(vec3i(n, 2, -3), vec3i(4, n, 6)))',
};
const setup =
  'let x = f32(i) - 7.3; let v = vec3f(x, x * 0.5 + 1, 2 - x); let w = i * 2654435761u + 12345u; let n = i32(w) >> 12u;';
const builtinPrograms = [
  ...Object.entries(FLOATS).map(([name, arg]) => ({ name, isFloat: true, expr: `${name}(${arg})` })),
  ...Object.entries(CALLS).map(([name, expr]) => ({ name, isFloat: true, expr })),
  ...Object.entries(INTS).map(([name, expr]) => ({ name, isFloat: false, expr })),
];

test('each built-in function gives the same on WebGPU, on WebGL2 and on the CPU', async () => {
  const texts = builtinPrograms.map(
    ({ expr, isFloat }) =>
      `fn program(i: u32) -> vec4u { ${setup} return vec4u(${isFloat ? `bitcast<u32>(f32(${expr}))` : expr}, 0, 0, 0); }`,
  );
  const shaders = texts.map((text) => compileWgsl(text + FRAGMENT_TAIL));
  const gpu = await webgpuRun(page, texts, 16);
  const gl = await glslRun(
    page,
    shaders.map((shader) => toGlsl(shader, 'umber_fragment')),
    16,
  );
  const view = new DataView(new ArrayBuffer(4));
  const float = (word: number): number => (view.setUint32(0, word), view.getFloat32(0));
  const wrong: unknown[] = [];
  builtinPrograms.forEach(({ name, isFloat }, p) => {
    for (let i = 0; i < 16; i++) {
      const cpu = (runWgsl(shaders[p]!, 'program', [i]) as number[])[0]!;
      for (const [where, result] of [
        ['WebGPU', gpu[p]!],
        ['WebGL2', gl[p]!],
      ] as const) {
        const other = typeof result === 'string' ? result : result[i * 4]!;
        if (other === cpu) continue;
        // Accuracy of the specification (15.7.4): for most about 2^-11 absolute or 4 units of the last place.
        const [a, b] = [float(cpu), typeof other === 'number' ? float(other) : Number.NaN];
        const isNear = isFloat && Math.abs(a - b) <= Math.max(2 ** -11, Math.abs(a) * 2 ** -11);
        if (!isNear)
          wrong.push({
            name,
            i,
            where,
            cpu: isFloat ? a : cpu,
            other: isFloat && typeof other === 'number' ? b : other,
          });
      }
    }
  });
  expect(wrong).toEqual([]);
});

test.each([1, 26])('15 random programs from seed %i agree to the last bit on all three', async (seed) => {
  const found = await disagreements(page, seed, 15);
  if (found.length > 0) throw new Error(await compareProgram(page, found[0]!));
});
