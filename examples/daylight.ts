import { facing, plane, type Scene, skyPanorama, sunIrradiance } from 'umber-lens';

type Vec3 = [number, number, number];

export interface Daylight {
  /** Towards the sun: of length 1. */
  sun: Vec3;
  turbidity: number;
  /** Height of the sea, metres. */
  sea: number;
  /** Metres from the camera up to which there are shadows. */
  reach: number;
  /** Maps that they are in. Default 3. */
  cascades?: number;
}

/** Open sea under an analytic sky, and the sun that belongs to it. */
export function addDaylight(scene: Scene, { sun, turbidity, sea, reach, cascades = 3 }: Daylight): void {
  const panorama = skyPanorama({ sunDirection: sun, turbidity });
  const shine = sunIrradiance(sun, turbidity);
  const brightest = Math.max(...shine);
  scene.imageLight = { panorama };
  scene.backdrop = { panorama };
  scene.createNode({
    name: 'sea',
    translation: [0, sea, 0],
    mesh: {
      geometry: plane({ width: 600, depth: 600 }),
      material: {
        name: 'open sea',
        baseColorFactor: [0.02, 0.09, 0.12, 1],
        metallicFactor: 0,
        roughnessFactor: 0.22,
      },
    },
  });
  scene.createNode({
    name: 'sun',
    rotation: facing(sun.map((part) => -part) as Vec3),
    light: {
      type: 'directional',
      intensity: brightest / sun[1],
      color: shine.map((part) => part / brightest) as Vec3,
      angle: 0.0093,
      shadow: { distance: reach, cascades },
    },
  });
}

type Rgb = [red: number, green: number, blue: number];

/** Light from above and from below, as radiance. */
export function addSkyLight(scene: Scene, sky: Rgb, ground: Rgb): void {
  // Lux on a surface that meets nothing else is pi times the radiance.
  const light = { type: 'hemisphere', color: sky, groundColor: ground, intensity: Math.PI } as const;
  scene.createNode({ name: 'sky light', light });
}
