import { affineDeterminant, type Scene } from '@umber-lens/core/engine';
import type { PreparedScene } from './prepared-scene.js';
import type { Renderer } from './renderer.js';

/** Loads what a scene has around it and makes its pipelines beside the script, so that its first picture waits for nothing. */
export async function loadScene(renderer: Renderer, scene: Scene): Promise<void> {
  const { around, frame, look, scenePass } = renderer;
  const prepared = scenePass.sceneOf(scene);
  scene.update();
  prepared.prepare(frame);
  renderer.useFor(scene, prepared);
  around.finishFor(look);
  await renderer.cull(scene);
  await renderer.whenReady();
  const { pipelines } = prepared.stores;
  const full = renderer.useFor(scene, prepared);
  // Variants of the materials' own shaders.
  if (full) for (const ready of prepared.batches) if (ready?.shader) pipelines.full(ready.shader, full);
  await renderer.whenReady();
  prepared.setFull(renderer.useFor(scene, prepared));
  pipelines.isAsync = true;
  makePipelines(prepared);
  pipelines.isAsync = !pipelines.waits;
  await pipelines.whenReady();
}

/** Begins to make all pipelines that the scene can be drawn with as it is. */
function makePipelines(prepared: PreparedScene): void {
  const mirrored = mirroredBatches(prepared.scene);
  prepared.batches.forEach((ready, number) => {
    if (!ready || ready.geometry.count === 0) return;
    prepared.pipelineOf(ready, 0);
    if (mirrored.has(number)) prepared.pipelineOf(ready, 1);
    if (prepared.full?.hasShadows) prepared.full.shadow(ready, prepared.stores.pipelines);
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
