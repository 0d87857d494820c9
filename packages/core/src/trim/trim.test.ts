import { validateBytes } from 'gltf-validator';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { placeAsset } from '../formats/asset/place.js';
import { readGltf } from '../formats/gltf/read/read.js';
import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { writeGlb, type WriteOptions } from '../formats/gltf/write/write.js';
import { box, plane } from '../geometry/flat-shapes.js';
import {
  attributeFloats,
  attributeFrom,
  type Geometry,
  geometryFrom,
  vertexCount,
} from '../geometry/geometry.js';
import { sphere } from '../geometry/round-shapes.js';
import { affineDeterminant } from '../math/affine.js';
import { withTangents } from '../geometry/tangents.js';
import type { Material } from '../material/material.js';
import { Scene } from '../scene/scene.js';
import { swarmPart } from '../swarm/swarm.js';
import { cacheMisses } from './order.js';
import { countAsset, TRIM_STEPS, trimAsset, type TrimOptions, type TrimStepName } from './trim.js';

/** A model as a file gives it: written and read again. */
async function model(nodes: Partial<AssetNode>[], more: Partial<ModelAsset> = {}): Promise<ModelAsset> {
  return readGltf(writeGlb({ nodes: nodes.map((node) => ({ children: [], ...node })), ...more }));
}

const mesh = (
  geometry: Geometry,
  material: Material = { name: 'paint' },
): NonNullable<AssetNode['mesh']> => ({
  primitives: [{ geometry, material }],
});

/** One step alone. */
const only = (step: TrimStepName, as?: unknown): TrimOptions => ({
  skip: TRIM_STEPS.filter((name) => name !== step),
  ...(as === undefined ? {} : { [step]: as }),
});

/** Corners of all triangles in the world, sorted: the same for models that look the same. */
function corners(asset: ModelAsset): string[] {
  const scene = new Scene();
  placeAsset(asset, scene);
  const out: string[] = [];
  for (const [node, { primitives }] of scene.meshes) {
    const m = node.readWorld(new Float32Array(12));
    for (const { geometry: drawn } of primitives) {
      const part = swarmPart(drawn);
      if (part && part.level > 0) continue;
      const geometry = part?.geometry ?? drawn;
      const p = attributeFloats(geometry.attributes['position']!);
      const indices = geometry.indices ?? Uint32Array.from({ length: vertexCount(geometry) }, (_, i) => i);
      for (let i = 0; i < indices.length; i += 3) {
        // Mirrored nodes turn faces over.
        const order = affineDeterminant(m, 0) < 0 ? [0, 2, 1] : [0, 1, 2];
        const triangle = order.map((k) => {
          const v = indices[i + k]! * 3;
          return [0, 4, 8]
            .map((r) =>
              (m[r]! * p[v]! + m[r + 1]! * p[v + 1]! + m[r + 2]! * p[v + 2]! + m[r + 3]!)
                .toFixed(3)
                .replace('-0.000', '0.000'),
            )
            .join(' ');
        });
        // Any of the three may come first.
        out.push(
          [triangle, [...triangle.slice(1), triangle[0]!], [triangle[2]!, ...triangle.slice(0, 2)]]
            .map(String)
            .sort()[0]!,
        );
      }
    }
  }
  return out.sort();
}

async function isValid(bytes: Uint8Array): Promise<void> {
  const { issues } = await validateBytes(bytes);
  expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
}

test('prune removes what nothing uses and keeps what names, extras, clips and materials need', async () => {
  const textured: Material = { normalTexture: { texture: picture('n'), texCoord: 1 } };
  const asset = await model([
    { name: 'bare' },
    { extras: { keep: 1 } },
    {},
    { children: [{ children: [] }] },
    { mesh: mesh(withTangents(box())) },
    {
      mesh: mesh(
        {
          ...withTangents(box()),
          attributes: {
            ...withTangents(box()).attributes,
            texcoord1: withTangents(box()).attributes['texcoord0']!,
          },
        },
        textured,
      ),
    },
  ]);
  asset.materials.push({ name: 'unused' });
  const [step] = await trimAsset(asset, only('unused'));
  expect(step!.done).toBe('3 nodes, 1 material, 3 attributes removed that nothing uses');
  expect(asset.nodes.map(({ name, extras }) => name ?? extras ?? 'mesh')).toEqual([
    'bare',
    { keep: 1 },
    'mesh',
    'mesh',
  ]);
  const [plain, mapped] = asset.meshes.map(({ primitives }) =>
    Object.keys(primitives[0]!.geometry.attributes).sort(),
  );
  expect(plain).toEqual(['normal', 'position']);
  expect(mapped).toEqual(['normal', 'position', 'tangent', 'texcoord1']);
});

