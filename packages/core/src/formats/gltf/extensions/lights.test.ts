import validator from 'gltf-validator';
import { type Light, LensError, readGltf, writeGlb } from '../../../engine.js';

const LIGHTS: Light[] = [
  { type: 'directional', intensity: 3, color: [1, 0.5, 0.25] },
  { type: 'point', intensity: 20, range: 8, shadow: true },
  {
    type: 'spot',
    innerConeAngle: 0.25,
    outerConeAngle: 0.5,
    shadow: { near: 0.25, bias: 2 },
    extras: { lamp: 3 },
  },
  {
    type: 'area',
    shape: 'disc',
    size: [2, 1.5],
    intensity: 40,
    color: [1, 0.875, 0.75],
    shadow: { bias: 0.5 },
  },
  { type: 'ambient', intensity: 0.5 },
  { type: 'hemisphere', color: [0.25, 0.5, 1], groundColor: [0.125, 0.125, 0], name: 'dusk' },
];

test('lights of every kind are written validly and read back as they were, extras kept', async () => {
  const glb = writeGlb({
    nodes: LIGHTS.map((light) => ({ children: [], light, extras: { kept: light.type } })),
  });
  const report = await validator.validateBytes(glb);
  expect(report.issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
  const asset = await readGltf(glb);
  expect(asset.nodes.map(({ light }) => light)).toEqual(LIGHTS);
  expect(asset.nodes.map(({ extras }) => extras)).toEqual(LIGHTS.map(({ type }) => ({ kept: type })));
  // Those that the standard has are listed; read and written once more nothing is added.
  expect(asset.lights.map(({ type }) => type)).toEqual(['directional', 'point', 'spot']);
  expect((await readGltf(writeGlb(asset))).nodes.map(({ light }) => light)).toEqual(LIGHTS);
});

test.each([
  [{ type: 'lamp' }, '/nodes/0/extras/umberLight/type'],
  [{ type: 'area', size: [1] }, '/nodes/0/extras/umberLight/size'],
  [{ type: 'area', intensity: -1 }, '/nodes/0/extras/umberLight/intensity'],
  [{}, '/nodes/0/extras/umberLight'],
  [{ type: 'area', shadow: { bias: -1 } }, '/nodes/0/extras/umberLight/shadow/bias'],
])('a light of ours that is wrong is refused with its place: %j', async (umberLight, place) => {
  const json = { asset: { version: '2.0' }, nodes: [{ extras: { umberLight } }] };
  const error: unknown = await readGltf(new TextEncoder().encode(JSON.stringify(json))).catch(
    (e: unknown) => e,
  );
  expect(error).toBeInstanceOf(LensError);
  expect(String(error)).toContain(place);
});
