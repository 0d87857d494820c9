import {
  type Attribute,
  COMPONENT_BYTES,
  drawCount,
  type Geometry,
  packIndices,
  vertexCount,
} from '../geometry/geometry.js';

/** All attributes of a geometry, those of its targets too. */
export function attributesOf({ attributes, targets = [] }: Geometry): Attribute[] {
  return [attributes, ...targets.map((target) => target.attributes)].flatMap((named) => Object.values(named));
}

/** The bytes of each vertex, side by side. @returns bytes, and how many a vertex has */
export function rowsOf(geometry: Geometry): { rows: Uint8Array; size: number } {
  const all = attributesOf(geometry);
  const size = all.reduce(
    (sum, { components, componentType }) => sum + components * COMPONENT_BYTES[componentType],
    0,
  );
  const count = vertexCount(geometry);
  const rows = new Uint8Array(count * size);
  let at = 0;
  for (const { bytes, components, componentType, byteOffset, byteStride } of all) {
    const width = components * COMPONENT_BYTES[componentType];
    for (let v = 0; v < count; v++) {
      const from = byteOffset + v * byteStride;
      for (let b = 0; b < width; b++) rows[v * size + at + b] = bytes[from + b]!; // a vertex of the geometry
    }
    at += width;
  }
  return { rows, size };
}

/**
 * A geometry with its vertices in another order, some left out.
 *
 * @param from by new vertex: the old one
 * @param indices of new vertices
 */
export function withVertices(geometry: Geometry, from: Uint32Array, indices: ArrayLike<number>): Geometry {
  const done = new Map<Attribute, Attribute>();
  const picked = (attribute: Attribute): Attribute => {
    let found = done.get(attribute);
    if (!found) done.set(attribute, (found = pick(attribute, from)));
    return found;
  };
  const each = (attributes: Record<string, Attribute>): Record<string, Attribute> =>
    Object.fromEntries(Object.entries(attributes).map(([name, attribute]) => [name, picked(attribute)]));
  return {
    ...geometry,
    attributes: each(geometry.attributes),
    indices: packIndices(
      from.length <= 65535 ? Uint16Array.from(indices) : Uint32Array.from(indices),
      from.length,
    ),
    ...(geometry.targets
      ? { targets: geometry.targets.map((target) => ({ ...target, attributes: each(target.attributes) })) }
      : {}),
  };
}

function pick(attribute: Attribute, from: Uint32Array): Attribute {
  const { bytes, components, componentType, byteOffset, byteStride } = attribute;
  const width = components * COMPONENT_BYTES[componentType];
  const stride = (width + 3) & ~3;
  const out = new Uint8Array(from.length * stride);
  for (let v = 0; v < from.length; v++) {
    const start = byteOffset + from[v]! * byteStride; // v < length
    out.set(bytes.subarray(start, start + width), v * stride);
  }
  return { ...attribute, bytes: out, byteOffset: 0, byteStride: stride, count: from.length };
}

/** Indices as 32 bits, also of geometry that has none. */
export function wholeIndices(geometry: Geometry): Uint32Array {
  return geometry.indices
    ? Uint32Array.from(geometry.indices)
    : Uint32Array.from({ length: drawCount(geometry) }, (_, i) => i);
}

export const isTriangles = ({ mode }: Geometry): boolean => (mode ?? 'triangles') === 'triangles';

/** FNV-1a of bytes, 32 bits. */
export function hashOf(bytes: Uint8Array, from = 0, to = bytes.length): number {
  let hash = 0x811c9dc5;
  for (let i = from; i < to; i++) hash = Math.imul(hash ^ bytes[i]!, 0x01000193); // in range
  return hash >>> 0;
}

export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

/** Calls for each geometry of meshes once, and puts what comes back in its place wherever it is used. */
export function replaceGeometries(
  meshes: readonly { primitives: { geometry: Geometry }[] }[],
  act: (geometry: Geometry) => Geometry,
): void {
  const done = new Map<Geometry, Geometry>();
  for (const { primitives } of meshes)
    for (const primitive of primitives) {
      let found = done.get(primitive.geometry);
      if (!found) done.set(primitive.geometry, (found = act(primitive.geometry)));
      primitive.geometry = found;
    }
}
