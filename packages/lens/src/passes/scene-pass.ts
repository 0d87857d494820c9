import { type CompiledShader, FEATURE, type Scene } from '@umber-lens/core';
import type { Device, DeviceBindGroup, DevicePipeline, RenderPass } from '../gpu/device.js';
import type { Messages } from '#messages';
import { GeometryStore, type GpuGeometry } from '../resources/geometry-store.js';
import { INSTANCE_BYTES } from '../resources/instance-buffer.js';
import { MaterialStore } from '../resources/material-store.js';
import { type FullUse, PipelineStore, type ScenePassFormats } from '../resources/pipeline-store.js';
import type { SettingsStore } from '../resources/settings-store.js';
import type { TextureStore } from '../resources/texture-store.js';
import type { EyeState } from './eye-state.js';
import { type PreparedBatch, PreparedScene, type SceneStores } from './prepared-scene.js';

/** Draws draw lists: one draw call a command. */
export class ScenePass {
  private readonly stores: SceneStores;
  private settings: SettingsStore | undefined;
  private readonly scenes = new Map<Scene, PreparedScene>();

  constructor(
    private readonly device: Device,
    textures: TextureStore,
    formats: ScenePassFormats,
    mesh: CompiledShader,
    private readonly messages: Messages,
    /** Whether pipelines are waited for; else what is not ready is drawn as before, or left out. */
    waits: boolean,
  ) {
    const pipelines = new PipelineStore(device, formats, mesh);
    pipelines.isAsync = !waits;
    pipelines.waits = waits;
    this.stores = {
      geometries: new GeometryStore(device),
      materials: new MaterialStore(device, textures, messages),
      pipelines,
      settings: (feeds) => (this.settings ??= feeds.settings(device, textures, messages)),
    };
  }

  /** What of a scene is on the GPU; made when first asked for. */
  sceneOf(scene: Scene): PreparedScene {
    let found = this.scenes.get(scene);
    if (!found) {
      found = new PreparedScene(this.device, scene, this.stores, this.messages);
      this.scenes.set(scene, found);
    }
    return found;
  }

  /**
   * Draws commands of an eye's list.
   *
   * @param group the frame's bind group
   * @param which `before` leaves out what reads the scene behind it, `after` draws that alone, `shadow` draws as a
   *   light sees it
   * @param offset bytes added to the offset of the group's first buffer
   */
  draw(
    pass: RenderPass,
    scene: PreparedScene,
    { list, instances, settings: own }: EyeState,
    group: DeviceBindGroup,
    from: number,
    to: number,
    which: 'all' | 'before' | 'after' | 'shadow' | 'edges' = 'all',
    offset = 0,
  ): void {
    const { buffer } = instances;
    if (!buffer || from === to) return;
    pass.setBindGroup(0, group, offset);
    for (let command = from; command < to; command++) {
      const number = list.commandBatch[command]!; // command < commands, here and below
      const ready = scene.batches[number]!; // commands name batches of the scene
      const { material, settings, shader } = ready;
      const geometry = which === 'shadow' ? ready.geometry : which === 'edges' ? ready.edges : ready.shape;
      if (!geometry) continue;
      if (geometry.count === 0) continue;
      const isAfter =
        (shader !== undefined && shader.readsBehind.length > 0) ||
        (ready.features & FEATURE.transmission) !== 0;
      if ((which === 'before' && isAfter) || (which === 'after' && !isAfter)) continue;
      const pipeline =
        which === 'shadow'
          ? scene.shadowPipelineOf(ready)
          : which === 'edges'
            ? ready.edgePipelines[list.commandMirrored[command]!]
            : scene.pipelineOf(ready, list.commandMirrored[command]!);
      if (!pipeline) continue;
      pass.setPipeline(pipeline);
      if (scene.colorOf) pass.setBlendConstant(scene.colorOf(command));
      pass.setBindGroup(1, material.group, material.offset);
      if (settings) pass.setBindGroup(2, settings.group);
      if (ready.layers) pass.setBindGroup(3, ready.layers);
      pass.setVertexBuffer(0, buffer, list.commandFirst[command]! * INSTANCE_BYTES);
      for (let slot = 0; slot < geometry.slots.length; slot++) {
        const { buffer: vertices, offset } = geometry.slots[slot]!; // slot < length
        pass.setVertexBuffer(slot + 1, vertices, offset);
      }
      if (shader && shader.instanceSettings.length > 0 && own?.buffer) {
        pass.setVertexBuffer(geometry.slots.length + 1, own.buffer, own.offsets[command]!);
      }
      const count = list.commandCount[command]!;
      const label = scene.labels[number];
      if (label !== undefined) pass.pushDebugGroup(label);
      if (geometry.indexBuffer) {
        pass.setIndexBuffer(geometry.indexBuffer, geometry.indexFormat);
        pass.drawIndexed(geometry.count, count);
      } else {
        pass.draw(geometry.count, count);
      }
      if (label !== undefined) pass.popDebugGroup();
    }
  }

  /** The pipeline for edges that are drawn over a batch. */
  edgePipeline(
    { features, shader }: PreparedBatch,
    edges: GpuGeometry,
    mirrored: boolean,
    full: FullUse,
  ): DevicePipeline {
    return this.stores.pipelines.get(features, edges, mirrored, shader, full);
  }

  /** Waits for the pipelines that are being made. */
  whenReady(): Promise<void> {
    return this.stores.pipelines.whenReady();
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    this.stores.geometries.sweep(frame);
    this.stores.materials.sweep(frame);
    this.settings?.sweep(frame);
    for (const [scene, prepared] of this.scenes) {
      if (prepared.lastUsed >= frame) continue;
      prepared.transforms.dispose();
      this.scenes.delete(scene);
    }
  }
}
