import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  affineFromTrs,
  affineMultiply,
  type AssetNode,
  geometryFrom,
  readGltf,
  Scene,
  writeGlb,
} from '@umber-lens/core/engine';
import { race, row, type Row } from './measure.js';

/** 100,000 nodes, 100 parents of 999 children, all turned: against one flat loop of 3x4 products. */
export async function worldTransforms(): Promise<Row> {
  const scene = new Scene();
  const parents = Array.from({ length: 100 }, (_, i) => scene.createNode({ translation: [i, 0, 0] }));
  const children = parents.flatMap((parent) =>
    Array.from({ length: 999 }, (_, i) => scene.createNode({ parent, translation: [0, i, 0] })),
  );
  scene.update();
  const count = scene.columns.count;
  const { translation, rotation, scale, parent } = scene.columns;
  const world = new Float32Array(count * 12);
  const local = new Float32Array(12);
  affineFromTrs(world, 0, translation, 0, rotation, 0, scale, 0);
  const times = await race(
    {
      ours: () => {
        for (const node of parents) node.setTranslation(1, 2, 3);
        scene.update();
      },
      flat: () => {
        for (let row = 1; row < count; row++) {
          affineFromTrs(local, 0, translation, row * 3, rotation, row * 4, scale, row * 3);
          affineMultiply(world, row * 12, world, parent[row]! * 12, local, 0);
        }
      },
    },
    31,
  );
  if (children.length !== 99_900) throw new Error('the scene is not the one meant');
  return row(
    'world transforms of 100,000 nodes, against one flat loop of 3x4 products',
    times['ours']!,
    times['flat']!,
    'ms',
    1.3,
  );
}

/** A GLB of about 48 MB: 200 meshes, 2,000 nodes. Against read + JSON.parse + a typed array an accessor. */
export async function readingGlb(): Promise<Row> {
  const folder = mkdtempSync(join(tmpdir(), 'umber-bench-'));
  const path = join(folder, 'large.glb');
  writeFileSync(path, largeGlb());
  try {
    const times = await race(
      {
        ours: async () => {
          await readGltf(await readFile(path));
        },
        plain: async () => {
          const bytes = await readFile(path);
          const jsonLength = bytes.readUInt32LE(12);
          const json = JSON.parse(bytes.toString('utf8', 20, 20 + jsonLength)) as {
            bufferViews: { byteOffset?: number }[];
            accessors: { bufferView: number; componentType: number; count: number; type: string }[];
          };
          const base = bytes.byteOffset + 28 + jsonLength;
          for (const { bufferView, componentType, count, type } of json.accessors) {
            const at = base + (json.bufferViews[bufferView]!.byteOffset ?? 0);
            const n = count * { SCALAR: 1, VEC2: 2, VEC3: 3 }[type as 'VEC3'];
            if (componentType === 5126) new Float32Array(bytes.buffer, at, n);
            else if (componentType === 5125) new Uint32Array(bytes.buffer, at, n);
            else new Uint16Array(bytes.buffer, at, n);
          }
        },
      },
      21,
    );
    return row(
      'reading a GLB of 48 MB, against read + JSON.parse + typed arrays',
      times['ours']!,
      times['plain']!,
      'ms',
      1.5,
    );
  } finally {
    rmSync(folder, { recursive: true });
  }
}

function largeGlb(): Uint8Array {
  const vertices = 6400;
  const meshes = Array.from({ length: 200 }, (_, m) => {
    const wave = (n: number): Float32Array =>
      Float32Array.from({ length: vertices * n }, (_v, i) => Math.sin(i * 0.37 + m));
    const indices = Uint32Array.from({ length: vertices * 3 }, (_v, i) => (i * 7919) % vertices);
    return {
      name: `mesh ${m}`,
      primitives: [
        { geometry: geometryFrom({ position: wave(3), normal: wave(3), texcoord0: wave(2) }, indices) },
      ],
    };
  });
  const nodes = Array.from({ length: 2000 }, (_, i): AssetNode => ({
    name: `node ${i}`,
    children: [],
    mesh: meshes[i % 200]!,
    translation: [i, 0, 0],
  }));
  return writeGlb({ nodes });
}
