import type { CompiledShader, Scene } from '@umber-lens/core/engine';
import type { Device, DeviceBindGroup, RenderPass } from '../gpu/device.js';
import type { Messages } from '#messages';
import { GeometryStore } from '../resources/geometry-store.js';
import { INSTANCE_BYTES } from '../resources/instance-buffer.js';
import { MaterialStore } from '../resources/material-store.js';
import { PipelineStore, type ScenePassFormats } from '../resources/pipeline-store.js';
import type { SettingsStore } from '../resources/settings-store.js';
import type { TextureStore } from '../resources/texture-store.js';
import type { CameraState } from './camera-state.js';
import type { Together } from './multi-draw-batcher.js';
import type { DrawVariant } from './draw-variant.js';
import { type PreparedBatch, PreparedScene, type SceneStores } from './prepared-scene.js';

/** Milliseconds of a frame that what is new may take, by kind; left out: as many as it takes. */
export interface FrameBudgets {
  uploadMilliseconds?: number | undefined;
  pipelineMilliseconds?: number | undefined;
  treeMilliseconds?: number | undefined;
}

/** Which commands of a list: they are in this order. */
export type CommandRange = 'all' | 'opaque' | 'blended' | CommandSpan;

/** From one command to before another. */
export interface CommandSpan {
  from: number;
  to: number;
}

/** Geometries from which on they share buffers: few would not pay for what does that. */
const MANY_GEOMETRIES = 8;

/** Draws draw lists: one draw call a command. */
export class ScenePass {
  private readonly stores: SceneStores;
  private settings: SettingsStore | undefined;
  /** Loaded when there are many geometries. */
  private together: Together | undefined;
  private gathering: Promise<void> | undefined;
  private isDisposed = false;
  private readonly scenes = new Map<Scene, PreparedScene>();

  constructor(
    private readonly device: Device,
    textures: TextureStore,
    formats: ScenePassFormats,
    mesh: CompiledShader,
    private readonly messages: Messages,
    /** Called when a scene lets go of something that was drawn. */
    private readonly onLeave: () => void,
    /** Whether pipelines are waited for; else what is not ready is drawn as before, or left out. */
    waits: boolean,
    { uploadMilliseconds = Infinity, pipelineMilliseconds = Infinity }: FrameBudgets,
  ) {
    const pipelines = new PipelineStore(device, formats, mesh, messages);
    pipelines.milliseconds = pipelineMilliseconds;
    pipelines.isAsync = !waits;
    pipelines.waits = waits;
    this.stores = {
      geometries: new GeometryStore(device),
      materials: new MaterialStore(device, textures, messages),
      pipelines,
      uploadMilliseconds,
      settings: (feeds) => (this.settings ??= feeds.settings(device, textures, messages)),
    };
  }

  /** What of a scene is on the GPU; made when first asked for. */
  sceneOf(scene: Scene): PreparedScene {
    let found = this.scenes.get(scene);
    if (!found) {
      found = new PreparedScene(this.device, scene, this.stores, this.messages);
      this.scenes.set(scene, found);
      scene.drawables.onLeave.add(this.onLeave);
    }
    this.gather();
    return found;
  }

