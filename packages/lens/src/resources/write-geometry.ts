import { changesSince, type CustomInput, type Geometry } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer } from '../gpu/device.js';
import { describeGeometry } from './describe-geometry.js';
import type { GpuGeometry } from './geometry-store.js';

/** Buffers by the bytes that they hold. */
type Regions = ReadonlyMap<Uint8Array, { readonly buffer: DeviceBuffer }>;

/**
 * Uploads what of a geometry was written to.
 *
 * @param own attributes that a material's shader reads besides the usual ones
 * @returns false where it does not fit into what there is
 */
export function writeGeometry(
  device: Device,
  regions: Regions,
  geometry: Geometry,
  gpu: GpuGeometry,
  own: readonly CustomInput[],
): boolean {
  const { count, groups, hasZeros, indices, layoutKey, topology } = describeGeometry(geometry, own);
  if (gpu.page || layoutKey !== gpu.layoutKey || topology !== gpu.topology) return false;
  if (groups.length !== gpu.slots.length - Number(hasZeros)) return false;
  for (let i = 0; i < groups.length; i++) {
    const { base, bytes } = groups[i]!; // i < length, here and below
    const slot = gpu.slots[i]!;
    if (regions.get(bytes)?.buffer !== slot.buffer || base !== slot.offset) return false;
  }
  const { indexBuffer } = gpu;
  if (Boolean(indices) !== Boolean(indexBuffer)) return false;
  if (indices && indexBuffer) {
    const isWide = indices instanceof Uint32Array;
    if (isWide !== (gpu.indexFormat === 'uint32') || indices.byteLength > indexBuffer.size) return false;
  }
  const changes = changesSince(geometry, gpu.version ?? 0);
  if (!changes) {
    for (const { bytes } of groups) device.writeBuffer(regions.get(bytes)!.buffer, 0, bytes); // looked at above
    if (indices) device.writeBuffer(indexBuffer!, 0, indices); // both are there or none
  }
  for (const { attribute, count: n, first } of changes ?? []) {
    if (n === 0) continue;
    if (attribute === 'indices') {
      // Whole steps of four bytes.
      const size = indices!.BYTES_PER_ELEMENT; // they were named
      const from = size === 2 ? first & ~1 : first;
      device.writeBuffer(indexBuffer!, from * size, indices!, from, first + n - from);
    } else writeVertices(device, regions, geometry, attribute!, first, n); // all name one
  }
  gpu.count = count;
  gpu.version = geometry.version;
  return true;
}

function writeVertices(
  device: Device,
  regions: Regions,
  { attributes }: Geometry,
  name: string,
  first: number,
  count: number,
): void {
  const { bytes, byteOffset, byteStride } = attributes[name]!; // it was named
  const region = regions.get(bytes);
  // What no shader of it reads.
  if (!region) return;
  const start = byteOffset + first * byteStride;
  const end = Math.min(bytes.length, start + count * byteStride);
  const from = start & ~3;
  device.writeBuffer(region.buffer, from, bytes, from, end - from);
}
