import { TraceDevice } from './device.js';
import * as umber from './index.js';
import { compileMaterialShader } from './shaders/index.js';

const { box, facing, lensOn, openLens, Scene } = umber;
type Scene_ = InstanceType<typeof Scene>;
type Loose = Record<string, unknown>;

const wood = { metallicFactor: 0 };
const pixels = { kind: 'pixels', width: 1, height: 1, data: new Uint8Array(4) };
const picture = { image: { content: pixels } };

/** What is said, or thrown, when a scene is made like this and drawn twice. */
function said(
  make: (scene: Scene_, cameraNode: umber.SceneNode, lens: umber.Lens) => void,
  isEmpty = false,
): string[] {
  const told: string[] = [];
  const lens = lensOn(new TraceDevice(), { onMessage: (message) => void told.push(message.message) });
  const scene = new Scene();
  const cameraNode = scene.createNode({
    name: 'camera',
    translation: [0, 0, 5],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  try {
    if (!isEmpty) {
      scene.createNode({ name: 'crate', mesh: { geometry: box(), material: wood } });
      scene.createNode({ name: 'sun', light: { type: 'directional', intensity: 3 } });
    }
    make(scene, cameraNode, lens);
    lens.draw(scene, cameraNode);
    lens.draw(scene, cameraNode);
  } catch (error) {
    told.push(String(error instanceof Error ? error.message : error));
  }
  lens.dispose();
  return told;
}

const light = (given: Loose) => (scene: Scene_) =>
  void scene.createNode({ name: 'lamp', light: given as never });
const material = (given: Loose) => (scene: Scene_) =>
  void scene.createNode({
    name: 'buoy',
    mesh: { geometry: box(), material: { ...wood, ...given } as never },
  });
const camera = (given: Loose) => (_: Scene_, cameraNode: umber.SceneNode) =>
  void cameraNode.setCamera({ type: 'perspective', yfov: 0.8, znear: 0.1, ...given } as never);
const node = (given: Loose) => (scene: Scene_) => void scene.createNode({ name: 'buoy', ...given } as never);
const around = (given: Loose) => (scene: Scene_) => void Object.assign(scene, given);
const geometry = (edit: (made: umber.Geometry) => void) => (scene: Scene_) => {
  const made = box();
  edit(made);
  scene.createNode({ name: 'buoy', mesh: { geometry: { ...made, name: 'hull' }, material: wood } });
};
const floats = (made: umber.Geometry, name: string): Float32Array => {
  const { bytes, byteOffset, count, components } = made.attributes[name]!;
  return new Float32Array(bytes.buffer, bytes.byteOffset + byteOffset, count * components);
};
const shader = compileMaterialShader(
  'struct Settings { glow: f32, tint: vec3f } // = 1\nfn surface(p: Fragment, s: Settings) -> Surface { var o = surfaceDefaults(p); o.emissive = s.tint * s.glow; return o; }',
  { file: 'glow.wgsl' },
);

const ROWS: [
  what: string,
  make: (scene: Scene_, cameraNode: umber.SceneNode, lens: umber.Lens) => void,
  says: RegExp,
][] = [
  // Lights.
  [
    'a light of intensity 0',
    light({ type: 'point', intensity: 0 }),
    /light of node "lamp" has intensity 0[^]*above 0/,
  ],
  [
    'a negative light',
    light({ type: 'point', intensity: -2 }),
    /"intensity" of the light of node "lamp" is -2[^]*0 or more/,
  ],
  [
    'a light of NaN',
    light({ type: 'point', intensity: NaN }),
    /"intensity" of the light of node "lamp" is not a number/,
  ],
  [
    'a light as text',
    light({ type: 'point', intensity: '3' }),
    /"intensity"[^]*is the text "3"[^]*Give a number/,
  ],
  [
    'a misspelt type of light',
    light({ type: 'directonal' }),
    /"type"[^]*cannot be "directonal"[^]*'directional'/,
  ],
  ['a misspelt member of a light', light({ type: 'point', intensty: 3 }), /has no "intensty"[^]*intensity/],
  [
    'a cone in degrees',
    light({ type: 'spot', outerConeAngle: 30 }),
    /"outerConeAngle"[^]*is 30[^]*30 degrees are 0.5236/,
  ],
  [
    'an inner cone beyond the outer',
    light({ type: 'spot', innerConeAngle: 0.9, outerConeAngle: 0.4 }),
    /inner cone[^]*wider/,
  ],
  [
    'a light color of bytes',
    light({ type: 'point', color: '#ff8800' }),
    /"color"[^]*the text "#ff8800"[^]*linear/,
  ],
  [
    'shadow options misspelt',
    light({ type: 'directional', shadow: { cascade: 2 } }),
    /has no "cascade"[^]*cascades/,
  ],
  [
    'a spot that faces away',
    (scene) =>
      void scene.createNode({
        name: 'spot',
        translation: [0, 5, 0],
        rotation: facing([0, 1, 0]),
        light: { type: 'spot' },
      }),
    /spot light of node "spot" shines on nothing[^]*-Z/,
  ],
  // Materials.
  [
    'color',
    material({ color: [1, 0, 0] }),
    /material without a name on node "buoy" has no "color"[^]*baseColorFactor/,
  ],
  ['a misspelt factor', material({ roughnessFacter: 1 }), /no "roughnessFacter"[^]*roughnessFactor/],
  ['roughness', material({ roughness: 1 }), /no "roughness"[^]*roughnessFactor/],
  [
    'bytes as a color',
    material({ baseColorFactor: [255, 0, 0, 255] }),
    /"baseColorFactor"[^]*0 to 1, not 0 to 255/,
  ],
  [
    'three numbers as a color',
    material({ baseColorFactor: [1, 0, 0] }),
    /"baseColorFactor"[^]*has 3 numbers[^]*takes 4/,
  ],
  ['a color as text', material({ baseColorFactor: 'red' }), /"baseColorFactor"[^]*the text "red"/],
  [
    'transparent',
    material({ alphaMode: 'transparent' }),
    /"alphaMode"[^]*cannot be "transparent"[^]*opaque, mask, blend/,
  ],
  ['a factor out of range', material({ roughnessFactor: 4 }), /"roughnessFactor"[^]*is 4[^]*from 0 to 1/],
  ['a factor of NaN', material({ roughnessFactor: NaN }), /NaN in "roughnessFactor"/],
  [
    'a texture as an address',
    material({ baseColorTexture: 'wood.png' }),
    /"baseColorTexture"[^]*the text "wood.png"[^]*loadTexture/,
  ],
  ['a texture as a promise', material({ baseColorTexture: Promise.resolve(picture) }), /a promise[^]*await/],
  [
    'a texture unwrapped',
    material({ baseColorTexture: picture }),
    /"baseColorTexture"[^]*Wrap it: \{ texture \}/,
  ],
  [
    'a texture promised within',
    material({ baseColorTexture: { texture: Promise.resolve(picture) } }),
    /"baseColorTexture"/,
  ],
  ['doubleSided as text', material({ doubleSided: 'yes' }), /"doubleSided"[^]*a boolean/],
  [
    'a metal with nothing around it',
    (scene) =>
      void scene.createNode({
        name: 'crate',
        mesh: { geometry: box(), material: { baseColorFactor: [0.8, 0.4, 0.1, 1] } },
      }),
    /is metal, as materials are that do not say otherwise[^]*metallicFactor: 0/,
  ],
  // Settings.
  ['a setting as text', material({ shader, settings: { glow: 'much', tint: [1, 1, 1] } }), /"glow"/],
  ['settings as null', material({ shader, settings: { glow: null, tint: [1, 1, 1] } }), /"glow"|glow/],
  [
    'a setting of too few numbers',
    material({ shader, settings: { glow: 1, tint: [1, 1] } }),
    /"tint"[^]*takes 3 numbers, not 2/,
  ],
  [
    'a misspelt setting',
    material({ shader, settings: { glwo: 1, tint: [1, 1, 1] } }),
    /no setting "glwo"[^]*"glow"/,
  ],
  [
    'no shader',
    () => void umber.createMaterial(undefined as never),
    /cannot have undefined as its shader[^]*import shader/,
  ],
  // Cameras.
  ['fov', camera({ fov: 60 }), /camera of node "camera" has no "fov"[^]*yfov/],
  ['a field of view in degrees', camera({ yfov: 60 }), /camera of node "camera"[^]*60 degrees are 1.047/],
  [
    'planes the wrong way round',
    camera({ znear: 10, zfar: 1 }),
    /camera of node "camera"[^]*zfar \(1\) is not beyond/,
  ],
  [
    'a camera that looks away',
    (_, cameraNode) => void cameraNode.setRotation(0, 1, 0, 0),
    /sees nothing: everything is behind it[^]*facing/,
  ],
  ['a far plane before everything', camera({ zfar: 1 }), /sees nothing: everything is beyond its zfar/],
  [
    'a camera inside a crate',
    (_, cameraNode) => void cameraNode.setTranslation(0, 0, 0),
    /inside the mesh of node "crate"[^]*doubleSided/,
  ],
  // Nodes.
  ['position of a node', node({ position: [0, 1, 0] }), /a node has no "position"[^]*translation/],
  ['a misspelt member of a node', node({ tranlation: [0, 1, 0] }), /no "tranlation"[^]*translation/],
  ['two numbers of a translation', node({ translation: [0, 1] }), /node "buoy": translation/],
  [
    'NaN in a translation',
    node({ translation: [0, NaN, 0] }),
    /node "buoy"[^]*not finite|node "buoy"[^]*NaN/,
  ],
  [
    'a geometry as a mesh',
    node({ mesh: box() }),
    /node "buoy"[^]*a geometry as its mesh[^]*\{ geometry, material \}/,
  ],
  ['a mesh without anything', node({ mesh: {} }), /node "buoy"[^]*mesh without primitives/],
  ['a primitive without geometry', node({ mesh: [{ material: {} }] }), /node "buoy" has no geometry/],
  ['geometry beside mesh', node({ geometry: box() }), /no "geometry"[^]*mesh: \{ geometry, material \}/],
  // Around.
  ['a clear color as text', around({ clearColor: '#222' }), /scene.clearColor is the text "#222"[^]*linear/],
  [
    'a clear color of three numbers',
    around({ clearColor: [0, 0, 0] }),
    /"clearColor" of the scene has 3 numbers[^]*takes 4/,
  ],
  ['a clear color of bytes', around({ clearColor: [20, 30, 40, 255] }), /clearColor[^]*0 to 1, not 0 to 255/],
  ['a backdrop as text', around({ backdrop: 'sky.hdr' }), /scene.backdrop is the text "sky.hdr"[^]*panorama/],
  [
    'an environment as text',
    around({ imageLight: 'evening.hdr' }),
    /scene.imageLight is the text "evening.hdr"[^]*loadEnvironment/,
  ],
  [
    'fog of the sky without one',
    around({ fog: { type: 'exponential', color: 'sky' } }),
    /fog takes its color from the sky[^]*imageLight/,
  ],
  [
    'a misspelt fog',
    around({ fog: { type: 'exponental', color: [1, 1, 1] } }),
    /"type" of scene.fog cannot be "exponental"[^]*'exponential'/,
  ],
  [
    'fog without density as a number',
    around({ fog: { type: 'exponential', color: [1, 1, 1], density: '1' } }),
    /"density"/,
  ],
  // Geometry.
  [
    'NaN among positions',
    geometry((made) => (floats(made, 'position')[4] = NaN)),
    /"hull" of node "buoy"[^]*not finite, at vertex 1/,
  ],
  [
    'normals of length 9',
    geometry((made) => floats(made, 'normal').forEach((n, i, all) => (all[i] = n * 9))),
    /not of length 1: 9/,
  ],
  ['normals of length 0', geometry((made) => floats(made, 'normal').fill(0)), /not of length 1: 0/],
  [
    'triangles turned round',
    geometry((made) => made.indices!.reverse()),
    /wind against its normals[^]*swap two/,
  ],
  [
    'positions',
    () => void umber.geometryFrom({ positions: [0, 0, 0] } as never),
    /needs positions[^]*`position`[^]*positions/,
  ],
  [
    'eight numbers',
    () => void umber.geometryFrom({ position: [0, 0, 0, 1, 1, 1, 2, 2] }),
    /"position" has 8 numbers[^]*3 a vertex/,
  ],
  [
    'a misspelt option of a shape',
    () => void box({ widht: 2 } as never),
    /box takes no option "widht"[^]*"width"/,
  ],
  [
    'another shape',
    () => void umber.sphere({ radus: 2 } as never),
    /sphere takes no option "radus"[^]*"radius"/,
  ],
  [
    'too dense a scatter',
    () => void umber.scatterOnGrid({ width: 1e5, depth: 1e5, spacing: 0.01 }),
    /too many[^]*spacing/,
  ],
  // The look.
  [
    'a misspelt look',
    (_, __, lens) => void Object.assign(lens.look, { toneMaping: 'agx' }),
    /lens.look has no "toneMaping"[^]*toneMapping/,
  ],
  [
    'a tone that is not there',
    (_, __, lens) => void Object.assign(lens.look, { toneMapping: 'filmic' }),
    /cannot be "filmic"[^]*agx/,
  ],
  [
    'a range of a light that has none',
    light({ type: 'directional', range: 4 }),
    /"range" of the light of node "lamp" does nothing, since its type is directional[^]*point, spot/,
  ],
  [
    "another trade's word for a light",
    light({ type: 'point', castsShadow: true } as never),
    /light of node "lamp" has no "castsShadow"[^]*shadow: true/,
  ],
  [
    'a culling that is no boolean',
    (_, __, lens) => void Object.assign(lens.view.culling, { occlusion: 'yes' }),
    /"occlusion" of lens.view.culling is the text "yes"[^]*Give a boolean/,
  ],
  [
    'a misspelt culling',
    (_, __, lens) => void Object.assign(lens.view.culling, { hidden: true }),
    /lens.view.culling has no "hidden"[^]*occlusion, gpu, clusters/,
  ],
  // Use after the end.
  [
    'a lens that was disposed of',
    (scene, cameraNode, lens) => {
      lens.dispose();
      lens.draw(scene, cameraNode);
    },
    /disposed of/,
  ],
  [
    'a node that was removed',
    (scene) => {
      const gone = scene.createNode({ name: 'gone' });
      gone.remove();
      gone.setTranslation(0, 0, 0);
    },
    /"gone" has been removed/,
  ],
  [
    'a camera of another scene',
    (scene, _, lens) => {
      const other = new Scene().createNode({
        name: 'other',
        camera: { type: 'perspective', yfov: 1, znear: 0.1 },
      });
      lens.draw(scene, other);
    },
    /camera of node "other" stands in another scene/,
  ],
  [
    'a node without a camera',
    (scene, _, lens) => lens.draw(scene, scene.createNode({ name: 'bare' })),
    /camera/,
  ],
];

test.each(ROWS)('%s', (_, make, says) => {
  const found = said(make);
  expect(found.join('\n')).toMatch(says);
  // Each is said once, though it was drawn twice.
  expect(new Set(found).size).toBe(found.length);
  expect(found.join('\n')).not.toMatch(/undefined is not|Cannot read|not iterable|operator/);
});

test('a scene that is right says nothing', () => {
  expect(said(() => undefined)).toEqual([]);
});

test.each<[string, unknown, object, RegExp]>([
  ['no canvas', null, {}, /no canvas to open a lens on[^]*querySelector/],
  ['a selector', '#canvas', {}, /the text "#canvas"[^]*querySelector/],
  ['another element', {}, {}, /what is no canvas/],
  ['backend webgl', undefined, { backend: 'webgl' }, /"backend" of openLens cannot be "webgl"[^]*'webgl2'/],
  ['a misspelt option', undefined, { antialiasing: true }, /openLens has no "antialiasing"[^]*antialias/],
  ['an option of another type', undefined, { antialias: 4 }, /"antialias" of openLens is 4[^]*boolean/],
  ['a look within', undefined, { look: { expsure: 2 } }, /"look" of openLens has no "expsure"[^]*exposure/],
  [
    'exposure outside of the look',
    undefined,
    { exposure: 2 },
    /openLens has no "exposure"[^]*look: \{ exposure \}/,
  ],
  [
    'a render path within the view',
    undefined,
    { view: { renderPath: 'defered' } },
    /"renderPath"[^]*cannot be "defered"[^]*deferred/,
  ],
  [
    'a view outside of the view',
    undefined,
    { onDemand: true },
    /openLens has no "onDemand"[^]*view: \{ onDemand \}/,
  ],
])('openLens with %s', async (_, canvas, options, says) => {
  await expect(openLens(canvas as never, options as never)).rejects.toThrow(says);
});

test('one material that fails is told once, drawn marked, and leaves the others as they are', () => {
  const device = new TraceDevice();
  const told: string[] = [];
  const lens = lensOn(device, { onMessage: (message) => void told.push(message.message) });
  const scene = new Scene();
  scene.createNode({ light: { type: 'directional' } });
  const cameraNode = scene.createNode({
    translation: [0, 0, 5],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  scene.createNode({ mesh: { geometry: box(), material: wood } });
  const broken = {
    ...wood,
    shader,
    settings: { glow: 1, tint: [1, 1, 1] } as unknown as Record<string, never>,
  };
  scene.createNode({ name: 'buoy', mesh: { geometry: box(), material: broken } });
  lens.draw(scene, cameraNode);
  expect(lens.ledger.instances).toBe(2);
  Object.defineProperty(broken.settings, 'glow', {
    enumerable: true,
    get: () => {
      throw new Error('no glow today');
    },
  });
  for (let i = 0; i < 5; i++) lens.draw(scene, cameraNode);
  expect(lens.ledger.instances).toBe(2);
  expect(told.filter((text) => text.includes('no glow today'))).toHaveLength(1);
  Object.defineProperty(broken.settings, 'glow', { enumerable: true, value: 2 });
  for (let i = 0; i < 70; i++) lens.draw(scene, cameraNode);
  expect(lens.ledger.instances).toBe(2);
  expect(told).toHaveLength(1);
});
