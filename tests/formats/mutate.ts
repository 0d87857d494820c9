import { readFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { readContainer } from '../../packages/core/src/formats/gltf/read/container.js';
import {
  decodeKtx2,
  readKtx2Panorama,
  readModel,
  readPng16,
  unpackDraco,
  writeGlb,
  writeGltf,
  writeObj,
  writePly,
  writeStl,
} from '@umber-lens/core/engine';

export interface Seedling {
  name: string;
  bytes: Uint8Array;
  files: Map<string, Uint8Array>;
  /** What reads it; left out: `readModel`. */
  read?: (bytes: Uint8Array) => Promise<unknown>;
}

/** One small model in every format, and pictures in those of our own readers. */
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
    { name: 'draco', bytes: recast('--draco'), files: new Map() },
    { name: 'draco mesh', bytes: await packedMesh(), files: new Map(), read: unpackMesh },
    { name: 'uastc', bytes: await universal(true), files: new Map(), read: decodeKtx2 },
    { name: 'etc1s', bytes: await universal(false), files: new Map(), read: decodeKtx2 },
    { name: 'ktx2 panorama', bytes: await universal(true), files: new Map(), read: readKtx2Panorama },
    { name: 'png of 16 bits', bytes: await deep(), files: new Map(), read: readPng16 },
  ];
}

/** The crate as the command writes it. */
function recast(option: string): Uint8Array {
  const { stdout } = spawnSync(process.execPath, [
    ...[
      'packages/cli/bin/umber.mjs',
      'recast',
      'examples/public/models/crate.glb',
      '-',
      '--to',
      'glb',
      option,
    ],
  ]);
  return new Uint8Array(stdout);
}

/** The packed mesh alone. */
async function packedMesh(): Promise<Uint8Array> {
  const glb = recast('--draco');
  const { json, binary } = await readContainer(glb, 'crate');
  const [view] = (json as { bufferViews: { byteOffset?: number; byteLength: number }[] }).bufferViews;
  const { byteLength, byteOffset = 0 } = view!; // written just before
  return binary!.slice(byteOffset, byteOffset + byteLength);
}

/** What goes wrong is told by who reads models: here it must only end. */
const unpackMesh = (bytes: Uint8Array): Promise<unknown> =>
  unpackDraco(bytes, [{ id: 0, componentType: 'f32' }], 1000).catch(() => undefined);

const SLOPES = Uint8Array.from({ length: 32 * 32 * 4 }, (_, i) => (i * 7 + (i >> 5) * 3) & 255);

async function universal(isUASTC: boolean): Promise<Uint8Array> {
  const { log } = console;
  console.log = () => undefined;
  const imageDecoder = (): Promise<{ data: Uint8Array; width: number; height: number }> =>
    Promise.resolve({ data: SLOPES, width: 32, height: 32 });
  const options = { isUASTC, generateMipmap: true, needSupercompression: isUASTC, imageDecoder };
  return encodeToKTX2(new Uint8Array(1), options).finally(() => (console.log = log));
}

async function deep(): Promise<Uint8Array> {
  const values = Uint16Array.from(SLOPES.subarray(0, 768), (value, i) => value * 256 + i);
  const raw = { width: 16, height: 16, channels: 3 as const };
  return new Uint8Array(await sharp(values, { raw }).toColourspace('rgb16').png().toBuffer());
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
export async function readMutated({ name, files, read }: Seedling, bytes: Uint8Array): Promise<string> {
  const model = name === 'mtl' ? files.get('crate.obj')! : bytes;
  try {
    if (read) await read(bytes);
    else
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
