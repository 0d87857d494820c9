import { readdirSync, readFileSync } from 'node:fs';
import { boundsRadius, emptyBounds, growBounds } from '../math/bounds.js';
import type { ModelAsset } from './asset/asset.js';
import { flatGeometry } from './asset/flat-geometry.js';
import { flatParts } from './asset/flatten.js';
import { writeObj } from './obj/write-obj.js';
import { writePly } from './ply/write-ply.js';
import { readModel } from './read-model.js';
import { writeStl } from './stl/write-stl.js';

const FOLDER = 'examples/public/models';
// The harbour is all of these kinds, and takes four times as long as the others together.
const MODELS = readdirSync(FOLDER).filter((file) => file.endsWith('.glb') && file !== 'harbour.glb');

/** What survives any of these formats: triangles, where they are, their area and which way they face. */
function figures(asset: ModelAsset): { triangles: number; box: number[]; area: number; flux: number[] } {
  const bounds = emptyBounds();
  let [triangles, area] = [0, 0];
  const flux = [0, 0, 0];
  for (const part of flatParts(asset)) {
    const { positions: p, triangles: t } = flatGeometry(part);
    triangles += t.length / 3;
    for (let i = 0; i < t.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [0, 1, 2].map((axis) => p[t[i + k]! * 3 + axis]!)) as number[][];
      for (const corner of [a, b, c]) growBounds(bounds, corner![0]!, corner![1]!, corner![2]!);
      const [u, v] = [b, c].map((to) => to!.map((x, k) => x - a![k]!)) as [number[], number[]];
      const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      area += Math.hypot(...n) / 2;
      // Volume by the divergence theorem, along each axis.
      n.forEach((part, k) => (flux[k]! += (part * (a![k]! + b![k]! + c![k]!)) / 6));
    }
  }
  return { triangles, box: [...bounds.min, ...bounds.max], area, flux };
}

describe.each(MODELS)('%s', (file) => {
  const bytes = new Uint8Array(readFileSync(`${FOLDER}/${file}`));
  test('is the same after each format, and after each of them as text', async () => {
    const asset = await readModel(bytes, { file });
    const before = figures(asset);
    const { files } = writeObj(asset, 'model');
    const written: Record<string, Uint8Array> = {
      obj: files.get('model.obj')!,
      ply: writePly(asset),
      'ply as text': writePly(asset, { kind: 'ascii' }),
      stl: writeStl(asset),
      'stl as text': writeStl(asset, { kind: 'ascii' }),
    };
    const size = boundsRadius({ min: before.box.slice(0, 3) as never, max: before.box.slice(3) as never });
    for (const [name, out] of Object.entries(written)) {
      const again = await readModel(out, {
        file: name,
        resolve: (path) => Promise.resolve(files.get(path)!),
      });
      const after = figures(again);
      expect([name, after.triangles]).toEqual([name, before.triangles]);
      after.box.forEach((value, k) => expect(Math.abs(value - before.box[k]!)).toBeLessThan(size * 1e-6));
      expect(after.area / before.area).toBeCloseTo(1, 5);
      after.flux.forEach((value, k) =>
        expect(Math.abs(value - before.flux[k]!)).toBeLessThan(size ** 3 * 1e-4),
      );
      if (name === 'obj') {
        const names = (of: ModelAsset): string[] =>
          [...new Set(flatParts(of).map((part) => part.name ?? ''))].sort();
        expect(names(again)).toEqual(names(asset));
        expect(again.images.length).toBe(files.size - 2);
      }
    }
  });
});
