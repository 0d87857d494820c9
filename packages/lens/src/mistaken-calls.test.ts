import * as core from '@umber-lens/core/engine';
import { TraceDevice } from './device.js';
import * as umber from './index.js';
import { compileMaterialShader } from './shaders/index.js';

const { box, geometryFrom, lensOn, Scene, Swarm } = umber;

type Any = never;
const device = new TraceDevice();
const lens = lensOn(device, { onMessage: () => undefined });
const camera = { type: 'perspective', yfov: 0.8, znear: 0.1 } as const;
const node = (given: object) => () => new Scene().createNode(given as Any);
const cameraNode = (): umber.SceneNode => new Scene().createNode({ name: 'camera', camera });
const canvas = { addEventListener: () => undefined } as unknown as HTMLElement;
const triangle = [0, 0, 0, 1, 0, 0, 0, 1, 0];

/** Calls that cannot be meant: what is said names the thing, and says what to write. */
const CALLS: [what: string, call: () => unknown, says: RegExp][] = [
  // Drawing.
  [
    'draw without a scene',
    () => lens.draw(undefined as Any, undefined as Any),
    /given undefined in place of the scene/,
  ],
  [
    'draw without a camera',
    () => lens.draw(new Scene(), undefined as Any),
    /given undefined in place of the camera node/,
  ],
  [
    'draw with both swapped',
    () => lens.draw(new Scene().createNode() as Any, new Scene() as Any),
    /node ""[^]*in place of the scene[^]*The scene comes first: lens.draw\(scene, camera\)/,
  ],
  [
    'draw with a name',
    () => lens.draw(new Scene(), 'camera' as Any),
    /the text "camera" in place of the camera node/,
  ],
  [
    'draw with a promise',
    () => lens.draw(Promise.resolve(new Scene()) as Any, cameraNode()),
    /a promise \(await what gives it\)/,
  ],
  [
    'a way that is not there',
    () => void (lens.view.renderPath = 'defered' as Any),
    /no render path "defered"[^]*deferred/,
  ],
  [
    'a look that is not there',
    () => void (lens.view.show = 'normal' as Any),
    /"normal" cannot be shown[^]*normals/,
  ],
  ['a target without pixels', () => lens.createTarget({ width: 0, height: 4 }), /"target" cannot be 0 x 4/],
  ['compare one way', () => lens.compare({ a: () => undefined } as Any), /two functions, and "b" is none/],
  ['pick without a canvas', () => lens.pick(new Scene(), cameraNode(), 1, 2), /no canvas[^]*size/],
  [
    'budgets of no turns',
    () => lens.compare({ a: () => undefined, b: () => undefined }, { turns: 0 }),
    /0 turns/,
  ],
  // Loading.
  [
    'a model of nothing',
    () => umber.loadModel(undefined as Any),
    /loadModel was given undefined to load[^]*Give an address/,
  ],
  ['a model of an empty text', () => umber.loadModel(''), /loadModel was given an empty text/],
  ['a texture of nothing', () => umber.loadTexture(undefined as Any), /loadTexture was given undefined/],
  ['a texture of a promise', () => umber.loadTexture(Promise.resolve('a.png') as Any), /a promise \(await/],
  [
    'an environment of nothing',
    () => umber.loadEnvironment(undefined as Any),
    /loadEnvironment was given undefined/,
  ],
  [
    'five sides of a sky',
    () => umber.loadEnvironment(['px', 'nx', 'py', 'ny', 'pz']),
    /six sides, and 5 were given[^]*\+X, -X/,
  ],
  [
    'five pictures of a sky',
    () =>
      core.panoramaOfSides([1, 2, 3, 4, 5].map(() => ({ width: 1, height: 1, data: new Float32Array(4) }))),
    /six sides, and 5/,
  ],
  [
    'sides that are not square',
    () =>
      core.panoramaOfSides(
        [1, 2, 3, 4, 5, 6].map(() => ({ name: 'px', width: 2, height: 1, data: new Float32Array(8) })),
      ),
    /side "px" is 2 x 1[^]*square/,
  ],
  // Nodes.
  [
    'a parent by its name',
    node({ name: 'crate', parent: 'quay' }),
    /"parent" of node "crate" is the text "quay"[^]*scene.find/,
  ],
  [
    'a parent of another scene',
    node({ name: 'crate', parent: new Scene().createNode({ name: 'quay' }) }),
    /"quay" belongs to another scene/,
  ],
  ['a name that is a number', node({ name: 5 }), /"name" of a node is 5[^]*Give a text/],
  [
    'visible as a number',
    node({ name: 'crate', visible: 1 }),
    /"visible" of node "crate" is 1[^]*true or false/,
  ],
  [
    'a light as text',
    node({ name: 'sun', light: 'directional' }),
    /"light" of node "sun" is the text "directional"[^]*type/,
  ],
  [
    'a light without a type',
    node({ name: 'sun', light: { intensity: 3 } }),
    /light of node "sun" has no type[^]*directional/,
  ],
  [
    'a camera as text',
    node({ name: 'camera', camera: 'perspective' }),
    /"camera" of node "camera" is the text/,
  ],
  [
    'a camera without a type',
    node({ name: 'camera', camera: { yfov: 1 } }),
    /camera of node "camera" has no type[^]*perspective/,
  ],
  ['a mesh as text', node({ name: 'tug', mesh: 'tug.glb' }), /"mesh" of node "tug" is the text "tug.glb"/],
  ['one number as a scale', node({ name: 'tug', scale: 2 }), /node "tug": scale takes 3 numbers/],
  [
    'a rotation of three angles',
    node({ name: 'tug', rotation: [0, 90, 0] }),
    /node "tug": rotation takes 4 numbers, got 3/,
  ],
  [
    'a rotation of zeros',
    node({ name: 'tug', rotation: [0, 0, 0, 0] }),
    /rotation of node "tug" is \[0, 0, 0, 0\][^]*quaternion/,
  ],
  [
    'a matrix of four numbers',
    node({ name: 'tug', matrix: [1, 0, 0, 1] }),
    /node "tug": matrix takes 16 numbers/,
  ],
  [
    'a node below itself',
    () => {
      const one = new Scene().createNode({ name: 'one' });
      one.setParent(one);
    },
    /"one" cannot hang below itself/,
  ],
  ['a facing of no direction', () => umber.facing([0, 0, 0]), /facing\(\) needs a direction/],
  ['an axis of no length', () => umber.axisAngle([0, 0, 0], 1), /needs an axis/],
  // Geometry.
  ['no arrays', () => geometryFrom(undefined as Any), /needs positions[^]*given nothing/],
  [
    'indices as an attribute',
    () => geometryFrom({ position: triangle, indices: [0, 1, 2] }),
    /indices are no attribute[^]*second argument/,
  ],
  [
    'an index beyond the vertices',
    () => geometryFrom({ position: triangle }, [0, 1, 5], { name: 'sail' }),
    /index 2 of geometry "sail" is 5[^]*0 to 2/,
  ],
  [
    'an index between vertices',
    () => geometryFrom({ position: triangle }, [0, 1, 1.5]),
    /index 2 of a geometry is 1.5/,
  ],
  ['a negative index', () => geometryFrom({ position: triangle }, [0, 1, -1]), /is -1[^]*whole numbers/],
  [
    'too few normals',
    () => geometryFrom({ position: triangle, normal: [0, 0, 1] }),
    /"normal" has 3 numbers, which does not fit 3 vertices/,
  ],
  ['a negative radius', () => umber.sphere({ radius: -1 }), /radius is -1[^]*above 0/],
  ['half a slice', () => umber.sphere({ slices: 2.5 }), /slices is 2.5[^]*whole number/],
  ['a width that is no number', () => box({ width: NaN }), /width is NaN/],
  ['a tube along nothing', () => umber.tube({ path: [] } as Any), /tube cannot follow 0 points/],
  [
    'a lathe without a profile',
    () => umber.lathe({ outline: [] } as Any),
    /lathe takes no option "outline"[^]*profile/,
  ],
  [
    'a torus of segments',
    () => umber.torus({ segments: 4 } as Any),
    /torus takes no option "segments"[^]*rings, sides/,
  ],
  // Swarms.
  ['a swarm of nothing', () => new Swarm({} as Any), /swarm needs a geometry/],
  [
    'a swarm without places',
    () => new Swarm({ geometry: box() } as Any),
    /where its instances are[^]*transforms/,
  ],
  [
    'a swarm of seven numbers',
    () => new Swarm({ geometry: box(), transforms: new Float32Array(7) } as Any),
    /where its instances are[^]*\{ translations \} of 3 numbers/,
  ],
  [
    'matrices of seven numbers',
    () => new Swarm({ geometry: box(), transforms: { matrices: new Float32Array(7) } }),
    /matrices has 7 numbers[^]*12 an instance/,
  ],
  [
    'a share of two',
    () => {
      const swarm = new Swarm({ geometry: box(), transforms: { matrices: new Float32Array(12) } } as Any);
      swarm.share = 2;
    },
    /cannot show a share of 2[^]*0 for none/,
  ],
  // Shaders.
  [
    'a shader as a path',
    () => umber.createMaterial('water.wgsl' as Any),
    /cannot have[^]*water.wgsl[^]*import shader/,
  ],
  [
    'a module of nothing',
    () => compileMaterialShader(undefined as Any),
    /material.wgsl was given nothing in place of a shader's text/,
  ],
  [
    'no hook at all',
    () => compileMaterialShader('fn surfce(p: Fragment) -> Surface { return surfaceDefaults(p); }'),
    /none of the hooks[^]*surface/,
  ],
  [
    'a stage of nothing',
    () => umber.glslMaterialShader(undefined as Any, ''),
    /given nothing in place of a shader's text/,
  ],
  // Rigs.
  [
    'a rig without a canvas',
    () => umber.orbitRig(cameraNode(), undefined as Any),
    /orbitRig was given undefined in place of the canvas/,
  ],
  ['a rig on a selector', () => umber.flyRig(cameraNode(), '#canvas' as Any), /the text "#canvas"/],
  [
    'a rig without a camera',
    () => umber.orbitRig(new Scene().createNode({ name: 'bare' }), canvas),
    /"bare" carries no camera/,
  ],
  [
    'a misspelt option of a rig',
    () => umber.orbitRig(cameraNode(), canvas, { taget: [0, 0, 0] } as Any),
    /orbitRig has no "taget"[^]*target/,
  ],
  [
    'a limit of another program',
    () => umber.orbitRig(cameraNode(), canvas, { minDistance: 2 } as Any),
    /no "minDistance"[^]*distanceRange: \[min, max\]/,
  ],
  [
    'an elevation in degrees',
    () => umber.orbitRig(cameraNode(), canvas, { elevationRange: [10, 80] }),
    /"elevationRange" of orbitRig[^]*10 degrees are 0.1745/,
  ],
  [
    'one number as a range',
    () => umber.orbitRig(cameraNode(), canvas, { distanceRange: 3 } as Any),
    /"distanceRange" of orbitRig is 3/,
  ],
  ['a plan from elsewhere', () => umber.planRig(cameraNode(), canvas, { side: 'above' as Any }), /above/],
  [
    'a misspelt option of walking',
    () => umber.walkRig(cameraNode(), canvas, { heigth: 2 } as Any),
    /walkRig has no "heigth"[^]*height/,
  ],
  [
    'a slope in degrees',
    () => umber.walkRig(cameraNode(), canvas, { slope: 45 }),
    /"slope" of walkRig is 45[^]*0.7854/,
  ],
  [
    'a look that is not there',
    () => umber.flyRig(cameraNode(), canvas, { look: 'move' as Any }),
    /"look" of flyRig cannot be "move"[^]*drag, lock/,
  ],
  [
    'a follow rig with damping',
    () => umber.followRig(cameraNode(), cameraNode(), { damping: 0.1 } as Any),
    /no "damping"[^]*halfLife/,
  ],
  [
    'a path rig with a duration',
    () =>
      umber.pathRig(
        cameraNode(),
        [
          [0, 0, 0],
          [1, 0, 0],
        ],
        { duration: 3 } as Any,
      ),
    /pathRig has no "duration"/,
  ],
  // The GPU.
  [
    'an unknown format',
    () => device.createTexture({ label: 'wood', width: 1, height: 1, format: 'rgb8' as Any }),
    /texture "wood" cannot be "rgb8"[^]*rgba8unorm/,
  ],
  [
    'a texture without size',
    () => device.createTexture({ label: 'wood', width: 1.5, height: 1, format: 'rgba8unorm' }),
    /"wood" cannot be 1.5 x 1/,
  ],
  [
    'a buffer of negative size',
    () => device.createBuffer({ label: 'b', usage: 'vertex', size: -4 }),
    /buffer "b" cannot have -4 bytes/,
  ],
];

test.each(CALLS)('%s', async (_, call, says) => {
  let said = 'nothing was said';
  try {
    await call();
  } catch (error) {
    // A hint is a part of the message, so that every console shows it.
    said = error instanceof core.LensError ? error.message : `raw: ${String(error)}`;
  }
  expect(said).toMatch(says);
});
