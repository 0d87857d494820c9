import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { compileWgsl, toGlsl } from '@umber-lens/core/engine';
import type { Browser } from 'playwright-core';
import { race, row, type Row } from './measure.js';
import { LIT_BY_HAND } from './pages/lit-by-hand.js';

const lit = readFileSync(fileURLToPath(new URL('./shaders/lit.wgsl', import.meta.url)), 'utf8');

/** Compiling to GLSL, against reading the same text once, letter by letter; and how it grows with the text. */
export async function compileTimes(): Promise<Row[]> {
  const scan = (text: string): number => {
    let words = 0;
    for (const match of text.matchAll(/\w+|[^\s\w]/g)) words += match[0].length;
    return words;
  };
  // Once as it is, and eight and sixty-four times in one module under other names.
  const body = lit
    .replace(/^(?:struct (?:Light|Scene)\b|@group).*\n/gm, '')
    .replace(
      '@fragment fn main(@builtin(position) at: vec4f) -> @location(0) vec4f',
      'fn main(at: vec4f) -> vec4f',
    );
  const names = /\b(PI|Surface|distribution|visibility|schlick|shine|main)\b/g;
  const repeated = (n: number): string =>
    lit + Array.from({ length: n - 1 }, (_, i) => body.replace(names, `$1_${i}`)).join('\n');
  const [small, large] = [repeated(8), repeated(64)];
  const compile = (text: string) => (): void => void toGlsl(compileWgsl(text), 'main');
  const times = await race(
    { ours: compile(lit), scan: () => void scan(lit), small: compile(small), large: compile(large) },
    31,
  );
  return [
    row(
      'compiling the lit shader to GLSL, against a plain scan of its text',
      times['ours']!,
      times['scan']!,
      'ms',
    ),
    row(
      'compiling 8 times the text, against 8 compilations of 1/8 (1: linear)',
      times['large']!,
      times['small']! * 8,
      'ms',
      1.6,
    ),
  ];
}

/** One full-screen picture of 320x200 with 8 lights, by the emitted GLSL and by hand-written GLSL. */
export async function emittedGlsl(browser: Browser): Promise<Row> {
  const page = await browser.newPage();
  await page.setContent('<canvas width="320" height="200"></canvas>');
  const emitted = toGlsl(compileWgsl(lit), 'main').text;
  const [ours, hand] = await page.evaluate(drawBoth, [emitted, LIT_BY_HAND] as const);
  await page.close();
  return row('a frame of 320x200 with 8 lights, emitted GLSL against hand-written', ours!, hand!, 'ms', 1.15);
}

/** Runs inside the page: medians of frames drawn in turn. */
function drawBoth(texts: readonly [string, string]): number[] {
  const gl = document.querySelector('canvas')!.getContext('webgl2')!;
  const VERTEX =
    '#version 300 es\nvoid main() { gl_Position = vec4(float(gl_VertexID & 1) * 4.0 - 1.0, float(gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }';
  const data = new ArrayBuffer(16 + 8 * 32);
  new Uint32Array(data)[0] = 8;
  const floats = new Float32Array(data);
  floats[1] = 0.4;
  for (let i = 0; i < 8; i++) floats.set([Math.cos(i) * 3, Math.sin(i) * 3, 2.5, 1, 3, 2.5, 2, 1], 4 + i * 8);
  const buffer = gl.createBuffer();
  gl.bindBuffer(gl.UNIFORM_BUFFER, buffer);
  gl.bufferData(gl.UNIFORM_BUFFER, data, gl.STATIC_DRAW);
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, buffer);
  const programs = texts.map((text) => {
    const program = gl.createProgram();
    for (const [type, source] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, text],
    ] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS))
      throw new Error(gl.getProgramInfoLog(program) ?? 'no link');
    return program;
  });
  const pixels = new Uint8Array(320 * 200 * 4);
  const times: number[][] = [[], []];
  const sums: number[] = [];
  for (let round = -5; round < 60; round++) {
    programs.forEach((program, i) => {
      const start = performance.now();
      gl.useProgram(program);
      for (let k = 0; k < 4; k++) gl.drawArrays(gl.TRIANGLES, 0, 3);
      gl.readPixels(0, 0, 320, 200, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
      if (round >= 0) times[i]!.push((performance.now() - start) / 4);
      sums[i] = pixels.reduce((a, b) => a + b, 0);
    });
  }
  // The same picture, or the comparison means nothing; the two turn over differently.
  if (Math.abs(sums[0]! - sums[1]!) > pixels.length * 0.02)
    throw new Error(`the pictures differ: ${sums.join(' ')}`);
  return times.map((list) => list.sort((a, b) => a - b)[list.length >> 1]!);
}
