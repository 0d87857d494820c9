import { applySheet, axisAngle, loadSheet, openLens, orbitRig, Scene, type SceneNode } from 'umber-lens';
import { watchViewfinder } from '@umber-lens/viewfinder';
import { optionsOf } from '../example.js';
import { figuresLine, loadingBar, showFailure } from '../stage.js';

async function main(): Promise<void> {
  const canvas = document.querySelector('canvas')!; // in the page
  const lens = await openLens(canvas, optionsOf(new URLSearchParams(location.search)));
  const scene = new Scene();
  const onProgress = loadingBar('Loading the harbour');
  const sheet = applySheet(scene, await loadSheet('../models/harbour.sheet.json', { onProgress }), { lens });
  const camera = sheet.camera!; // it names one
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
  watchViewfinder(lens, scene);
  // For the console, and for the tests that drive this page.
  Object.assign(window, { lens, scene, camera, rig, sheet });
}

/** A buoy on the swell: up and down, and leaning as the wave passes. */
function bob(buoy: SceneNode, time: number): void {
  const [x, , z] = buoy.readTranslation([0, 0, 0]);
  buoy.setTranslation(x!, 0.05 + 0.14 * Math.sin(time * 1.3), z!);
  buoy.setRotation(...axisAngle([0.6, 0, 0.8], 0.12 * Math.sin(time * 1.3 + 0.9)));
}

main().catch(showFailure);
