/** 20,000 moving boxes, drawn in several ways in one page: the same matrices, the same light, the same picture. */
import { lensOn, openLens } from 'umber-lens';
import { WebgpuDevice } from 'umber-lens/device';
import { handWebgl2, waitFor } from './hand-webgl2.js';
import { handWebgpu } from './hand-webgpu.js';
import type { Way } from './motion.js';
import { ours } from './ours.js';

export interface BoxesResult {
  [way: string]: { script: number; whole: number; draws: number };
}

/** Medians in milliseconds, over rounds in which the ways take turns. */
async function boxes(rounds: number, backend: 'webgl2' | 'webgpu'): Promise<BoxesResult> {
  const ways = await (backend === 'webgl2' ? webgl2Ways() : webgpuWays());
  const samples: Record<string, { script: number[]; whole: number[] }> = {};
  for (let round = -5; round < rounds; round++) {
    for (const [name, way] of Object.entries(ways)) {
      const start = performance.now();
      way.frame(round * 0.016);
      const scripted = performance.now();
      await way.finish();
      const done = performance.now();
      // As between the frames of a page, whatever waits may run.
      await new Promise((resolve) => setTimeout(resolve, 0));
      if (round < 0) continue;
      const sample = (samples[name] ??= { script: [], whole: [] });
      sample.script.push(scripted - start);
      sample.whole.push(done - start);
    }
  }
  const middle = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!;
  return Object.fromEntries(
    Object.entries(samples).map(([name, { script, whole }]) => [
      name,
      { script: middle(script), whole: middle(whole), draws: ways[name]!.draws },
    ]),
  );
}

async function webgl2Ways(): Promise<Record<string, Way>> {
  const way = async (inBulk: boolean): Promise<Way> => {
    const canvas = Object.assign(document.createElement('canvas'), { width: 320, height: 200 });
    const lens = await openLens(canvas, { backend: 'webgl2', pixelRatio: 1, antialias: false });
    const gl = canvas.getContext('webgl2')!;
    return ours(lens, inBulk, () => waitFor(gl));
  };
  return {
    setters: await way(false),
    bulk: await way(true),
    instanced: handWebgl2(true),
    loop: handWebgl2(false),
  };
}

async function webgpuWays(): Promise<Record<string, Way>> {
  const adapter = await navigator.gpu.requestAdapter();
  const gpu = await adapter!.requestDevice();
  const way = (inBulk: boolean): Way =>
    ours(lensOn(new WebgpuDevice(gpu), { antialias: false }), inBulk, () => gpu.queue.onSubmittedWorkDone());
  return { setters: way(false), bulk: way(true), instanced: handWebgpu(gpu) };
}

Object.assign(window, { boxes });