test('what nothing uses goes from below, however deep it hangs', async () => {
  let empty: AssetNode = { children: [] };
  for (let i = 0; i < 30_000; i++) empty = { children: [empty] };
  const asset = await model([{ name: 'bare' }, empty]);
  const [step] = await trimAsset(asset, only('unused'));
  expect(step!.done).toBe('30,001 nodes removed that nothing uses');
  expect(asset.nodes).toEqual([{ name: 'bare', children: [] }]);
});

test('dedupe makes one of what is the same, and none of what a clip moves by itself', async () => {
  const nodes = [1, 2, 3].map((i) => ({
    name: `${i}`,
    mesh: mesh(box(), { name: 'red', baseColorFactor: [1, 0, 0, 1] }),
  }));
  const asset = await model(nodes);
  expect(asset.materials.length).toBe(3);
  const [step] = await trimAsset(asset, only('duplicates'));
  expect(step!.done).toBe('2 meshes, 2 geometries, 2 materials were double');
  expect(new Set(asset.nodes.map((node) => node.mesh)).size).toBe(1);
  const moved = await model(nodes);
  moved.animations.push({
    duration: 1,
    channels: [
      {
        path: 'property',
        property: { owner: moved.materials[1]!, names: ['roughnessFactor'], pointer: '/materials/1/x' },
        sampler: {
          input: Float32Array.of(0),
          output: Float32Array.of(1),
          interpolation: 'linear',
          components: 1,
        },
      } as never,
    ],
  });
  await trimAsset(moved, only('duplicates'));
  expect(moved.materials.length).toBe(2);
});

test('geometries that are others, moved, become nodes that share one', async () => {
  const moved = (x: number): Geometry => {
    const geometry = sphere({ radius: 0.4, slices: 12, stacks: 8 });
    const places = Float32Array.from(
      attributeFloats(geometry.attributes['position']!),
      (v, i) => v + (i % 3 === 0 ? x : 0),
    );
    return { ...geometry, attributes: { ...geometry.attributes, position: attributeFrom(places, 3) } };
  };
  const nodes = [0, 3, 7].map((x) => ({
    name: `float ${x}`,
    mesh: mesh(moved(x)),
    rotation: [0, 0.6, 0, 0.8] as [number, number, number, number],
  }));
  const asset = await model(nodes);
  const before = corners(asset);
  const [step] = await trimAsset(asset, only('repeats'));
  expect(step!.done).toBe('2 geometries were others, moved');
  expect(new Set(asset.meshes.map(({ primitives }) => primitives[0]!.geometry)).size).toBe(1);
  expect(corners(asset)).toEqual(before);
  // What a clip moves stays where it is.
  const clipped = await model(nodes);
  clipped.animations.push({
    duration: 1,
    channels: [
      {
        target: clipped.nodes[1],
        path: 'translation',
        sampler: {
          input: Float32Array.of(0),
          output: Float32Array.of(0, 0, 0),
          interpolation: 'linear',
          components: 3,
        },
      } as never,
    ],
  });
  expect((await trimAsset(clipped, only('repeats')))[0]!.done).toBe('1 geometry was another one, moved');
});

test('primitives and nodes are joined where one draw can be all of them, and look the same', async () => {
  const [a, b] = [{ name: 'a' }, { name: 'b' }];
  const parts = {
    primitives: [a, b, a].map((material, i) => ({ geometry: box({ width: i + 1 }), material })),
  };
  const asset = await model([
    { name: 'parts', mesh: parts },
    { mesh: mesh(box(), a), translation: [1, 2, 3] },
    { mesh: mesh(plane(), a), translation: [0, 2, 0], scale: [-2, 1, 1], rotation: [0.6, 0, 0, 0.8] },
    { name: 'kept', mesh: mesh(box({ height: 3 }), a) },
    { mesh: mesh(box(), b) },
  ]);
  const before = corners(asset);
  const [step] = await trimAsset(asset, only('draws', 'unnamed'));
  expect(step!.done).toBe('1 primitive joined to others, 1 node joined to others');
  expect(corners(asset)).toEqual(before);
  const [named] = await trimAsset(asset, only('draws', 'named'));
  expect(named!.done).toBe('1 node joined to others');
  expect(corners(asset)).toEqual(before);
  await isValid(writeGlb(asset));
});

