import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeGlb } from '@umber-lens/core/engine';
import type { DrawingHost, Shot } from '../host/host.js';
import { openModel } from '../open/open-model.js';

/** How far pictures of a model before and after lie apart, in steps of 255. */
export interface LookDifference {
  /** Of the pixels that the model covers, in the picture where it is largest. */
  mean: number;
  /** Of any pixel in any picture. */
  largest: number;
  /** By picture, all around: the mean of each. */
  sides: number[];
}

const SIDES = 6;
const SIZE = { width: 480, height: 360 };

/** Draws a model before and after from all around, and tells how far the pictures lie apart. */
export async function lookDifference(
  { file, allowOutside }: { file: string; allowOutside: boolean },
  after: Uint8Array,
  host: DrawingHost,
): Promise<LookDifference> {
  const folder = await mkdtemp(join(tmpdir(), 'umber-look-'));
  try {
    const trimmed = join(folder, 'trimmed.glb');
    await writeFile(trimmed, after);
    const given = await openModel(file, { allowOutside });
    // A sheet has light of its own: what is compared are its things.
    const whole = join(folder, 'whole.glb');
    if (given.sheet) await writeFile(whole, writeGlb(given.asset));
    const models = [given.sheet ? await openModel(whole) : given, await openModel(trimmed)];
    return await host.with({ models, files: [file, trimmed] }, async (drawing) => {
      const sides = async (model: number): Promise<Uint8Array[]> => {
        const pictures: Uint8Array[] = [];
        await drawing.draw(model, ALL_AROUND, (pixels) => {
          pictures.push(pixels.slice());
          return Promise.resolve();
        });
        return pictures;
      };
      return differenceOf(await sides(0), await sides(1));
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export function differenceOf(before: readonly Uint8Array[], after: readonly Uint8Array[]): LookDifference {
  let largest = 0;
  const sides = before.map((a, side) => {
    const b = after[side]!; // as many
    let [sum, covered] = [0, 0];
    for (let i = 0; i < a.length; i += 4) {
      if (a[i + 3] === 0 && b[i + 3] === 0) continue;
      covered++;
      let most = 0;
      for (let k = 0; k < 4; k++) most = Math.max(most, Math.abs(a[i + k]! - b[i + k]!)); // four a pixel
      largest = Math.max(largest, most);
      sum += most;
    }
    return covered > 0 ? sum / covered : 0;
  });
  return { mean: Math.max(0, ...sides), largest, sides };
}

/** The picture of a model on nothing, from all around. */
const ALL_AROUND: Shot = {
  ...SIZE,
  clearColor: [0, 0, 0, 0],
  exposure: 0,
  toneMapping: 'soft',
  show: 'shaded',
  shadows: false,
  film: { frames: SIDES, fps: 1, turns: 1 },
  allowOutside: true,
};
