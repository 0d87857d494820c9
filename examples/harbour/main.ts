import { loadModel, openLens, orbitRig, Scene, type SceneNode, skyPanorama, axisAngle } from 'umber-lens';
import { optionsOf } from '../example.js';
import { figuresLine, loadingBar, showFailure } from '../stage.js';

async function main(): Promise<void> {
  const canvas = document.querySelector('canvas')!; // in the page
  const lens = await openLens(canvas, {
    look: {
      exposure: -0.4,
      toneMapping: 'agx',
      saturation: 1.28,
      contrast: 1.22,
      vignette: { size: 0.85, softness: 0.9, weight: 0.3, color: [0.05, 0.04, 0.08] },
    },
    ...optionsOf(new URLSearchParams(location.search)),
  });
  const scene = new Scene();
  const harbour = await loadModel('../models/harbour.glb', { onProgress: loadingBar('Loading the harbour') });
  const place = harbour.placeIn(scene, { name: 'harbour' });
  light(scene);
  const camera = scene.find('arrival')!; // a camera of the file
  camera.setParent(undefined, { keepWorld: true });
  const rig = orbitRig(camera, canvas, {
    target: [0.6, 4.6, 0],
    elevationRange: [0.02, 1.57],
    distanceRange: [3, 90],
  });
  const buoys = ['port buoy', 'starboard buoy'].map((name) => scene.find(name)!); // nodes of the file
  const figures = figuresLine(lens);
  lens.run(({ time, delta }) => {
    buoys.forEach((buoy, i) => bob(buoy, time + i * 2.1));
    rig.update(delta);
    lens.draw(scene, camera);
    figures();
  });
  // For the console, and for the tests that drive this page.
  Object.assign(window, { lens, scene, camera, rig, place });
}

/** A sky around the sun of the file, whose light throws shadows, and air that takes its colour. */
function light(scene: Scene): void {
  const sun = scene.find('sun')!; // a light of the file
  const world = sun.readWorld(new Float32Array(12));
  const sunDirection: [number, number, number] = [world[2]!, world[6]!, world[10]!]; // it shines along -Z
  const panorama = skyPanorama({ sunDirection, turbidity: 2, groundAlbedo: [0.06, 0.09, 0.11] });
  scene.imageLight = { panorama, intensity: 1.6 };
  scene.backdrop = { panorama };
  scene.fog = { type: 'exponential', color: 'sky', density: 0.0035 };
  sun.setLight({ ...sun.light!, angle: 0.0093, shadow: true });
}

/** A buoy on the swell: up and down, and leaning as the wave passes. */
function bob(buoy: SceneNode, time: number): void {
  const [x, , z] = buoy.readTranslation([0, 0, 0]);
  buoy.setTranslation(x!, 0.05 + 0.14 * Math.sin(time * 1.3), z!);
  buoy.setRotation(...axisAngle([0.6, 0, 0.8], 0.12 * Math.sin(time * 1.3 + 0.9)));
}

main().catch(showFailure);
