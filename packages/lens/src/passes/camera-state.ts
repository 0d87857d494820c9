import { type CameraView, createCameraView, DrawList } from '@umber-lens/core/engine';
import type { Device } from '../gpu/device.js';
import type { CameraChoice } from '../cull/camera-choice.js';
import { InstanceBuffer } from '../resources/instance-buffer.js';
import type { CameraSwarms } from '../swarm/camera-swarms.js';
import type { InstanceSettingsBuffer } from '../resources/instance-settings.js';

/** What is kept from frame to frame for one camera node drawing into one target: nothing of it is shared. */
export class CameraState {
  readonly view: CameraView = createCameraView();
  readonly list = new DrawList();
  readonly instances: InstanceBuffer;
  /** Made when a shader takes settings by instance. */
  settings: InstanceSettingsBuffer | undefined;
  /** Made when the list has swarms. */
  swarms: CameraSwarms | undefined;
  /** Made when the GPU chooses what is drawn. */
  choice: CameraChoice | undefined;
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
