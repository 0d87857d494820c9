import { readFileSync } from 'node:fs';
import { readModel, writeGlb, writeGltf, writeObj, writePly, writeStl } from '@umber-lens/core';

export interface Seedling {
  name: string;
  bytes: Uint8Array;
  files: Map<string, Uint8Array>;
}

/** One small model in every format. */
export async function seedlings(): Promise<Seedling[]> {
  const bytes = new Uint8Array(readFileSync('examples/public/models/crate.glb'));
  const asset = await readModel(bytes);
  const { files } = writeObj(asset, 'crate');
  const gltf = writeGltf(asset, 'crate');
  return [
    { name: 'glb', bytes: writeGlb(asset), files: new Map() },
    { name: 'gltf', bytes: gltf.get('crate.gltf')!, files: gltf },
    { name: 'obj', bytes: files.get('crate.obj')!, files },
    { name: 'mtl', bytes: files.get('crate.mtl')!, files },
    { name: 'ply', bytes: writePly(asset), files: new Map() },
    { name: 'ply ascii', bytes: writePly(asset, { kind: 'ascii' }), files: new Map() },
    { name: 'stl', bytes: writeStl(asset), files: new Map() },
    { name: 'stl ascii', bytes: writeStl(asset, { kind: 'ascii' }), files: new Map() },
  ];
}

/** Park and Miller (1988). */
export function chance(seed: number): () => number {
  let state = (seed % 2147483646) + 1;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

/** A copy with some bytes changed, cut out, doubled or put in. */
export function mutated(bytes: Uint8Array, next: () => number): Uint8Array {
  let out = [...bytes];
  const times = 1 + Math.floor(next() * 4);
  for (let i = 0; i < times; i++) {
    const at = Math.floor(next() * out.length);
    const length = 1 + Math.floor(next() ** 3 * 200);
    const what = next();
    if (what < 0.4) out[at] = Math.floor(next() * 256);
    else if (what < 0.55) out.splice(at, length);
    else if (what < 0.7) out.splice(at, 0, ...out.slice(at, at + length));
    else if (what < 0.8) out = out.slice(0, at);
    else if (what < 0.9) out.splice(at, 4, 255, 255, 255, 127 + Math.floor(next() * 2) * 128);
    else out.splice(at, 0, ...[...'-1 1e999 nan 4294967295 /'].map((letter) => letter.charCodeAt(0)));
  }
  return Uint8Array.from(out);
}

/** Reads what came of it. @returns how it ended: well, with a code, or with what should never be */
export async function readMutated({ name, files }: Seedling, bytes: Uint8Array): Promise<string> {
  const model = name === 'mtl' ? files.get('crate.obj')! : bytes;
  try {
    await readModel(model, {
      file: name,
      resolve: (path) => {
        const found = name === 'mtl' && path.endsWith('.mtl') ? bytes : files.get(path);
        return found
          ? Promise.resolve(found)
          : Promise.reject(Object.assign(new Error(path), { name: 'Gone' }));
      },
    });
    return 'well';
  } catch (error) {
    const { code, name: kind } = error as { code?: string; name: string };
    if (kind === 'Gone') return 'gone';
    return code !== undefined && kind === 'LensError' ? code : `FAULT ${String((error as Error).stack)}`;
  }
}
