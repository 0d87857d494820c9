/** Makes every model of the demo, its evening sky and its grading. The same bytes each time: `npm run assets`. */
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { skyPanorama, writeGlb, writeGltf, writeHdr } from '@umber-lens/core/engine';
import { figurehead } from './figurehead.js';
import { gull } from './gull.js';
import { crab } from './crab.js';
import { harbour, looseBuoy, looseCrate } from './harbour.js';
import { stormGrading } from './storm-grading.js';
import { tug } from './tug.js';

/** Towards the sun: low over the sea. */
const EVENING: [number, number, number] = [-0.8, 0.12, -0.59];

export async function makeAssets(folder: string): Promise<string[]> {
  const files = new Map<string, Uint8Array>();
  files.set('harbour.glb', writeGlb(await harbour()));
  files.set('tug.glb', writeGlb(tug()));
  files.set('gull.glb', writeGlb(gull()));
  files.set('crab.glb', writeGlb(crab()));
  files.set('crate.glb', writeGlb(await looseCrate()));
  files.set('figurehead.glb', writeGlb(figurehead()));
  for (const [name, bytes] of writeGltf(await looseBuoy(), 'buoy')) files.set(`buoy/${name}`, bytes);
  files.set('evening.hdr', writeHdr(skyPanorama({ sunDirection: EVENING, turbidity: 4, height: 64 })));
  files.set('storm.cube', new TextEncoder().encode(stormGrading()));
  for (const [name, bytes] of files) {
    const path = join(folder, name);
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, bytes);
  }
  return [...files].map(([name, bytes]) => `${name} ${(bytes.length / 1024).toFixed(0)} kB`);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const folder = process.argv[2] ?? join(dirname(fileURLToPath(import.meta.url)), '../public/models');
  for (const line of await makeAssets(folder)) console.log(line);
}
