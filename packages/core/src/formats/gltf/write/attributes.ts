import { type Attribute, attributeFloats, COMPONENT_BYTES } from '../../../geometry/geometry.js';
import { type Bounds, emptyBounds, growBounds } from '../../../math/bounds.js';

/** What of an attribute is not zero. */
export interface SparseValues {
  /** Elements, in growing order. */
  indices: Uint8Array | Uint16Array | Uint32Array;
  /** Those elements, one after the other. */
  values: Uint8Array;
}

/**
 * The elements of an attribute that are not zero to the bit, where writing them alone takes less room than all; undefined
 * elsewhere. Morph targets mostly move a small part of their mesh (glTF 2.0, 3.6.2.3).
 */
export function sparseOf(attribute: Attribute): SparseValues | undefined {
  const { bytes, componentType, components, byteOffset, byteStride, count } = attribute;
  const size = COMPONENT_BYTES[componentType] * components;
  const indexSize = count <= 0x100 ? 1 : count <= 0x10000 ? 2 : 4;
  const most = Math.floor((count * size * 0.8) / (size + indexSize));
  const found: number[] = [];
  for (let i = 0; i < count; i++) {
    const at = byteOffset + i * byteStride;
    let isZero = true;
    for (let b = at; b < at + size && isZero; b++) isZero = bytes[b] === 0;
    if (isZero) continue;
    if (found.length === most) return undefined;
    found.push(i);
  }
  const values = new Uint8Array(found.length * size);
  found.forEach((element, i) => {
    const at = byteOffset + element * byteStride;
    values.set(bytes.subarray(at, at + size), i * size);
  });
  const Indices = indexSize === 1 ? Uint8Array : indexSize === 2 ? Uint16Array : Uint32Array;
  return { indices: Indices.from(found), values };
}

/** Numbers of joints, which the standard wants as whole numbers. */
export function asWhole(attribute: Attribute): Attribute {
  if (attribute.componentType !== 'f32') return attribute;
  const bytes = new Uint8Array(Uint16Array.from(attributeFloats(attribute)).buffer);
  const { components } = attribute;
  return { ...attribute, bytes, componentType: 'u16', byteOffset: 0, byteStride: components * 2 };
}

/** Bounds in the stored numbers themselves: integers stay integers (3.6.2.5). */
export function rawBounds(attribute: Attribute): Bounds {
  const { bytes, componentType, byteOffset, byteStride, count } = attribute;
  const view = new DataView(bytes.buffer, bytes.byteOffset + byteOffset);
  const size = COMPONENT_BYTES[componentType];
  const read = {
    i8: (at: number) => view.getInt8(at),
    u8: (at: number) => view.getUint8(at),
    i16: (at: number) => view.getInt16(at, true),
    u16: (at: number) => view.getUint16(at, true),
    u32: (at: number) => view.getUint32(at, true),
    f32: (at: number) => view.getFloat32(at, true),
  }[componentType];
  const bounds = emptyBounds();
  for (let i = 0; i < count; i++) {
    const at = i * byteStride;
    growBounds(bounds, read(at), read(at + size), read(at + 2 * size));
  }
  return bounds;
}
