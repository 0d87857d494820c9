import type { DeviceTexture } from '../gpu/device.js';

/** Of targets that were made with `depth`: what takes their distances. */
export const METRES = new WeakMap<DeviceTexture, DeviceTexture>();
