import { type Attribute, attributeFloats, attributeFrom, type Geometry, vertexCount } from '@umber-lens/core';
import type {
  Device,
  DeviceBuffer,
  RenderPipelineOptions,
  VertexBufferLayout,
  VertexFormat,
} from '../gpu/device.js';
import { LOCATION } from '../shaders/lit.js';

/** A geometry on the GPU. */
export interface GpuGeometry {
  /** Vertex buffers by slot, with where each starts. */
  slots: readonly { buffer: DeviceBuffer; offset: number }[];
  layouts: readonly VertexBufferLayout[];
  /** Equal for geometries that one pipeline can draw. */
  layoutKey: string;
  topology: NonNullable<RenderPipelineOptions['topology']>;
  indexBuffer: DeviceBuffer | undefined;
  indexFormat: 'uint16' | 'uint32';
  /** Indices, or vertices where there are none. */
  count: number;
  lastUsed: number;
}

/**
 * Uploads geometry once and keeps it while it is drawn. Attributes that share bytes share a buffer,
 * also across geometries, as the views of a model file do.
 */
export class GeometryStore {
  private readonly known = new Map<Geometry, GpuGeometry>();
  private readonly regions = new Map<Uint8Array, { buffer: DeviceBuffer; users: number }>();
  private readonly regionsOf = new Map<Geometry, Uint8Array[]>();

  constructor(private readonly device: Device) {}

  get(geometry: Geometry, frame: number): GpuGeometry {
    let found = this.known.get(geometry);
    if (!found) {
      found = this.upload(geometry);
      this.known.set(geometry, found);
    }
    found.lastUsed = frame;
    return found;
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    for (const [geometry, gpu] of this.known) if (gpu.lastUsed < frame) this.free(geometry, gpu);
  }

  private free(geometry: Geometry, gpu: GpuGeometry): void {
    this.known.delete(geometry);
    gpu.indexBuffer?.dispose();
    for (const bytes of this.regionsOf.get(geometry) ?? []) {
      const region = this.regions.get(bytes);
      if (!region || --region.users > 0) continue;
      region.buffer.dispose();
      this.regions.delete(bytes);
    }
    this.regionsOf.delete(geometry);
  }

  private upload(geometry: Geometry): GpuGeometry {
    const used: Uint8Array[] = [];
    const groups: { bytes: Uint8Array; stride: number; base: number; members: [number, Attribute][] }[] = [];
    const named = Object.entries(LOCATION).filter(([name]) => name !== 'instance');
    const parts = named
      .flatMap(([name, location]): [number, Attribute][] => {
        const attribute = geometry.attributes[name];
        return attribute && attribute.count > 0 ? [[location, fetchable(attribute)]] : [];
      })
      .sort(([, a], [, b]) => a.byteOffset - b.byteOffset);
    for (const [location, attribute] of parts) {
      const { bytes, byteStride, byteOffset } = attribute;
      const group = groups.find(
        (g) => g.bytes === bytes && g.stride === byteStride && byteOffset - g.base < byteStride,
      );
      if (group) group.members.push([location, attribute]);
      else groups.push({ bytes, stride: byteStride, base: byteOffset, members: [[location, attribute]] });
    }
    const layouts = groups.map(({ stride, base, members }): VertexBufferLayout => ({
      arrayStride: stride,
      attributes: members.map(([shaderLocation, attribute]) => ({
        shaderLocation,
        format: vertexFormat(attribute),
        offset: attribute.byteOffset - base,
      })),
    }));
    const slots = groups.map(({ bytes, base }) => {
      if (!used.includes(bytes)) {
        used.push(bytes);
        const known = this.regions.get(bytes);
        if (known) known.users++;
        else this.regions.set(bytes, { buffer: this.createBuffer(bytes, geometry.name), users: 1 });
      }
      return { buffer: this.regions.get(bytes)!.buffer, offset: base }; // entered above
    });
    this.regionsOf.set(geometry, used);
    const { indices, topology } = drawable(geometry);
    let indexBuffer: DeviceBuffer | undefined;
    if (indices && indices.length > 0) {
      const size = (indices.byteLength + 3) & ~3;
      indexBuffer = this.device.createBuffer({
        label: `${geometry.name ?? 'geometry'} indices`,
        usage: 'index',
        size,
      });
      this.device.writeBuffer(indexBuffer, 0, indices);
    }
    return {
      slots,
      layouts,
      layoutKey: layouts
        .map(
          (l) =>
            `${l.arrayStride}:${l.attributes.map((a) => `${a.shaderLocation}${a.format}@${a.offset}`).join(',')}`,
        )
        .join(';'),
      topology,
      indexBuffer,
      indexFormat: indices instanceof Uint32Array ? 'uint32' : 'uint16',
      count: indices ? indices.length : vertexCount(geometry),
      lastUsed: 0,
    };
  }

  private createBuffer(bytes: Uint8Array, label = 'geometry'): DeviceBuffer {
    const buffer = this.device.createBuffer({ label, usage: 'vertex', size: (bytes.length + 3) & ~3 });
    this.device.writeBuffer(buffer, 0, bytes);
    return buffer;
  }
}

/** Whole numbers that stand for themselves become floats: not every GPU converts them on the way. */
function fetchable(attribute: Attribute): Attribute {
  if (attribute.componentType === 'f32' || attribute.normalized) return attribute;
  return attributeFrom(attributeFloats(attribute), attribute.components);
}

function vertexFormat({ componentType, components, normalized }: Attribute): VertexFormat {
  const width = (['', 'x2', 'x3', 'x4'] as const)[components - 1]!; // 1 to 4 by type
  if (componentType === 'f32' || !normalized) return `float32${width}`;
  const kind = componentType.startsWith('i') ? 'snorm' : 'unorm';
  return `${kind}${componentType.endsWith('8') ? '8' : '16'}${width}`;
}

/** Modes that only some GPUs have are spelled out with indices. */
function drawable(geometry: Geometry): {
  indices: Uint8Array | Uint16Array | Uint32Array | undefined;
  topology: GpuGeometry['topology'];
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
