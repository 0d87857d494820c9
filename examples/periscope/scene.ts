import {
  axisAngle,
  box,
  createMaterial,
  cylinder,
  disc,
  facing,
  type Lens,
  plane,
  planeOf,
  reflectCamera,
  type RenderTarget,
  type Scene,
  type SettingValue,
  skyPanorama,
  sphere,
  sunIrradiance,
  torus,
} from 'umber-lens';
import type { Example, PlaceModel } from '../example.js';
import water from './still-water.wgsl';

type Vec3 = [number, number, number];

/** Bits of who sees what: all but reflections, and reflections. */
const [EYES, MIRROR] = [0b01, 0b10];
/** Towards the sun. */
const SUN: Vec3 = [-0.9, 0.3, 0.32];

/** A tug on still water that reflects it, seen once more through a periscope and from above. */
export async function createPeriscope(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  const panorama = skyPanorama({ sunDirection: SUN, turbidity: 3, groundAlbedo: [0.02, 0.03, 0.04] });
  scene.imageLight = { panorama, intensity: 1.1 };
  scene.backdrop = { panorama };
  const shine = sunIrradiance(SUN, 3);
  const brightest = Math.max(...shine);
  scene.createNode({
    name: 'sun',
    rotation: facing(SUN.map((part) => -part) as Vec3),
    light: {
      type: 'directional',
      color: shine.map((part) => part / brightest) as Vec3,
      intensity: brightest,
      shadow: { distance: 30 },
    },
  });
  const surface = createMaterial(water, {
    name: 'still water',
    baseColorFactor: [0.008, 0.03, 0.04, 1],
    metallicFactor: 0,
    roughnessFactor: 0.35,
    specularFactor: 0,
  });
  // What reflects is in no reflection.
  const sea = scene.createNode({
    name: 'water',
    visibleTo: EYES,
    mesh: { geometry: plane({ width: 400, depth: 400 }), material: surface },
  });
  const tug = await placeModel('tug', scene);
  tug.setRotation(...axisAngle([0, 1, 0], 0.75));
  const buoys = [
    [-5.4, 0.35, -4.4],
    [3.4, 0.35, -6],
    [6.4, 0.35, 3.6],
  ].map(([x, y, z], i) => {
    const buoy = scene.createNode({ name: `buoy ${i + 1}`, translation: [x!, y!, z!] }); // three each
    const paint = [0.75, 0.16, 0.06, 1] as [number, number, number, number];
    const material = { name: 'paint', baseColorFactor: paint, metallicFactor: 0, roughnessFactor: 0.4 };
    scene.createNode({ parent: buoy, mesh: { geometry: sphere({ radius: 0.55 }), material } });
    scene.createNode({
      parent: buoy,
      translation: [0, 0.95, 0],
      mesh: { geometry: cylinder({ topRadius: 0.04, bottomRadius: 0.07, height: 1.3 }), material },
    });
    return buoy;
  });

  // The eyepiece: brass around a live picture, near by on the right.
  const view = scene.createNode({
    name: 'through the periscope',
    camera: { type: 'perspective', yfov: 0.34, znear: 0.2, sees: EYES | MIRROR },
    translation: [9, 5.4, 9],
    rotation: facing([-9, -4.2, -9]),
  });
  const eyepiece = scene.createNode({ name: 'eyepiece', scale: [0.84, 0.84, 0.84], visibleTo: EYES });
  const brass = {
    name: 'brass',
    baseColorFactor: [0.78, 0.56, 0.26, 1] as never,
    metallicFactor: 1,
    roughnessFactor: 0.28,
  };
  const glass = {
    name: 'glass',
    unlit: true,
    baseColorFactor: [1, 1, 1, 1] as [number, number, number, number],
  };
  scene.createNode({
    parent: eyepiece,
    name: 'ring',
    rotation: axisAngle([1, 0, 0], Math.PI / 2),
    mesh: { geometry: torus({ radius: 0.5, tubeRadius: 0.055, rings: 96, sides: 24 }), material: brass },
  });
  scene.createNode({
    parent: eyepiece,
    name: 'tube',
    translation: [0, 0, -0.16],
    rotation: axisAngle([1, 0, 0], Math.PI / 2),
    mesh: {
      geometry: cylinder({ topRadius: 0.52, bottomRadius: 0.52, height: 0.3, slices: 64 }),
      material: brass,
    },
  });
  const lens = scene.createNode({
    parent: eyepiece,
    name: 'lens',
    translation: [0, 0, 0.005],
    rotation: axisAngle([1, 0, 0], Math.PI / 2),
    mesh: { geometry: disc({ radius: 0.49, slices: 96 }), material: glass },
  });
  for (const turn of [0, Math.PI / 2])
    scene.createNode({
      parent: eyepiece,
      name: 'hair',
      translation: [0, 0, 0.012],
      rotation: axisAngle([0, 0, 1], turn),
      mesh: {
        geometry: box({ width: 0.96, height: 0.004, depth: 0.002 }),
        material: { unlit: true, baseColorFactor: [0.02, 0.015, 0.01, 1] },
      },
    });

  const camera = scene.createNode({
    name: 'camera',
    translation: [-3.4, 2.3, 10.4],
    rotation: facing([0.3, -0.1, -1]),
    camera: { type: 'perspective', yfov: 0.72, znear: 0.1, sees: EYES | MIRROR },
  });
  const reflected = scene.createNode({
    name: 'reflected camera',
    camera: { type: 'perspective', yfov: 0.72, znear: 0.1, sees: MIRROR },
  });
  const above = scene.createNode({
    name: 'from above',
    translation: [0, 40, 0],
    rotation: facing([0, -1, 0], [0, 0, -1]),
    camera: { type: 'orthographic', xmag: 9, ymag: 9, znear: 1, zfar: 80 },
  });

  const targets = new Map<Lens, { mirror: RenderTarget; round: RenderTarget }>();
  const targetsOf = (lens: Lens): { mirror: RenderTarget; round: RenderTarget } => {
    let found = targets.get(lens);
    if (!found) {
      found = {
        mirror: lens.createTarget({ width: 960, height: 600, format: 'rgba16float' }),
        round: lens.createTarget({ width: 512, height: 512 }),
      };
      targets.set(lens, found);
    }
    return found;
  };
  const place = new Float32Array(3);
  return {
    camera,
    rig: { target: [0.4, 1.2, 1], elevationRange: [0.06, 1.2], distanceRange: [4, 30] },
    prepare(lens) {
      lens.look.toneMapping = 'agx';
      lens.look.contrast = 1.16;
      lens.look.saturation = 1.2;
      lens.look.exposure = 0.1;
    },
    frame(time) {
      tug.setTranslation(0, 0.05 + 0.03 * Math.sin(time * 0.9), 0);
      buoys.forEach((buoy, i) => {
        buoy.setRotation(...axisAngle([0.7, 0, 0.7], 0.1 * Math.sin(time * 1.1 + i * 2)));
      });
      view.setRotation(...facing([-9 + 1.2 * Math.sin(time * 0.4), -4.3, -9 + 0.8 * Math.cos(time * 0.3)]));
      // The eyepiece stays in the lower right of whatever is looked at.
      camera.readWorldPosition(place);
      const world = camera.readWorld(new Float32Array(12));
      const along = (x: number, y: number, z: number): Vec3 =>
        [0, 1, 2].map(
          (k) => place[k]! + world[k * 4]! * x + world[k * 4 + 1]! * y + world[k * 4 + 2]! * z, // rows of four
        ) as Vec3;
      eyepiece.setTranslation(...along(0.98, -0.36, -2.7));
      eyepiece.setRotation(...camera.readRotation<[number, number, number, number]>([0, 0, 0, 1]));
    },
    draw(drawing, into) {
      const { mirror, round } = targetsOf(drawing);
      const settings = surface.settings as Record<string, SettingValue>; // it begins with its defaults
      settings['reflection'] = mirror.texture;
      (lens.mesh!.primitives[0]!.material as { baseColorTexture?: object }).baseColorTexture = {
        texture: round.texture,
      };
      reflectCamera(reflected, camera, planeOf(sea, 'y'));
      // Light as it is, two stops darker, so that none is cut off.
      drawing.draw(scene, reflected, {
        target: mirror,
        look: { toneMapping: 'none', exposure: -2, contrast: 1, saturation: 1 },
      });
      eyepiece.setVisible(false);
      // The reflection is right for the camera alone.
      settings['gain'] = 0;
      drawing.draw(scene, view, { target: round });
      eyepiece.setVisible(true);
      settings['gain'] = 4;
      drawing.draw(scene, camera, into ? { target: into } : {});
      const { width, height } = into ?? sizeOf(drawing);
      const side = Math.round(Math.min(width, height) * 0.27);
      const inset = { x: 16, y: height - side - 16 - (into ? 0 : 34), width: side, height: side };
      eyepiece.setVisible(false);
      settings['gain'] = 0;
      drawing.draw(scene, above, { ...(into ? { target: into } : {}), viewport: inset });
      eyepiece.setVisible(true);
    },
  };
}

/** Of the canvas, CSS pixels. */
const sizeOf = ({ canvas }: Lens): { width: number; height: number } => ({
  width: canvas?.clientWidth ?? 1,
  height: canvas?.clientHeight ?? 1,
});