test('welding and reordering keep every triangle, with fewer vertices to work on', async () => {
  const loose = (): Geometry => {
    const { attributes, indices } = sphere({ slices: 24, stacks: 16 });
    const order = Uint32Array.from(indices!);
    // Triangles in an order that no cache likes.
    const shuffled = [...Array(order.length / 3).keys()].sort(
      (i, j) => ((i * 7919) % 1000) - ((j * 7919) % 1000),
    );
    const each = (name: string, n: number): number[] =>
      shuffled.flatMap((t) =>
        [0, 1, 2].flatMap((k) => [
          ...attributeFloats(attributes[name]!).subarray(order[t * 3 + k]! * n, order[t * 3 + k]! * n + n),
        ]),
      );
    return geometryFrom({ position: each('position', 3), normal: each('normal', 3) });
  };
  const asset = await model([{ mesh: mesh(loose()) }]);
  const before = corners(asset);
  await trimAsset(asset, only('vertices'));
  const { geometry } = asset.meshes[0]!.primitives[0]!;
  expect(vertexCount(geometry)).toBeLessThan(450);
  const misses = cacheMisses(geometry.indices!);
  await trimAsset(asset, only('order'));
  expect(cacheMisses(asset.meshes[0]!.primitives[0]!.geometry.indices!)).toBeLessThan(misses * 0.5);
  expect(corners(asset)).toEqual(before);
});

test('quantised attributes stay within half a step, places too, and the file is valid', async () => {
  const geometry = { ...sphere({ radius: 2 }), attributes: { ...sphere({ radius: 2 }).attributes } };
  geometry.attributes['color0'] = attributeFrom(
    Float32Array.from({ length: vertexCount(geometry) * 4 }, (_, i) => (i % 7) / 7),
    4,
  );
  const nodes = [{ name: 'ball', mesh: mesh(geometry), translation: [5, 0, 0] as [number, number, number] }];
  const asset = await model(nodes);
  const before = corners(asset);
  const floats = (of: ModelAsset, name: string): Float32Array =>
    attributeFloats(of.meshes[0]!.primitives[0]!.geometry.attributes[name]!);
  const original = await model(nodes);
  await trimAsset(asset, only('precision', 'positions'));
  for (const [name, step] of [
    ['normal', 1 / 32767],
    ['texcoord0', 1 / 65535],
    ['color0', 1 / 255],
  ] as const) {
    const [x, y] = [floats(original, name), floats(asset, name)];
    expect(Math.max(...x.map((value, i) => Math.abs(value - y[i]!)))).toBeLessThanOrEqual(step / 2 + 1e-7);
  }
  expect(asset.nodes[0]!.mesh).toBeUndefined();
  expect(asset.nodes[0]!.name).toBe('ball');
  const bytes = writeGlb(asset);
  await isValid(bytes);
  // 4 m in 65,535 steps are finer than the millimetres told here, but may fall to either side.
  const after = corners(await readGltf(bytes));
  expect(after.length).toBe(before.length);
});

test('levels are coarser with a growing error, come back from the file, and are drawn as levels', async () => {
  const asset = await model([
    { name: 'float', mesh: mesh(sphere({ radius: 1, slices: 48, stacks: 32 })) },
    { name: 'crate', mesh: mesh(box()) },
  ]);
  await trimAsset(asset, only('levels', {}));
  const bytes = writeGlb(asset);
  await isValid(bytes);
  const read = await readGltf(bytes);
  const [ball, crate] = read.nodes as [AssetNode, AssetNode];
  expect(crate.levels).toBeUndefined();
  expect(ball.levels!.length).toBe(3);
  const triangles = ball.levels!.map(({ node }) => node.mesh!.primitives[0]!.geometry.indices!.length / 3);
  expect(triangles[0]).toBeLessThan(2976 * 0.4);
  expect(triangles[2]).toBeLessThan(triangles[0]! * 0.3);
  const errors = ball.levels!.map(({ error }) => error!);
  expect([...errors].sort((x, y) => x - y)).toEqual(errors);
  // A chord of a circle of 1 m is wrong by less than a tenth where a level has 100 triangles and more.
  expect(errors[2]).toBeLessThan(0.1);
  expect(read.warnings).toEqual([]);
  const scene = new Scene();
  const { nodeOf } = placeAsset(read, scene);
  const drawn = nodeOf.get(ball)!.mesh!;
  expect(drawn.primitives.length).toBe(4);
  const [part] = drawn.primitives.map(({ geometry }) => swarmPart(geometry)!);
  // Half a pixel of error: what is 2 r metres high may be r / error pixels high.
  expect(part!.swarm.shapes[0]!.levels.map(({ minPixels }) => Math.round(minPixels))).toEqual([
    ...errors.map((e) => Math.round(radiusOf(ball) / e)),
    0,
  ]);
  expect(countAsset(read).triangles).toBe(
    2976 + 12 - (2976 - ball.mesh!.primitives[0]!.geometry.indices!.length / 3),
  );
});

