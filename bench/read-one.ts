/** Reads a file in a process of its own: `tsx read-one.ts HOW FILE`. Prints the seconds it took and the most memory it had. */
import { createReadStream, readFileSync, statSync, writeFileSync } from 'node:fs';
import {
  decodeKtx2,
  readModel,
  unpackDraco,
  writeGlb,
  writeObj,
  writePly,
  writeStl,
} from '@umber-lens/core/engine';
import { readContainer } from '../packages/core/src/formats/gltf/read/container.js';

const [how = '', file = ''] = process.argv.slice(2);
const stream = (): ReadableStream<Uint8Array> | NodeJS.ReadableStream =>
  createReadStream(file, { highWaterMark: 1 << 20 });
const bytes = (): Uint8Array => new Uint8Array(readFileSync(file));
const { size } = statSync(file);
let sum = 0;

const ways: Record<string, () => Promise<unknown>> = {
  // Every byte is fetched and looked at once a page.
  bytes: async () => {
    for await (const piece of stream() as AsyncIterable<Uint8Array>)
      for (let i = 0; i < piece.length; i += 4096) sum += piece[i]!;
  },
  read: () => readModel(stream() as never, { file, size }),
  'read whole': () => readModel(bytes(), { file }),
  picture: () => decodeKtx2(bytes()),
  'packed mesh': async () => {
    const { binary, json } = await readContainer(bytes(), file);
    const { bufferViews, meshes } = json as {
      bufferViews: { byteOffset?: number; byteLength: number }[];
      meshes: {
        primitives: { extensions: { KHR_draco_mesh_compression: { attributes: Record<string, number> } } }[];
      }[];
    };
    const [view] = bufferViews;
    const { byteLength, byteOffset = 0 } = view!;
    const { attributes } = meshes[0]!.primitives[0]!.extensions.KHR_draco_mesh_compression;
    const wanted = Object.values(attributes).map((id) => ({ id, componentType: 'f32' as const }));
    return unpackDraco(binary!.slice(byteOffset, byteOffset + byteLength), wanted);
  },
};
const writers: Record<string, (asset: Awaited<ReturnType<typeof readModel>>) => Uint8Array> = {
  obj: (asset) => writeObj(asset, 'out').files.get('out.obj')!,
  ply: (asset) => writePly(asset),
  stl: (asset) => writeStl(asset),
  glb: (asset) => writeGlb(asset),
};

let start = performance.now();
let written = 0;
if (how.startsWith('write ')) {
  const asset = await readModel(bytes(), { file });
  start = performance.now();
  const made = writers[how.slice(6)]!(asset);
  written = made.length;
  writeFileSync(`${file}.written`, made);
} else await ways[how]!();
const seconds = (performance.now() - start) / 1000;
console.log(JSON.stringify({ seconds, megabytes: process.resourceUsage().maxRSS / 1000, written, sum }));
