import { type CameraView, createCameraView, DrawList } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer, RenderPass } from '../gpu/device.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import { InstanceBuffer } from '../resources/instance-buffer.js';
import type { InstanceSettingsBuffer } from '../resources/instance-settings.js';

/** Which of what was chosen a pass draws: what was seen before, what came besides, or both. */
export type ChosenPart = 'seen' | 'besides' | 'both';

/** Who chooses on the GPU what of a list is drawn. */
export interface DrawChoice {
  /** What the pass at hand draws of opaque things. */
  part: ChosenPart;
  /** Whether what is hidden is left out. */
  readonly isHidden: boolean;
  /** Whether it chooses for a command. */
  has(command: number): boolean;
  /** Draws what of a command was chosen. Its pipeline, groups and vertices are set, but for its instances. */
  draw(pass: RenderPass, command: number, geometry: GpuGeometry, part: ChosenPart): void;
  dispose(): void;
}

/** The instances of a list's swarms, side by side in one buffer. */
export interface SwarmInstances {
  readonly buffer: DeviceBuffer | undefined;
  /** By command: bytes from the buffer's start, and how many instances; only for those of swarms. */
  readonly offsets: Float64Array;
  readonly counts: Uint32Array;
  dispose(): void;
}

/** What is kept from frame to frame for one camera node drawing into one target: nothing of it is shared. */
export class CameraState {
  readonly view: CameraView = createCameraView();
  readonly list = new DrawList(false);
  readonly instances: InstanceBuffer;
  /** Made when a shader takes settings by instance. */
  settings: InstanceSettingsBuffer | undefined;
  /** Made when the list has swarms. */
  swarms: SwarmInstances | undefined;
  /** Made when the GPU chooses what is drawn. */
  choice: DrawChoice | undefined;
  /** Bits of what it sees. */
  sees = -1;
  /** Counts its frames. */
  draws = 0;
  lastUsed = 0;

  constructor(device: Device) {
    this.instances = new InstanceBuffer(device);
  }

  dispose(): void {
    this.instances.dispose();
    this.settings?.dispose();
    this.swarms?.dispose();
    this.choice?.dispose();
  }
}
