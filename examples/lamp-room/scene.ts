import {
  box,
  cone,
  cylinder,
  facing,
  type Lens,
  type Material,
  plane,
  type Scene,
  type SceneNode,
  skyPanorama,
  sphere,
  sunIrradiance,
  TONES,
  torus,
  axisAngle,
} from 'umber-lens';
import type { Controls } from '../controls.js';
import type { Example } from '../example.js';

type Vec3 = [number, number, number];

/** Towards the evening sun: low over the sea, behind the glass. */
const SUN: Vec3 = [0.62, 0.16, -0.77];

const brass: Material = {
  name: 'brass',
  baseColorFactor: [0.88, 0.62, 0.28, 1],
  metallicFactor: 1,
  roughnessFactor: 0.3,
  anisotropyStrength: 0.6,
};
const glass: Material = {
  name: 'prism glass',
  baseColorFactor: [0.97, 1, 0.98, 1],
  metallicFactor: 0,
  roughnessFactor: 0.02,
  transmissionFactor: 1,
  ior: 1.52,
  thicknessFactor: 0.25,
  attenuationColor: [0.75, 0.95, 0.88],
  attenuationDistance: 1.2,
  dispersion: 1.5,
};
const lacquer: Material = {
  name: 'lacquered wood',
  baseColorFactor: [0.24, 0.07, 0.03, 1],
  metallicFactor: 0,
  roughnessFactor: 0.55,
  clearcoatFactor: 1,
  clearcoatRoughnessFactor: 0.06,
};
const velvet: Material = {
  name: 'velvet',
  baseColorFactor: [0.1, 0.015, 0.06, 1],
  metallicFactor: 0,
  roughnessFactor: 0.95,
  sheenColorFactor: [0.75, 0.25, 0.5],
  sheenRoughnessFactor: 0.35,
};
const soap: Material = {
  name: 'soap film',
  baseColorFactor: [1, 1, 1, 1],
  metallicFactor: 0,
  roughnessFactor: 0,
  transmissionFactor: 1,
  ior: 1.33,
  iridescenceFactor: 1,
  iridescenceIor: 1.33,
  iridescenceThicknessMaximum: 480,
};
const iron: Material = {
  name: 'iron',
  baseColorFactor: [0.03, 0.04, 0.045, 1],
  metallicFactor: 0,
  roughnessFactor: 0.5,
};
const wetStone: Material = {
  name: 'wet stone',
  baseColorFactor: [0.16, 0.16, 0.17, 1],
  metallicFactor: 0,
  roughnessFactor: 0.75,
  clearcoatFactor: 0.8,
  clearcoatRoughnessFactor: 0.12,
};

