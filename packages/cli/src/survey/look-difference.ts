import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ShotAnswer, ShotRequest } from '../browser/shot.js';
import { askPage, withPage } from '../browser/with-page.js';
import { choosesNode } from '../node-gpu/choose.js';
import { type OpenedModel, openModel } from '../open/open-model.js';

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

/**
 * Draws a model before and after from all around, and tells how far the pictures lie apart. Whoever asks for it has looked
 * whether the process must begin again: see `beginsAgain`.
 */
export async function lookDifference(
  { file, allowOutside }: { file: string; allowOutside: boolean },
  after: Uint8Array,
  backend: 'webgpu' | 'webgl2' | 'node' | undefined,
): Promise<LookDifference> {
  const folder = await mkdtemp(join(tmpdir(), 'umber-look-'));
  try {
    const trimmed = join(folder, 'trimmed.glb');
    await writeFile(trimmed, after);
    const models = [await openModel(file, { allowOutside }), await openModel(trimmed)];
    const pictures = (await choosesNode(backend)) ? await inNode(models) : await inBrowser(models, backend);
    return differenceOf(pictures[0]!, pictures[1]!); // two models
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

const requestOf = (url: string, backend: 'webgpu' | 'webgl2' | undefined): ShotRequest => ({
  url,
  ...SIZE,
  ...(backend ? { backend } : {}),
  clearColor: [0, 0, 0, 0],
  exposure: 0,
  toneMapping: 'soft',
  show: 'shaded',
  shadows: false,
  film: { frames: SIDES, fps: 1, turns: 1 },
  allowOutside: true,
});

async function inBrowser(
  models: readonly OpenedModel[],
  backend: 'webgpu' | 'webgl2' | 'node' | undefined,
): Promise<Uint8Array[][]> {
  return withPage(
    models.map(({ files }) => files),
    undefined,
    async (page, addresses) => {
      const pictures: Uint8Array[][] = addresses.map(() => []);
      let drawing = 0;
      await page.exposeFunction(
        'keepFrame',
        (pixels: string) => void pictures[drawing]!.push(Buffer.from(pixels, 'base64')),
      ); // one a model
      for (const [i, address] of addresses.entries()) {
        drawing = i;
        await askPage<ShotAnswer>(
          page,
          'takeShot',
          requestOf(address, backend === 'node' ? undefined : backend),
          address,
        );
      }
      return pictures;
    },
  );
}

async function inNode(models: readonly OpenedModel[]): Promise<Uint8Array[][]> {
  const { drawInNode } = await import('../node-gpu/draw-in-node.js');
  const all: Uint8Array[][] = [];
  for (const model of models) {
    const pictures: Uint8Array[] = [];
    await drawInNode(model, requestOf('', undefined), undefined, (pixels) => {
      pictures.push(pixels.slice());
      return Promise.resolve();
    });
    all.push(pictures);
  }
  return all;
}