/** Spheres around boxes are wider than the ball in them. */
const radiusOf = (node: AssetNode): number => {
  const { min, max } = node.mesh!.primitives[0]!.geometry.bounds;
  return Math.hypot(...max.map((v, k) => (v - min[k]!) / 2));
};

test('packed files are smaller, valid, and the same when they are read', async () => {
  await MeshoptEncoder.ready;
  const options: WriteOptions = { compress: MeshoptEncoder };
  const asset = await model([
    { name: 'ball', mesh: mesh(sphere({ slices: 40, stacks: 30 })) },
    { name: 'crate', mesh: mesh(box()) },
  ]);
  const [plain, packed] = [writeGlb(asset), writeGlb(asset, options)];
  expect(packed.length).toBeLessThan(plain.length * 0.6);
  await isValid(packed);
  const read = await readGltf(packed);
  expect(read.extensionsRequired).toEqual(['EXT_meshopt_compression']);
  expect(corners(read)).toEqual(corners(asset));
  // Damage is told with its place.
  const broken = packed.slice();
  broken.fill(0, packed.length - 2000, packed.length - 1000);
  await expect(readGltf(broken)).rejects.toMatchObject({
    code: expect.stringMatching(/^gltf\//) as string,
    where: { pointer: expect.stringContaining('/bufferViews/') as string },
  });
});

test('large geometries are cut into parts that lie together, and are the same all together', async () => {
  const ball = sphere({ slices: 120, stacks: 90 });
  const bent = { ...box(), targets: [{ attributes: { position: box().attributes['position']! } }] };
  const asset = await model([
    { name: 'ball', mesh: mesh(ball) },
    { name: 'twin', mesh: mesh(ball) },
    { name: 'crate', mesh: mesh(box()) },
    { name: 'face', mesh: { primitives: [{ geometry: bent }], weights: [0] } },
  ]);
  const before = countAsset(asset);
  const sums = corners(asset);
  const [step] = await trimAsset(asset, only('split', 1000));
  expect(step).toMatchObject({ name: 'split', done: '2 geometries into 44 parts' });
  expect(corners(asset)).toEqual(sums);
  const [first, twin, crate] = asset.meshes;
  expect(first!.primitives.length).toBe(22);
  expect(twin!.primitives.length).toBe(22);
  expect(crate!.primitives.length).toBe(1);
  const after = countAsset(asset);
  expect(after.triangles).toBe(before.triangles);
  // Vertices at the seams are there twice.
  expect(after.vertices).toBeLessThan(before.vertices * 1.15);
  for (const { geometry } of first!.primitives) {
    expect(geometry.indices!.length / 3).toBeLessThanOrEqual(1000);
    const { max, min } = geometry.bounds;
    // Parts lie together: the whole is 1.73 across.
    expect(Math.hypot(...max.map((v, k) => v - min[k]!))).toBeLessThan(0.95);
  }
  await isValid(writeGlb(asset));
  await expect(trimAsset(asset, { split: 3 })).rejects.toMatchObject({ code: 'trim/split' });
});

test('levels that cannot be made are refused', async () => {
  const asset = await model([{ mesh: mesh(sphere()) }]);
  await expect(trimAsset(asset, { levels: { share: 2 } })).rejects.toMatchObject({ code: 'trim/levels' });
});

function picture(name: string): NonNullable<Material['normalTexture']>['texture'] {
  const png = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  return {
    name,
    image: { name, content: { kind: 'encoded', mimeType: 'image/png', bytes: new Uint8Array(png) } },
  };
}