/** The lamp room of the lighthouse in the evening: prisms around a turning lamp, and a table with a few things on it. */
export function createLampRoom(scene: Scene): Example {
  const panorama = skyPanorama({ sunDirection: SUN, turbidity: 2.6, groundAlbedo: [0.05, 0.08, 0.1] });
  scene.imageLight = { panorama, intensity: 1.2 };
  scene.backdrop = { panorama };
  scene.fog = { type: 'exponential', color: 'sky', density: 0.003 };
  const light = sunIrradiance(SUN, 2.6);
  const brightest = Math.max(...light);
  scene.createNode({
    name: 'sun',
    rotation: facing([-SUN[0], -SUN[1], -SUN[2]]),
    light: {
      type: 'directional',
      intensity: (0.6 * brightest) / SUN[1],
      color: light.map((part) => part / brightest) as Vec3,
      angle: 0.0093,
      shadow: true,
    },
  });
  const put = (
    name: string,
    translation: Vec3,
    geometry: Parameters<typeof mesh>[0],
    material: Material,
  ): SceneNode => scene.createNode({ name, translation, mesh: mesh(geometry, material) });
  put('floor', [0, 0, 0], cylinder({ topRadius: 3.2, bottomRadius: 3.2, height: 0.1, slices: 64 }), wetStone);
  put('sea', [0, -14, 0], plane({ width: 6000, depth: 6000 }), {
    name: 'sea',
    baseColorFactor: [0.02, 0.06, 0.08, 1],
    metallicFactor: 0,
    roughnessFactor: 0.25,
  });
  for (let i = 0; i < 10; i++) {
    const turn = ((i + 0.5) / 10) * 2 * Math.PI;
    put(
      'mullion',
      [2.9 * Math.sin(turn), 1.5, 2.9 * Math.cos(turn)],
      box({ width: 0.07, height: 3, depth: 0.07 }),
      iron,
    );
  }
  put('sill', [0, 0.42, 0], torus({ radius: 2.9, tubeRadius: 0.05, rings: 96 }), brass);
  put('head', [0, 2.95, 0], torus({ radius: 2.9, tubeRadius: 0.07, rings: 96 }), brass);

  // Prisms in rings: narrow ones above and below, the bull's camera between them.
  const lamp = scene.createNode({ name: 'lamp', translation: [0, 1.5, -0.6] });
  const rings: [height: number, radius: number, tube: number][] = [
    [0.72, 0.34, 0.055],
    [0.58, 0.46, 0.06],
    [0.42, 0.54, 0.065],
    [-0.42, 0.54, 0.065],
    [-0.58, 0.46, 0.06],
    [-0.72, 0.34, 0.055],
  ];
  for (const [height, radius, tube] of rings)
    scene.createNode({
      name: 'prism ring',
      parent: lamp,
      translation: [0, height, 0],
      mesh: mesh(torus({ radius, tubeRadius: tube, rings: 64, sides: 3 }), glass),
    });
  for (let i = 0; i < 6; i++) {
    const turn = (i / 6) * 2 * Math.PI;
    scene.createNode({
      name: "bull's camera",
      parent: lamp,
      translation: [0.56 * Math.sin(turn), 0, 0.56 * Math.cos(turn)],
      rotation: axisAngle([0, 1, 0], turn),
      scale: [0.29, 0.29, 0.1],
      mesh: mesh(sphere({ radius: 1, slices: 40, stacks: 24 }), glass),
    });
    scene.createNode({
      name: 'rod',
      parent: lamp,
      translation: [0.5 * Math.sin(turn + 0.52), 0, 0.5 * Math.cos(turn + 0.52)],
      mesh: mesh(cylinder({ topRadius: 0.014, bottomRadius: 0.014, height: 1.5, slices: 12 }), brass),
    });
  }
  scene.createNode({
    name: 'flame',
    parent: lamp,
    castsShadow: false,
    mesh: mesh(sphere({ radius: 0.09 }), {
      name: 'flame',
      baseColorFactor: [0, 0, 0, 1],
      metallicFactor: 0,
      emissiveFactor: [1, 0.75, 0.4],
      emissiveStrength: 14,
    }),
  });
  scene.createNode({
    name: 'glow',
    parent: lamp,
    light: { type: 'point', intensity: 3, color: [1, 0.72, 0.42], range: 9 },
  });
  put(
    'pedestal',
    [0, 0.4, -0.6],
    cylinder({ topRadius: 0.22, bottomRadius: 0.22, height: 0.75, slices: 48 }),
    brass,
  );

  // The beams: cones that glow where haze is.
  const beam: Material = {
    name: 'beam',
    unlit: true,
    alphaMode: 'blend',
    baseColorFactor: [1, 0.8, 0.5, 0.13],
    doubleSided: true,
  };
  const turntable = scene.createNode({ name: 'beams', parent: lamp });
  for (const way of [-1, 1])
    scene.createNode({
      name: 'beam',
      parent: turntable,
      translation: [0, 0, way * 7.6],
      rotation: axisAngle([1, 0, 0], (-way * Math.PI) / 2),
      castsShadow: false,
      mesh: mesh(cone({ radius: 0.9, height: 14, slices: 48 }), beam),
    });

  // A table with what the keeper left on it.
  put(
    'table',
    [1.15, 0.72, 0.75],
    cylinder({ topRadius: 0.62, bottomRadius: 0.62, height: 0.06, slices: 64 }),
    lacquer,
  );
  put(
    'leg',
    [1.15, 0.37, 0.75],
    cylinder({ topRadius: 0.06, bottomRadius: 0.06, height: 0.7, slices: 24 }),
    lacquer,
  );
  const cushion = put('cushion', [1.35, 0.83, 0.6], sphere({ radius: 0.24, slices: 48 }), velvet);
  cushion.setScale(1, 0.42, 1);
  put('float', [0.9, 0.87, 0.98], sphere({ radius: 0.12, slices: 48, stacks: 32 }), {
    ...glass,
    name: 'float glass',
    dispersion: 0,
    attenuationColor: [0.1, 0.75, 0.5],
    attenuationDistance: 0.25,
  });
  const bubbles = [0, 1, 2].map((i) =>
    put(
      'bubble',
      [0.4 + i * 0.5, 1.3 + i * 0.22, 1.1 - i * 0.35],
      sphere({ radius: 0.13 - i * 0.025, slices: 48, stacks: 32 }),
      soap,
    ),
  );
  const camera = scene.createNode({
    name: 'camera',
    translation: [1.25, 1.72, 2.65],
    rotation: facing([-0.3, -0.14, -1]),
    camera: { type: 'perspective', yfov: 0.85, znear: 0.1 },
  });
  return {
    camera,
    rig: { target: [0.4, 1.25, 0], distanceRange: [1.2, 12] },
    prepare(lens) {
      lens.look.exposure = -0.2;
      lens.look.toneMapping = 'agx';
    },
    frame(time) {
      turntable.setRotation(...axisAngle([0, 1, 0], time * 0.5));
      bubbles.forEach((bubble, i) => {
        const [x, , z] = bubble.readTranslation([0, 0, 0]);
        bubble.setTranslation(x!, 1.3 + i * 0.22 + 0.06 * Math.sin(time * 0.7 + i * 2), z!);
      });
    },
  };
}

