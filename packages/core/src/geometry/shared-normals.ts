import {
  type Attribute,
  attributeFloats,
  attributeFrom,
  COMPONENT_BYTES,
  type Geometry,
} from './geometry.js';

/** Faces around one place above which all of them share one normal: the work would grow with their square. */
const MOST_AROUND = 256;

export interface SharedNormalsOptions {
  /** By vertex: the number of its place, below the number of vertices; left out: each is at one of its own. */
  placeOf?: Uint32Array;
  /**
   * Whether two faces that meet share their normal there.
   *
   * @param cosine of the angle between them
   */
  alike: (face: number, other: number, cosine: number) => boolean;
}

/**
 * Adds normals to indexed triangles: at each corner the sum of the normals of faces there that are alike, each by its angle,
 * so that it does not matter how polygons were cut. Where they are not, the vertex becomes several.
 *
 * @param geometry plain triangles with indices
 */
export function withSharedNormals(geometry: Geometry, { placeOf, alike }: SharedNormalsOptions): Geometry {
  const { attributes, indices } = geometry;
  if (!indices) return geometry;
  const positions = attributeFloats(attributes['position']!); // every geometry has some
  const vertices = positions.length / 3;
  const corners = indices.length;
  const place = (corner: number): number => (placeOf ? placeOf[indices[corner]!]! : indices[corner]!); // in range
  const { faceNormals, angles } = measure(positions, indices);
  // Corners by place, side by side.
  const starts = new Uint32Array(vertices + 1);
  for (let corner = 0; corner < corners; corner++) starts[place(corner) + 1]!++;
  for (let v = 0; v < vertices; v++) starts[v + 1]! += starts[v]!;
  const ends = starts.slice();
  const around = new Uint32Array(corners);
  for (let corner = 0; corner < corners; corner++) around[ends[place(corner)]!++] = corner;

  // Most vertices stay one: room for them, and for some that become several.
  let room = Math.ceil(vertices * 1.1) + 16;
  let made = 0;
  let sources = new Uint32Array(room);
  let normals = new Float32Array(room * 3);
  const out = new Uint32Array(corners);
  /** By vertex: the first of those that became of it, and of each the next one. */
  const first = new Int32Array(vertices).fill(-1);
  let next = new Int32Array(room);
  for (let corner = 0; corner < corners; corner++) {
    const at = place(corner);
    const begin = starts[at]!; // one more than places
    const end = starts[at + 1]!;
    const face = Math.trunc(corner / 3) * 3;
    const isCrowded = end - begin > MOST_AROUND;
    const vertex = indices[corner]!;
    // Those of a crowded place are alike: what is made of the first serves all.
    const known = isCrowded ? first[vertex]! : -1;
    if (known >= 0) {
      out[corner] = known;
      continue;
    }
    const fx = faceNormals[face]!; // three a face, here and below
    const fy = faceNormals[face + 1]!;
    const fz = faceNormals[face + 2]!;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let i = begin; i < end; i++) {
      const other = around[i]!; // within the place
      const f = Math.trunc(other / 3) * 3;
      const nx = faceNormals[f]!;
      const ny = faceNormals[f + 1]!;
      const nz = faceNormals[f + 2]!;
      if (f !== face && !isCrowded && !alike(face / 3, f / 3, fx * nx + fy * ny + fz * nz)) continue;
      const angle = angles[other]!; // one a corner
      x += nx * angle;
      y += ny * angle;
      z += nz * angle;
    }
    const length = Math.sqrt(x * x + y * y + z * z);
    // Where faces cancel each other out, up is as good as any.
    x = length > 0 ? x / length : 0;
    y = length > 0 ? y / length : 1;
    z = length > 0 ? z / length : 0;
    let found = first[vertex]!;
    while (found >= 0 && !isSame(normals, found, x, y, z)) found = next[found]!;
    if (found < 0) {
      if (made === room) {
        room *= 2;
        sources = grown(sources, new Uint32Array(room));
        normals = grown(normals, new Float32Array(room * 3));
        next = grown(next, new Int32Array(room));
      }
      found = made++;
      sources[found] = vertex;
      normals[found * 3] = x;
      normals[found * 3 + 1] = y;
      normals[found * 3 + 2] = z;
      next[found] = first[vertex]!;
      first[vertex] = found;
    }
    out[corner] = found;
  }
  return {
    ...geometry,
    attributes: {
      ...Object.fromEntries(
        Object.entries(attributes).map(([name, one]) => [name, gathered(one, sources.subarray(0, made))]),
      ),
      normal: attributeFrom(normals.slice(0, made * 3), 3),
    },
    // 65535 means a new strip to GPUs.
    indices: made <= 65535 ? Uint16Array.from(out) : out,
  };
}

/** Unit normals of faces, 3 each, and the angle at each corner. */
function measure(
  p: Float32Array,
  indices: ArrayLike<number>,
): { faceNormals: Float32Array; angles: Float32Array } {
  const faceNormals = new Float32Array(indices.length);
  const angles = new Float32Array(indices.length);
  const [u, v] = [new Float64Array(3), new Float64Array(3)];
  for (let face = 0; face + 2 < indices.length; face += 3) {
    for (let k = 0; k < 3; k++) {
      const a = indices[face + k]! * 3; // whole triangles, here and below
      const b = indices[face + ((k + 1) % 3)]! * 3;
      const c = indices[face + ((k + 2) % 3)]! * 3;
      let dot = 0;
      for (let axis = 0; axis < 3; axis++) {
        u[axis] = p[b + axis]! - p[a + axis]!;
        v[axis] = p[c + axis]! - p[a + axis]!;
        dot += u[axis]! * v[axis]!;
      }
      const x = u[1]! * v[2]! - u[2]! * v[1]!;
      const y = u[2]! * v[0]! - u[0]! * v[2]!;
      const z = u[0]! * v[1]! - u[1]! * v[0]!;
      const size = Math.sqrt(x * x + y * y + z * z);
      angles[face + k] = size > 0 ? Math.atan2(size, dot) : 0;
      if (k > 0 || size === 0) continue;
      faceNormals[face] = x / size;
      faceNormals[face + 1] = y / size;
      faceNormals[face + 2] = z / size;
    }
  }
  return { faceNormals, angles };
}

function grown<T extends Uint32Array | Int32Array | Float32Array>(old: T, larger: T): T {
  larger.set(old as never);
  return larger;
}

const isSame = (normals: Float32Array, vertex: number, x: number, y: number, z: number): boolean =>
  Math.abs(normals[vertex * 3]! - x) +
    Math.abs(normals[vertex * 3 + 1]! - y) +
    Math.abs(normals[vertex * 3 + 2]! - z) <
  1e-5;

/** Values of an attribute for these vertices, tightly packed. */
function gathered(attribute: Attribute, sources: Uint32Array): Attribute {
  const size = COMPONENT_BYTES[attribute.componentType] * attribute.components;
  const stride = (size + 3) & ~3;
  const bytes = new Uint8Array(sources.length * stride);
  for (let i = 0; i < sources.length; i++) {
    const from = attribute.byteOffset + sources[i]! * attribute.byteStride; // i < length
    bytes.set(attribute.bytes.subarray(from, from + size), i * stride);
  }
  return { ...attribute, bytes, byteOffset: 0, byteStride: stride, count: sources.length };
}
