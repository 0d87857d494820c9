import { linkedSheet, openViewfinder, watchViewfinder } from '@umber-lens/viewfinder';
import { applySheet, loadSheet, openLens, orbitRig, Scene } from 'umber-lens';
import { controlPanel } from '../controls.js';
import { optionsOf } from '../example.js';
import { figuresLine, showFailure } from '../stage.js';

/** An empty quay out of a sheet: everything else comes by the viewfinder. */
async function main(): Promise<void> {
  const canvas = document.querySelector('canvas')!; // in the page
  const lens = await openLens(canvas, optionsOf(new URLSearchParams(location.search)));
  const scene = new Scene();
  // A link of the viewfinder brings a scene along.
  const source = (await linkedSheet()) ?? '../models/stage.sheet.json';
  const sheet = applySheet(scene, await loadSheet(source), { lens });
  const camera = sheet.camera!; // it names one
  const rig = orbitRig(camera, canvas, { target: [0, 1, 0], elevationRange: [0.02, 1.57] });
  const figures = figuresLine(lens);
  lens.run(({ delta }) => {
    rig.update(delta);
    lens.draw(scene, camera);
    figures();
  });
  watchViewfinder(lens, scene);
  controlPanel().button('Viewfinder (Alt+V)', () => void openViewfinder(lens, scene));
  // For the console, and for the tests that drive this page.
  Object.assign(window, { lens, scene, camera, rig, sheet });
}

main().catch(showFailure);
