import {
  type Attribute,
  attributeFloats,
  attributeFrom,
  COMPONENT_BYTES,
  type CustomInput,
  type Geometry,
  vertexCount,
  LOCATION,
  placedBy,
  type PlacedBy,
} from '@umber-lens/core/engine';
import type { RenderPipelineOptions, VertexBufferLayout, VertexFormat } from '../gpu/device.js';

/** What of a geometry goes to the GPU, and how it lies there. */
export interface DescribedGeometry {
  /** By vertex buffer: the bytes it is a part of, where it starts and how far vertices are apart. */
  groups: readonly { bytes: Uint8Array; base: number; stride: number }[];
  /** One a group; and a last one of zeros where attributes are missing. */
  layouts: readonly VertexBufferLayout[];
  hasZeros: boolean;
  /** Equal for geometries that one pipeline can draw. */
  layoutKey: string;
  topology: NonNullable<RenderPipelineOptions['topology']>;
  indices: Uint16Array | Uint32Array | undefined;
  vertices: number;
  /** Indices, or vertices where there are none. */
  count: number;
  placedBy: PlacedBy;
}

/** @param own attributes that a material's shader reads besides the usual ones */
export function describeGeometry(geometry: Geometry, own: readonly CustomInput[]): DescribedGeometry {
  const parts: Part[] = [];
  const missing: CustomInput[] = [];
  for (const input of [...USUAL, ...own]) {
    const attribute = geometry.attributes[input.name];
    if (attribute && attribute.count > 0) parts.push([input.location, fetchable(attribute)]);
    else missing.push(input);
  }
  let groups = grouped(parts);
  if (groups.length > MOST_GROUPS) groups = grouped(interleaved(parts));
  const layouts = groups.map(({ stride, base, members }): VertexBufferLayout => ({
    arrayStride: stride,
    attributes: members.map(([shaderLocation, attribute]) => ({
      shaderLocation,
      format: vertexFormat(attribute),
      offset: attribute.byteOffset - base,
    })),
  }));
  if (missing.length > 0) {
    layouts.push({
      arrayStride: 0,
      attributes: missing.map(({ location, components }) => ({
        shaderLocation: location,
        format: `float32${WIDTHS[components - 1]!}` as const, // 1 to 4 by type
        offset: 0,
      })),
    });
  }
  const { indices: given, topology } = drawable(geometry);
  const indices = given instanceof Uint8Array ? Uint16Array.from(given) : given;
  const vertices = vertexCount(geometry);
  return {
    groups,
    layouts,
    hasZeros: missing.length > 0,
    layoutKey:
      (placedBy(geometry) === 'instances' ? 'instances;' : '') +
      layouts
        .map(
          (l) =>
            `${l.arrayStride}:${l.attributes.map((a) => `${a.shaderLocation}${a.format}@${a.offset}`).join(',')}`,
        )
        .join(';'),
    topology,
    indices,
    vertices,
    count: indices ? indices.length : vertices,
    placedBy: placedBy(geometry),
  };
}

/** Attributes that every mesh shader reads. */
const USUAL: readonly CustomInput[] = [
  { name: 'position', location: LOCATION.position, components: 3 },
  { name: 'normal', location: LOCATION.normal, components: 3 },
  { name: 'tangent', location: LOCATION.tangent, components: 4 },
  { name: 'texcoord0', location: LOCATION.texcoord0, components: 2 },
  { name: 'texcoord1', location: LOCATION.texcoord1, components: 2 },
  { name: 'color0', location: LOCATION.color0, components: 4 },
  { name: '#bend', location: LOCATION.bend, components: 1 },
];
const WIDTHS = ['', 'x2', 'x3', 'x4'] as const;
/** Vertex buffers a geometry may take of the eight that every GPU has; the others are for instances and zeros. */
const MOST_GROUPS = 5;

type Part = [location: number, attribute: Attribute];