  /**
   * Draws commands of a camera's list.
   *
   * @param group the frame's bind group
   * @param range which commands
   * @param offset bytes added to the offset of the group's first buffer
   */
  draw(
    pass: RenderPass,
    scene: PreparedScene,
    { list, instances, sees, settings: own, swarms, choice }: CameraState,
    group: DeviceBindGroup,
    variant: DrawVariant,
    range: CommandRange | number,
    offset = 0,
  ): void {
    const { buffer } = instances;
    const isSpan = typeof range === 'object';
    const from =
      typeof range === 'number' ? range : isSpan ? range.from : range === 'blended' ? list.opaqueCommands : 0;
    const to =
      typeof range === 'number'
        ? range + 1
        : isSpan
          ? range.to
          : range === 'opaque'
            ? list.opaqueCommands
            : list.commands;
    if (!buffer || from >= to) return;
    const { together } = this;
    pass.setBindGroup(0, group, offset);
    for (let command = from; command < to; command++) {
      const number = list.commandBatch[command]!; // command < commands, here and below
      const ready = scene.batches[number];
      // What came and is not uploaded yet.
      if (!ready || (ready.batch.apart.visibleTo & sees) === 0 || !variant.takes(ready)) continue;
      const { material, settings, shader, readsBehind } = ready;
      const geometry = variant.shapeOf(ready);
      if (geometry.count === 0) continue;
      const isChosen = choice !== undefined && choice.has(command);
      // What the script chose is drawn with what was seen before.
      const part = !choice || readsBehind || command >= list.opaqueCommands ? 'both' : choice.part;
      if (part === 'besides' && !isChosen) continue;
      const pipeline = variant.pipelineOf(ready, list.commandMirrored[command]!, scene);
      if (!pipeline) continue;
      // In passes that draw all, the list's own instances do as well.
      const isSwarm = geometry.placedBy === 'instances';
      const isByGpu = isChosen && (isSwarm || part !== 'both');
      const hasOwn = shader !== undefined && shader.instanceSettings.length > 0 && !isSwarm;
      if (together) {
        if (
          !isByGpu &&
          !hasOwn &&
          !scene.colorOf &&
          together.add(pass, list, command, ready, geometry, pipeline, instances, scene.labels[number])
        )
          continue;
        together.flush(pass, instances);
      }
      try {
        pass.setPipeline(pipeline);
      } catch (error) {
        // Its program does not link: from the next frame on it is drawn marked.
        scene.fail(ready.batch.material, error, scene.lastUsed);
        continue;
      }
      if (scene.colorOf) pass.setBlendConstant(scene.colorOf(command));
      pass.setBindGroup(1, material.group);
      if (settings) pass.setBindGroup(2, settings.group);
      if (ready.layers) pass.setBindGroup(3, ready.layers);
      let count = list.commandCount[command]!;
      if (isByGpu) count = 1;
      else if (isSwarm) {
        count = swarms?.counts[command] ?? 0;
        if (count > 0) pass.setVertexBuffer(0, swarms!.buffer!, swarms!.offsets[command]); // it has instances
      } else pass.setVertexBuffer(0, buffer, list.commandFirst[command]! * INSTANCE_BYTES);
      if (count === 0) continue;
      for (let slot = 0; slot < geometry.slots.length; slot++) {
        const { buffer: vertices, offset } = geometry.slots[slot]!; // slot < length
        pass.setVertexBuffer(slot + 1, vertices, offset);
      }
      if (hasOwn && own?.buffer) {
        pass.setVertexBuffer(geometry.slots.length + 1, own.buffer, own.offsets[command]!);
      }
      const label = scene.labels[number];
      if (label !== undefined) pass.pushDebugGroup(label);
      if (geometry.indexBuffer) pass.setIndexBuffer(geometry.indexBuffer, geometry.indexFormat);
      if (isByGpu) {
        choice.draw(pass, command, geometry, part);
      } else if (geometry.indexBuffer) {
        pass.drawIndexed(geometry.count, count, geometry.firstIndex);
      } else {
        pass.draw(geometry.count, count);
      }
      if (label !== undefined) pass.popDebugGroup();
    }
    together?.flush(pass, instances);
  }

  /** Whether lists are to keep their instances as storage besides. */
  get instancesFromStorage(): boolean {
    return this.together?.fromStorage ?? false;
  }

  /** Has geometries share buffers, and be drawn together, where there are many. */
  private gather(): void {
    const { device, stores } = this;
    if (this.gathering || stores.geometries.count < MANY_GEOMETRIES || !device.features.has('multi-draw'))
      return;
    this.gathering = Promise.all([
      device.openMultiDraw(),
      import('../resources/geometry-pages.js'),
      import('./multi-draw-batcher.js'),
    ]).then(([multiDraw, { GeometryPages }, { Together: Loaded }]) => {
      if (!multiDraw || this.isDisposed) return;
      stores.geometries.usePages(new GeometryPages(device, stores.geometries.zeros));
      this.together = new Loaded(multiDraw, stores.pipelines);
    });
  }

  dispose(): void {
    this.isDisposed = true;
    for (const scene of this.scenes.keys()) scene.drawables.onLeave.delete(this.onLeave);
  }

  /** To be called once a frame, before anything is drawn in it. */
  beginFrame(): void {
    this.stores.pipelines.beginFrame();
  }

  /** Waits for the pipelines that are being made. */
  async whenReady(): Promise<void> {
    this.gather();
    await this.gathering;
    await this.stores.geometries.whenReady();
    await this.stores.pipelines.whenReady();
  }

  /** Has what scenes hold count as used in a frame, whether they are drawn in it or not. */
  touch(frame: number, more: (ready: PreparedBatch) => void): void {
    for (const prepared of this.scenes.values()) if (prepared.lastUsed !== frame) prepared.touch(frame, more);
  }

  /** Frees what no frame since `frame` has used. */
  sweep(frame: number): void {
    this.stores.geometries.sweep(frame);
    this.stores.materials.sweep(frame);
    this.settings?.sweep(frame);
  }

  /** Forgets scenes that no frame since `frame` has drawn. */
  sweepScenes(frame: number): void {
    for (const [scene, prepared] of this.scenes) if (prepared.lastUsed < frame) this.forget(scene);
  }

  /** Frees what a scene alone has on the GPU; what it shares is freed by `sweep`. */
  forget(scene: Scene): void {
    this.scenes.get(scene)?.transforms.dispose();
    this.scenes.delete(scene);
    scene.drawables.onLeave.delete(this.onLeave);
  }
}
