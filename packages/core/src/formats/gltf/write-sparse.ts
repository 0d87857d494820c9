import { type Attribute, COMPONENT_BYTES } from '../../geometry/geometry.js';

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