const mesh = (
  geometry: ReturnType<typeof sphere>,
  material: Material,
): { geometry: ReturnType<typeof sphere>; material: Material } => ({ geometry, material });

/** What can be changed while it runs. */
export function lampRoomControls(lens: Lens, scene: Scene, controls: Controls): void {
  const { imageLight: environment, fog } = scene;
  const sun = scene.find('sun')!; // made above
  controls.choice('tone', TONES, lens.look.toneMapping ?? 'soft', (tone) => (lens.look.toneMapping = tone));
  controls.range('exposure', -4, 3, lens.look.exposure ?? 0, (stops) => (lens.look.exposure = stops));
  controls.choice('metering', ['by hand', 'automatic'], 'by hand', (way) => {
    lens.look.automaticExposure = way === 'automatic';
  });
  controls.range('white balance', 2500, 12_000, 6504, (kelvin) => (lens.look.whiteBalance = kelvin));
  controls.range('environment', 0, 2, environment!.intensity!, (factor) => (environment!.intensity = factor));
  controls.range('turn', 0, 6.28, 0, (radians) => (environment!.rotation = radians));
  controls.range('fog', 0, 0.1, 0.003, (density) => fog && Object.assign(fog, { density }));
  const lamp = scene.find('lamp')!; // as the sun
  // From whole to its middle: the side towards the camera is taken away.
  controls.range('cut open', 0, 1, 0, (share) => {
    const near = 0.75 * (1 - share);
    scene.clipping = share > 0 ? { planes: [[0, 0, -1, near - 0.6]], node: lamp } : undefined;
  });
  controls.range('vignette', 0, 1, 0, (weight) => (lens.look.vignette = { weight }));
  controls.choice('shadows', ['on', 'off'], 'on', (shadows) =>
    sun.setLight({ ...sun.light!, shadow: shadows === 'on' }),
  );
}
