import { castRay, eachTriangle, type Geometry, Scene, sphere } from '@umber-lens/core/engine';
import { median, race, row, type Row } from './measure.js';

/** The nearest of a million triangles on a ray, against asking them one by one; and building their tree. */
export async function picking(): Promise<Row[]> {
  const geometry = sphere({ radius: 1, slices: 1000, stacks: 501 });
  const scene = new Scene();
  scene.createNode({ mesh: { geometry } });
  const built: number[] = [];
  let triangles = 0;
  for (let round = 0; round < 3; round++) {
    // Another object has no tree yet.
    const fresh = new Scene();
    fresh.createNode({ mesh: { geometry: { ...geometry } } });
    const start = performance.now();
    castRay(fresh, { origin: [0, 0, 5], direction: [0.01, 0.02, -1] });
    built.push(performance.now() - start);
  }
  eachTriangle(geometry, () => triangles++);
  const rays = Array.from({ length: 40 }, (_, i): [number, number, number] => [
    Math.sin(i) * 0.15,
    Math.cos(i) * 0.15,
    -1,
  ]);
  const hand = everyTriangle(geometry);
  castRay(scene, { origin: [0, 0, 5], direction: [0, 0, -1] });
  const found = { ours: 0, hand: 0 };
  const times = await race(
    {
      ours: () => {
        for (const direction of rays)
          found.ours += castRay(scene, { origin: [0, 0, 5], direction })?.distance ?? 0;
      },
      hand: () => {
        const [x, y, z] = rays[0]!;
        const length = Math.hypot(x, y, z);
        found.hand = hand([0, 0, 5], [x / length, y / length, z / length]);
      },
    },
    9,
  );
  const first = castRay(scene, { origin: [0, 0, 5], direction: rays[0]! })?.distance ?? 0;
  if (!(Math.abs(first - found.hand) < 1e-4)) throw new Error(`${first} is not ${found.hand}`);
  return [
    row(
      `a ray through ${triangles.toLocaleString('en-US')} triangles, against asking each of them`,
      times['ours']! / rays.length,
      times['hand']!,
      'ms',
      0.01,
    ),
    {
      what: 'building their tree',
      ours: `${(median(built) / 1000).toFixed(2)} s`,
      against: `${((triangles / median(built)) * 1e-3).toFixed(2)} million triangles a second`,
      ratio: undefined,
      limit: undefined,
    },
  ];
}

/** A loop over all triangles, by Möller and Trumbore. */
function everyTriangle(geometry: Geometry): (o: number[], d: number[]) => number {
  const corners: number[] = [];
  const { position } = geometry.attributes;
  const p = new Float32Array(
    position!.bytes.buffer,
    position!.bytes.byteOffset + position!.byteOffset,
    position!.count * 3,
  );
  eachTriangle(geometry, (a, b, c) => void corners.push(a * 3, b * 3, c * 3));
  const index = Uint32Array.from(corners);
  return (o, d) => {
    let nearest = Infinity;
    for (let t = 0; t < index.length; t += 3) {
      const [a, b, c] = [index[t]!, index[t + 1]!, index[t + 2]!];
      const [e1x, e1y, e1z] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
      const [e2x, e2y, e2z] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
      const [px, py, pz] = [d[1]! * e2z - d[2]! * e2y, d[2]! * e2x - d[0]! * e2z, d[0]! * e2y - d[1]! * e2x];
      const det = e1x * px + e1y * py + e1z * pz;
      if (det <= 0) continue;
      const f = 1 / det;
      const [sx, sy, sz] = [o[0]! - p[a]!, o[1]! - p[a + 1]!, o[2]! - p[a + 2]!];
      const u = f * (sx * px + sy * py + sz * pz);
      if (u < 0 || u > 1) continue;
      const [qx, qy, qz] = [sy * e1z - sz * e1y, sz * e1x - sx * e1z, sx * e1y - sy * e1x];
      const v = f * (d[0]! * qx + d[1]! * qy + d[2]! * qz);
      if (v < 0 || u + v > 1) continue;
      const distance = f * (e2x * qx + e2y * qy + e2z * qz);
      if (distance > 0 && distance < nearest) nearest = distance;
    }
    return nearest;
  };
}
