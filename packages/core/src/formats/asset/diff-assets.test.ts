import { readFileSync } from 'node:fs';
import { readGltf } from '../gltf/read/read.js';
import { writeGlb } from '../gltf/write/write.js';
import type { AssetNode } from './asset.js';
import { diffAssets } from './diff-assets.js';

const read = (file: string) => readGltf(new Uint8Array(readFileSync(`examples/public/models/${file}`)));

test.each(['tug.glb', 'crab.glb', 'gull.glb', 'figurehead.glb', 'crate.glb'])(
  '%s does not differ from itself, written and read again',
  async (file) => {
    const asset = await read(file);
    expect(diffAssets(asset, await readGltf(writeGlb(asset)))).toEqual([]);
  },
);

test('what was changed is found, and named', async () => {
  const [a, b] = [await read('tug.glb'), await read('tug.glb')];
  const node = b.nodes.find(({ name, mesh }) => name !== undefined && mesh)!;
  node.translation = [0, 7, 0];
  // The tug is a row of nodes without children.
  const gone = b.defaultScene!.nodes.pop()!;
  b.materials[0]!.roughnessFactor = 0.123;
  const used = b.nodes.filter(({ mesh }) => mesh).at(1)!;
  const { geometry } = used.mesh!.primitives[0]!;
  const bytes = new Uint8Array(geometry.attributes['position']!.bytes);
  new DataView(bytes.buffer).setFloat32(geometry.attributes['position']!.byteOffset, 0.01, true);
  geometry.attributes['position'] = { ...geometry.attributes['position']!, bytes };
  const found = diffAssets(a, b);
  expect(found).toContainEqual({
    kind: 'material',
    name: b.materials[0]!.name,
    what: `roughnessFactor is ${a.materials[0]!.roughnessFactor} and 0.123`,
  });
  expect(found.filter(({ kind, what }) => kind === 'node' && what.includes('0, 7, 0'))).toHaveLength(1);
  expect(
    found.some(({ name, what }) => name.endsWith(`/${gone.name}`) && what === 'is only in the first'),
  ).toBe(true);
  expect(
    found.some(({ kind, what }) => kind === 'mesh' && what.startsWith('differs in position by up to')),
  ).toBe(true);
});

test('lights and cameras are compared member by member, in units that people read, with what counts where it is left out', async () => {
  const [a, b] = [await read('harbour.glb'), await read('harbour.glb')];
  const [lamp, arrival] = [b.lights.find(({ type }) => type === 'point')!, b.cameras[0]!];
  lamp.intensity = 5;
  lamp.shadow = false;
  Object.assign(arrival, { yfov: Math.PI / 3 });
  b.materials[1]!.clearcoatFactor = 0;
  const found = diffAssets(a, b);
  expect(found.map(({ kind, what }) => [kind, what])).toEqual([
    ['light', 'intensity is 260 cd and 5 cd'],
    ['camera', 'yfov is 42.4° and 60°'],
  ]);
});

test('trees of any depth are compared; what the second alone has comes last, with all below it', async () => {
  const chain = (length: number, more: Partial<AssetNode> = {}) => {
    let top: AssetNode = { name: 'end', children: [], ...more };
    for (let i = 1; i < length; i++) top = { name: 'link', children: [top] };
    return readGltf(writeGlb({ nodes: [top] }));
  };
  const deep = await chain(30_000);
  expect(diffAssets(deep, await chain(30_000))).toEqual([]);
  const [moved, ...none] = diffAssets(deep, await chain(30_000, { translation: [0, 7, 0] }));
  expect(none).toEqual([]);
  expect(moved!.name).toMatch(/^\/link\/link.*\/link\/end$/);
  // A name may look like a number that was given.
  const three = ['float', 'float', 'float #2'].map((name): AssetNode => ({ name, children: [] }));
  const floats = await readGltf(writeGlb({ nodes: three }));
  expect(diffAssets(floats, await readGltf(writeGlb({ nodes: [] }))).map(({ name }) => name)).toEqual([
    '/float',
    '/float #2',
    '/float #2 #2',
  ]);
  const [a, b] = [await chain(2), await chain(2)];
  const only = (name: string, below: AssetNode[] = []): AssetNode => ({ name, children: below });
  a.scenes[0]!.nodes.push(only('last'));
  b.scenes[0]!.nodes.unshift(only('new', [only('one'), only('two')]));
  b.scenes[0]!.nodes[1]!.children.push(only('beside'));
  expect(diffAssets(a, b).map(({ name, what }) => [name, what])).toEqual([
    ['/last', 'is only in the first'],
    ...['/link/beside', '/new', '/new/one', '/new/two'].map((name) => [name, 'is only in the second']),
  ]);
});
