/**
 * The GPU without a scene: devices, buffers, textures, pipelines, passes.
 *
 * @module umber-lens/device
 */
export { DeviceCounts } from './gpu/counts.js';
export * from './gpu/compute.js';
export * from './gpu/device.js';
export * from './gpu/multi-draw.js';
export * from './gpu/sizes.js';
export { TraceDevice, type TraceCommand } from './gpu/trace/trace-device.js';
export { computeOf, type ModuleWithEntries, stagesOf, vertexLayout } from './gpu/by-name.js';
export { type Backend, openDevice, type OpenDeviceOptions, type OpenedDevice } from './gpu/open-device.js';
export { Webgl2Device } from './gpu/webgl2/webgl2-device.js';
export { WebgpuDevice, type WebgpuDeviceOptions } from './gpu/webgpu/webgpu-device.js';
export { fullScreen } from './full-screen.js';
