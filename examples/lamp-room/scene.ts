import { axisAngle, type Lens, type Scene, TONES } from 'umber-lens';
import type { Controls } from '../controls.js';
import type { Example } from '../example.js';
import { placeSheet } from '../sheet.js';
import sheet from './lamp-room.sheet.json';

/** The lamp room of the lighthouse in the evening: prisms around a turning lamp, and a table with a few things on it. */
export async function createLampRoom(scene: Scene): Promise<Example> {
  const { prepare, stage } = await placeSheet(scene, sheet);
  const beams = stage.find('lamp/beams')!; // in the sheet
  const bubbles = (['bubble 1', 'bubble 2', 'bubble 3'] as const).map((name) => stage.find(name)!); // as above
  return {
    camera: stage.camera!, // as above
    rig: { target: [0.4, 1.25, 0], distanceRange: [1.2, 12] },
    prepare,
    frame(time) {
      beams.setRotation(...axisAngle([0, 1, 0], time * 0.5));
      bubbles.forEach((bubble, i) => {
        const [x, , z] = bubble.readTranslation([0, 0, 0]);
        bubble.setTranslation(x!, 1.3 + i * 0.22 + 0.06 * Math.sin(time * 0.7 + i * 2), z!);
      });
    },
  };
}

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