/** Attributes that lie between one another in the same bytes make one vertex buffer. */
function grouped(parts: Part[]): { bytes: Uint8Array; stride: number; base: number; members: Part[] }[] {
  const groups: ReturnType<typeof grouped> = [];
  for (const part of [...parts].sort(([, a], [, b]) => a.byteOffset - b.byteOffset)) {
    const { bytes, byteStride, byteOffset } = part[1];
    const group = groups.find(
      (g) => g.bytes === bytes && g.stride === byteStride && byteOffset - g.base < byteStride,
    );
    if (group) group.members.push(part);
    else groups.push({ bytes, stride: byteStride, base: byteOffset, members: [part] });
  }
  return groups;
}

/** All in one buffer, as floats. */
function interleaved(parts: Part[]): Part[] {
  const count = Math.max(0, ...parts.map(([, { count: n }]) => n));
  const floats = parts.reduce((sum, [, { components }]) => sum + components, 0);
  const all = new Float32Array(count * floats);
  let at = 0;
  return parts.map(([location, attribute]) => {
    const { components } = attribute;
    const values = attributeFloats(attribute);
    for (let v = 0; v < attribute.count; v++)
      for (let k = 0; k < components; k++) all[v * floats + at + k] = values[v * components + k]!; // in range
    const part: Attribute = {
      ...attribute,
      bytes: new Uint8Array(all.buffer),
      componentType: 'f32',
      normalized: false,
      byteOffset: at * 4,
      byteStride: floats * 4,
    };
    at += components;
    return [location, part];
  });
}

/**
 * What every GPU can fetch: whole numbers that stand for themselves become floats, and so does what is
 * not aligned to four bytes.
 */
function fetchable(attribute: Attribute): Attribute {
  const { bytes, componentType, count, normalized, components, byteOffset, byteStride } = attribute;
  const isAligned = byteStride % 4 === 0 && byteOffset % 4 === 0;
  // Threes of small numbers are fetched as fours, where there is room behind each: shaders pass the fourth over.
  const four = 4 * COMPONENT_BYTES[componentType];
  if (isAligned && normalized && components === 3 && (byteOffset % byteStride) + four <= byteStride)
    if (byteOffset + (count - 1) * byteStride + four <= bytes.length) return { ...attribute, components: 4 };
  if (isAligned && (componentType === 'f32' || (normalized && componentType !== 'u32' && components !== 3)))
    return attribute;
  return attributeFrom(attributeFloats(attribute), components);
}

function vertexFormat({ componentType, components, normalized }: Attribute): VertexFormat {
  const width = WIDTHS[components - 1]!; // 1 to 4 by type
  if (componentType === 'f32' || !normalized) return `float32${width}`;
  const kind = componentType.startsWith('i') ? 'snorm' : 'unorm';
  return `${kind}${componentType.endsWith('8') ? '8' : '16'}${width}`;
}

/** Modes that only some GPUs have are spelled out with indices. */
function drawable(geometry: Geometry): {
  indices: Uint8Array | Uint16Array | Uint32Array | undefined;
  topology: DescribedGeometry['topology'];
} {
  const { indices, mode = 'triangles' } = geometry;
  const n = indices ? indices.length : vertexCount(geometry);
  const at = (i: number): number => (indices ? indices[i]! : i);
  switch (mode) {
    case 'points':
      return { indices, topology: 'point-list' };
    case 'lines':
      return { indices, topology: 'line-list' };
    case 'line-strip':
      return { indices, topology: 'line-strip' };
    case 'line-loop':
      return {
        indices: Uint32Array.from({ length: n > 0 ? n + 1 : 0 }, (_, i) => at(i % n)),
        topology: 'line-strip',
      };
    case 'triangle-strip':
      return { indices, topology: 'triangle-strip' };
    case 'triangle-fan': {
      const triangles = Math.max(0, n - 2);
      const list = Uint32Array.from({ length: triangles * 3 }, (_, i) => {
        const first = Math.floor(i / 3) + 1;
        return [at(first), at(first + 1), at(0)][i % 3]!; // i % 3 < 3
      });
      return { indices: list, topology: 'triangle-list' };
    }
    default:
      return { indices, topology: 'triangle-list' };
  }
}
