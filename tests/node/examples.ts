import { readFile } from 'node:fs/promises';
import { type Image, lensOn, Scene, type SceneNode } from 'umber-lens';
import { placeAsset, readGltf } from '@umber-lens/core/formats';
import { WebgpuDevice } from 'umber-lens/device';
import type { CreateExample, Example } from '../../examples/example.js';
import { createChartPrint } from '../../examples/chart-print/scene.js';
import { createGlassFloats } from '../../examples/glass-float/scene.js';
import { createLampRoom } from '../../examples/lamp-room/scene.js';
import { createLanternNight } from '../../examples/lantern-night/scene.js';
import { createFigurehead } from '../../examples/figurehead/scene.js';
import { createJellyfish } from '../../examples/jellyfish/scene.js';
import { createKelp } from '../../examples/kelp/scene.js';
import { createSignalFlags } from '../../examples/signal-flags/scene.js';
import { createUrn } from '../../examples/urn/scene.js';
import { createVarnish } from '../../examples/varnish/scene.js';

/** The examples that are scenes, by their folders. */
export const EXAMPLES: Record<string, CreateExample> = {
  'signal-flags': createSignalFlags,
  urn: createUrn,
  'glass-float': createGlassFloats,
  jellyfish: createJellyfish,
  'chart-print': createChartPrint,
  'lamp-room': createLampRoom,
  'lantern-night': createLanternNight,
  figurehead: createFigurehead,
  varnish: createVarnish,
  kelp: (scene) => createKelp(scene, undefined, 12_000),
};

async function placeModel(name: string, scene: Scene): Promise<SceneNode> {
  const asset = await readGltf(await readFile(`examples/public/models/${name}.glb`));
  if (asset.images.some((image: Image) => image.content.kind === 'encoded'))
    throw new Error('pictures to decode');
  return placeAsset(asset, scene, { name }).node;
}

/** sRGB bytes of an example at a time, top row first. */
export async function drawExample(
  gpu: GPUDevice,
  name: string,
  size: { width: number; height: number },
  time: number,
): Promise<Uint8Array> {
  const errors: string[] = [];
  const lens = lensOn(new WebgpuDevice(gpu, { onError: (error) => errors.push(error.message) }), {
    onMessage: (message) => errors.push(message.toString()),
  });
  const scene = new Scene();
  const example: Example = await EXAMPLES[name]!(scene, placeModel);
  example.prepare?.(lens);
  await lens.load(scene);
  const target = lens.createTarget(size);
  lens.setTime(time);
  example.frame(time);
  lens.draw(scene, example.camera, { target });
  const pixels = await target.read();
  lens.dispose();
  if (errors.length > 0) throw new Error(errors.join('\n'));
  return pixels;
}
