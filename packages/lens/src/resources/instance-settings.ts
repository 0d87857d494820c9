import type { DrawList, MaterialShader, Scene } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer, VertexBufferLayout } from '../gpu/device.js';

/**
 * The settings that nodes bring along, in the order in which instances are drawn. Packed each frame for the
 * shaders that take any; uploaded in one piece when a number differs.
 */
export class InstanceSettingsBuffer {
  buffer: DeviceBuffer | undefined;
  /** Bytes from the buffer's start, by command; only valid for commands whose shader takes settings. */
  offsets = new Float64Array(0);
  private values = new Float32Array(0);

  constructor(private readonly device: Device) {}

  /** @returns whether a number, or what it belongs to, differs */
  update(list: DrawList, scene: Scene): boolean {
    if (this.offsets.length < list.commands) this.offsets = new Float64Array(Math.ceil(list.commands * 1.25));
    let floats = 0;
    for (let command = 0; command < list.commands; command++) {
      const { shader } = list.batches[list.commandBatch[command]!]!.material; // commands name living batches
      if (!shader || shader.instanceSettings.length === 0) continue;
      this.offsets[command] = floats * 4;
      floats += list.commandCount[command]! * instanceSettingsFloats(shader);
    }
    if (floats === 0) return false;
    let differs = false;
    if (this.values.length < floats || !this.buffer) {
      this.values = new Float32Array(Math.ceil(floats * 1.25));
      this.buffer?.dispose();
      this.buffer = this.device.createBuffer({
        label: 'instance settings',
        usage: 'vertex',
        size: this.values.byteLength,
      });
      differs = true;
    }
    for (let command = 0; command < list.commands; command++) {
      const { shader } = list.batches[list.commandBatch[command]!]!.material; // as above
      if (!shader || shader.instanceSettings.length === 0) continue;
      let at = this.offsets[command]! / 4;
      const first = list.commandFirst[command]!;
      const end = first + list.commandCount[command]!;
      for (let instance = first; instance < end; instance++) {
        const given = scene.handles[list.rowAt(instance)]?.settings;
        at = this.pack(shader, given, at);
      }
    }
    if (this.changed) differs = true;
    this.changed = false;
    if (differs) this.device.writeBuffer(this.buffer, 0, this.values, 0, floats);
    return differs;
  }

  private changed = false;

  private pack(
    { instanceSettings }: MaterialShader,
    given: Record<string, number | ArrayLike<number>> | undefined,
    start: number,
  ): number {
    let at = start;
    for (let i = 0; i < instanceSettings.length; i++) {
      const { name, components, default: usual } = instanceSettings[i]!; // i < length
      const value = given?.[name] ?? usual;
      for (let k = 0; k < components; k++) {
        const number = Math.fround(typeof value === 'number' ? value : (value[k] ?? 0));
        if (this.values[at] !== number) {
          this.values[at] = number;
          this.changed = true;
        }
        at++;
      }
    }
    return at;
  }

  dispose(): void {
    this.buffer?.dispose();
    this.buffer = undefined;
  }
}

/** Floats of a shader's settings for one instance. */
function instanceSettingsFloats(shader: MaterialShader): number {
  return shader.instanceSettings.reduce((sum, { components }) => sum + components, 0);
}

/** How they lie in the buffer. */
export function instanceSettingsLayout(shader: MaterialShader): VertexBufferLayout {
  let offset = 0;
  const attributes = shader.instanceSettings.map(({ location, components }) => {
    const format = `float32${(['', 'x2', 'x3', 'x4'] as const)[components - 1]!}` as const; // 1 to 4 by type
    const attribute = { shaderLocation: location, format, offset };
    offset += components * 4;
    return attribute;
  });
  return { arrayStride: offset, stepMode: 'instance', attributes };
}
