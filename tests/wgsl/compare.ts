import type { Page } from 'playwright-core';
import { compileWgsl, runWgsl, toGlsl } from '@umber-lens/core/engine';
import { generate, type Program, programText, smaller } from './generate.js';
import { FRAGMENT_TAIL, glslRun, webgpuRun } from './gpu.js';

const COUNT = 8;

/** Results of a program on the CPU, or what went wrong. */
function onCpu(text: string): number[] | string {
  try {
    const shader = compileWgsl(text);
    return Array.from({ length: COUNT }, (_, i) => runWgsl(shader, 'program', [i]) as number[]).flat();
  } catch (error) {
    return `CPU: ${String(error)}`;
  }
}

async function results(
  page: Page,
  programs: Program[],
): Promise<{ cpu: number[] | string; gpu: number[] | string; gl: number[] | string }[]> {
  const texts = programs.map(programText);
  const cpu = texts.map(onCpu);
  const gpu = await webgpuRun(page, texts, COUNT);
  const shaders = texts.map((text) => {
    try {
      return toGlsl(compileWgsl(text + FRAGMENT_TAIL), 'umber_fragment');
    } catch (error) {
      return { text: `// ${String(error)}` } as ReturnType<typeof toGlsl>;
    }
  });
  const gl = await glslRun(page, shaders, COUNT);
  return texts.map((_, i) => ({ cpu: cpu[i]!, gpu: gpu[i]!, gl: gl[i]! }));
}

/** Bits agree; the two zeros of floating point are one, and so is any NaN. */
function same(a: number[] | string, b: number[] | string): boolean {
  if (typeof a === 'string' || typeof b === 'string') return false;
  return a.every((x, i) => x === b[i] || (i % 4 > 0 && ((x << 1) | (b[i]! << 1)) === 0));
}

/** Programs from a seed on that do not agree everywhere. */
export async function disagreements(page: Page, firstSeed: number, n: number): Promise<Program[]> {
  const found: Program[] = [];
  let refused = 0;
  for (let seed = firstSeed; seed < firstSeed + n; seed += 25) {
    const programs = Array.from({ length: Math.min(25, firstSeed + n - seed) }, (_, i) => generate(seed + i));
    const all = await results(page, programs);
    all.forEach(({ cpu, gpu, gl }, i) => {
      // A program that neither of the two compilers takes is agreed upon as well.
      if (typeof cpu === 'string' && typeof gpu === 'string') refused++;
      else if (!same(cpu, gpu) || !same(cpu, gl)) found.push(programs[i]!);
    });
  }
  if (refused > n / 4) throw new Error(`${refused} of ${n} programs do not compile: the generator is off`);
  return found;
}

/** Cuts a disagreeing program down and tells what it is. */
export async function compareProgram(page: Page, start: Program): Promise<string> {
  let program = start;
  for (let isSmaller = true; isSmaller;) {
    isSmaller = false;
    for (const candidate of smaller(program)) {
      const [result] = await results(page, [candidate]);
      const { cpu, gpu, gl } = result!;
      // A cut that no longer compiles anywhere is another program, not a smaller one.
      if (typeof cpu === 'string' && typeof gpu === 'string') continue;
      if (same(cpu, gpu) && same(cpu, gl)) continue;
      program = candidate;
      isSmaller = true;
      break;
    }
  }
  const [{ cpu, gpu, gl }] = (await results(page, [program])) as [Awaited<ReturnType<typeof results>>[0]];
  const shown = (r: number[] | string): string => (typeof r === 'string' ? r : r.join(' '));
  return `seed ${program.seed}\n${programText(program)}\nCPU    ${shown(cpu)}\nWebGPU ${shown(gpu)}\nWebGL2 ${shown(gl)}`;
}
