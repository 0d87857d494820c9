import type { Device, DeviceTexture } from '../gpu/device.js';

const pixels = new WeakMap<Device, DeviceTexture>();

/** Waits until the GPU has done all that it was told so far: one pixel that nobody draws is read back behind it. */
export async function finished(device: Device): Promise<void> {
  let pixel = pixels.get(device);
  if (!pixel) {
    pixel = device.createTexture({
      label: 'finished',
      width: 1,
      height: 1,
      format: 'rgba8unorm',
      renderable: true,
    });
    pixels.set(device, pixel);
  }
  device.submit();
  await device.readTexture(pixel, { blocks: true });
}
