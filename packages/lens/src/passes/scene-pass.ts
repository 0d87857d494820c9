import {
  type CompiledShader,
  type DrawList,
  INSTANCE_FLOATS,
  materialFeatures,
  type MaterialShader,
  type Scene,
} from '@umber-lens/core';
import type { Device, DeviceBindGroup, DeviceBuffer, DevicePipeline, RenderPass } from '../gpu/device.js';
import type { Messages } from '#messages';
import { type GpuGeometry, GeometryStore } from '../resources/geometry-store.js';
import { type GpuMaterial, MaterialStore } from '../resources/material-store.js';
import { type GpuSettings, SettingsStore } from '../resources/settings-store.js';
import { InstanceSettingsBuffer } from '../resources/instance-settings.js';
import { PipelineStore, type ScenePassFormats } from '../resources/pipeline-store.js';
import type { TextureStore } from '../resources/texture-store.js';

/** A batch with everything its draw needs at hand. */
interface Prepared {
  features: number;
  geometry: GpuGeometry;
  material: GpuMaterial;
  settings: GpuSettings | undefined;
  /** Text of the material's own shader, to notice that it changed. */
  wgsl: string | undefined;
  pipeline: DevicePipeline | undefined;
  mirroredPipeline: DevicePipeline | undefined;
}

/** Draws a draw list: uploads transforms in one piece, then one draw call a command. */
export class ScenePass {
  readonly geometries: GeometryStore;
  readonly materials: MaterialStore;
  readonly settings: SettingsStore;
  private readonly pipelines: PipelineStore;
  private readonly instanceSettings: InstanceSettingsBuffer;
  /** Whether a material of the list asks for what lies behind it. */
  readsBehind = false;
  private instanceBuffer: DeviceBuffer | undefined;
  private prepared: Prepared[] = [];
  /** Names of the batches while developing, else nothing. */
  private labels: readonly string[] = [];
  private preparedFor: DrawList | undefined;
  private preparedVersion = -1;
  private uploadedFor: DrawList | undefined;

  constructor(
    private readonly device: Device,
    textures: TextureStore,
    formats: ScenePassFormats,
    mesh: CompiledShader,
    private readonly messages: Messages,
  ) {
    this.geometries = new GeometryStore(device);
    this.materials = new MaterialStore(device, textures, messages);
    this.settings = new SettingsStore(device, textures, messages);
    this.pipelines = new PipelineStore(device, formats, mesh);
    this.instanceSettings = new InstanceSettingsBuffer(device);
  }

  /** Uploads what changed. To be called outside a pass. */
  prepare(list: DrawList, scene: Scene, listChanged: boolean, frame: number): void {
    if (list !== this.preparedFor || list.batchesVersion !== this.preparedVersion) {
      this.preparedFor = list;
      this.preparedVersion = list.batchesVersion;
      this.labels = this.messages.scene(scene, list);
      this.prepared = list.batches.map(({ geometry, material }) => ({
        features: -1,
        geometry: this.geometries.get(geometry, frame, material.shader?.attributes),
        material: this.materials.get(material, frame),
        settings: undefined,
        wgsl: material.shader?.wgsl,
        pipeline: undefined,
        mirroredPipeline: undefined,
      }));
    }
    let takesSettings = false;
    this.readsBehind = false;
    for (let i = 0; i < this.prepared.length; i++) {
      const batch = list.batches[i]!; // the two lists are parallel
      const ready = this.prepared[i]!;
      const features = materialFeatures(batch.material, batch.geometry);
      const { shader } = batch.material;
      if (features !== ready.features || shader?.wgsl !== ready.wgsl) {
        ready.features = features;
        if (shader?.wgsl !== ready.wgsl) {
          ready.wgsl = shader?.wgsl;
          ready.geometry = this.geometries.get(batch.geometry, frame, shader?.attributes);
        }
        ready.pipeline = undefined;
        ready.mirroredPipeline = undefined;
      }
      this.materials.get(batch.material, frame);
      ready.settings = shader && this.settings.get(batch.material, shader, frame);
      if (shader && shader.instanceSettings.length > 0) takesSettings = true;
      if (shader && shader.readsBehind.length > 0) this.readsBehind = true;
      ready.geometry.lastUsed = frame;
    }
    if (listChanged || list !== this.uploadedFor) this.uploadInstances(list);
    if (takesSettings) this.instanceSettings.update(list, scene);
  }

  /**
   * Draws commands of the list.
   *
   * @param group the frame's bind group
   * @param which `before` leaves out what reads the scene behind it, `after` draws that alone
   */
  draw(
    pass: RenderPass,
    list: DrawList,
    group: DeviceBindGroup,
    from: number,
    to: number,
    which: 'all' | 'before' | 'after' = 'all',
  ): void {
    const { instanceBuffer } = this;
    if (!instanceBuffer || from === to) return;
    pass.setBindGroup(0, group);
    for (let command = from; command < to; command++) {
      const ready = this.prepared[list.commandBatch[command]!]!; // commands name batches of the list
      const { geometry, material } = ready;
      if (geometry.count === 0) continue;
      const batch = list.batches[list.commandBatch[command]!]!; // parallel to what is prepared
      const { shader } = batch.material;
      if (which !== 'all' && (which === 'after') !== (shader !== undefined && shader.readsBehind.length > 0))
        continue;
      pass.setPipeline(this.pipelineOf(ready, list.commandMirrored[command] === 1, shader));
      pass.setBindGroup(1, material.group, material.offset);
      if (ready.settings) pass.setBindGroup(2, ready.settings.group);
      pass.setVertexBuffer(0, instanceBuffer, list.commandFirst[command]! * INSTANCE_FLOATS * 4);
      for (let slot = 0; slot < geometry.slots.length; slot++) {
        const { buffer, offset } = geometry.slots[slot]!; // slot < length
        pass.setVertexBuffer(slot + 1, buffer, offset);
      }
      if (shader && shader.instanceSettings.length > 0 && this.instanceSettings.buffer) {
        const { buffer, offsets } = this.instanceSettings;
        pass.setVertexBuffer(geometry.slots.length + 1, buffer, offsets[command]!); // as many as commands
      }
      const instances = list.commandCount[command]!;
      const label = this.labels[list.commandBatch[command]!];
      if (label !== undefined) pass.pushDebugGroup(label);
      if (geometry.indexBuffer) {
        pass.setIndexBuffer(geometry.indexBuffer, geometry.indexFormat);
        pass.drawIndexed(geometry.count, instances);
      } else {
        pass.draw(geometry.count, instances);
      }
      if (label !== undefined) pass.popDebugGroup();
    }
  }

  private pipelineOf(ready: Prepared, mirrored: boolean, shader: MaterialShader | undefined): DevicePipeline {
    if (mirrored)
      return (ready.mirroredPipeline ??= this.pipelines.get(ready.features, ready.geometry, true, shader));
    return (ready.pipeline ??= this.pipelines.get(ready.features, ready.geometry, false, shader));
  }

  private uploadInstances(list: DrawList): void {
    this.uploadedFor = list;
    const floats = list.instanceCount * INSTANCE_FLOATS;
    if (floats === 0) return;
    if (!this.instanceBuffer || this.instanceBuffer.size < floats * 4) {
      this.instanceBuffer?.dispose();
      this.instanceBuffer = this.device.createBuffer({
        label: 'instances',
        usage: 'vertex',
        size: Math.ceil(floats * 1.25) * 4,
      });
    }
    this.device.writeBuffer(this.instanceBuffer, 0, list.instances, 0, floats);
  }
}
