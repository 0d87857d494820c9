import { affineDeterminant, type Scene } from '@umber-lens/core/engine';
import type { PreparedScene } from '../batches/prepared-scene.js';
import type { DrawSettings } from '../features/feature.js';
import type { DeviceTexture } from '../gpu/device.js';
import type { FullPipelines } from '../features/full-pipelines.js';
import type { Surroundings } from '../features/surroundings.js';
import type { Renderer } from './renderer.js';

/** Loads what a scene has around it and makes its pipelines beside the script, so that its first picture waits for nothing. */
export async function loadScene(
  renderer: Renderer,
  scene: Scene,
  settings: DrawSettings,
  target?: DeviceTexture,
): Promise<void> {
  const { around, frame, scenePass, uniforms } = renderer;
  const prepared = scenePass.sceneOf(scene);
  scene.update();
  prepared.prepare(frame);
  const facts = { scene, lights: uniforms.lightsOf(scene), layers: prepared.layers, settings };
  const full = (): FullPipelines | undefined => around.useFor(facts);
  // Targets may ask for more than what is drawn elsewhere.
  if (target) around.useFor({ ...facts, target });
  full();
  around.finishFor(settings.look);
  renderer.effects.chainFor(settings.finish);
  if (scene.effects.size > 0) renderer.effects.loaded();
  await renderer.cull(scene, settings);
  await renderer.whenReady(settings);
  const { pipelines } = prepared.stores;
  const found = full();
  // Variants of the materials' own shaders.
  if (found) for (const ready of prepared.batches) if (ready?.shader) pipelines.full(ready.shader, found);
  await renderer.whenReady(settings);
  prepared.setFull(full());
  pipelines.isAsync = true;
  makePipelines(prepared, prepared.full && around.surroundings);
  pipelines.isAsync = !pipelines.waits;
  await pipelines.whenReady();
}

/** Begins to make all pipelines that the scene can be drawn with as it is. */
function makePipelines(prepared: PreparedScene, surroundings: Surroundings | undefined): void {
  const mirrored = mirroredBatches(prepared.scene);
  prepared.batches.forEach((ready, number) => {
    if (!ready || ready.geometry.count === 0) return;
    prepared.pipelineSafely(ready, 0);
    if (mirrored.has(number)) prepared.pipelineSafely(ready, 1);
    surroundings?.makePipelines(ready, prepared);
  });
}

/** Numbers of the batches that some mirrored node draws: their faces wind the other way. */
function mirroredBatches({ columns }: Scene): Set<number> {
  const { itemBatch, itemCount, itemRow, world } = columns;
  const found = new Set<number>();
  for (let item = 0; item < itemCount; item++) {
    const row = itemRow[item]!; // item < itemCount, here and below
    // Items without a row are free.
    if (row >= 0 && affineDeterminant(world, row * 12) < 0) found.add(itemBatch[item]!);
  }
  return found;
}
