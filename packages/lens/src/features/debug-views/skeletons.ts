import type { Geometry } from '@umber-lens/core/engine';
import type { Device } from '../../gpu/device.js';
import type { GpuGeometry } from '../../resources/geometry-store.js';
import { freeUnused } from '../../resources/kept.js';

export type SkeletonKind = 'points' | 'wires';

interface Entry {
  skeleton: GpuGeometry;
  /** What its vertices were numbered from. */
  baseVertex: number;
  lastUsed: number;
}

/** Geometry as its vertices or its edges alone: the vertices are shared, the indices are of its own. */
export class Skeletons {
  private readonly known = {
    points: new Map<GpuGeometry, Entry>(),
    wires: new Map<GpuGeometry, Entry>(),
  };

  constructor(private readonly device: Device) {}

  get(kind: SkeletonKind, geometry: Geometry, gpu: GpuGeometry, frame: number): GpuGeometry {
    const known = this.known[kind];
    let entry = known.get(gpu);
    if (entry?.baseVertex !== gpu.baseVertex) {
      if (entry) this.free(entry, gpu);
      entry = { skeleton: this.make(kind, geometry, gpu), baseVertex: gpu.baseVertex, lastUsed: frame };
      known.set(gpu, entry);
    }
    entry.lastUsed = frame;
    return entry.skeleton;
  }

  sweep(frame: number): void {
    for (const known of Object.values(this.known))
      freeUnused(known, frame, (entry, gpu) => this.free(entry, gpu));
  }

  private free({ skeleton: { indexBuffer } }: Entry, gpu: GpuGeometry): void {
    if (indexBuffer !== gpu.indexBuffer) indexBuffer?.dispose();
  }

  private make(kind: SkeletonKind, geometry: Geometry, gpu: GpuGeometry): GpuGeometry {
    // What a page is asked for may become another buffer: it is asked through the original.
    const shape = Object.create(gpu) as GpuGeometry;
    if (kind === 'points')
      return Object.assign(shape, {
        topology: 'point-list' as const,
        stripIndexFormat: undefined,
        page: undefined,
      });
    // Lines and points are their own edges.
    if (!gpu.topology.startsWith('triangle')) return gpu;
    const indices = edgesOf(geometry);
    for (let i = 0; i < indices.length; i++) indices[i]! += gpu.baseVertex; // i < length
    const own =
      indices.length > 0
        ? this.device.createBuffer({
            label: `${geometry.name ?? 'geometry'} edges`,
            usage: 'index',
            data: indices,
          })
        : undefined;
    Object.defineProperty(shape, 'indexBuffer', { value: own });
    return Object.assign(shape, {
      topology: 'line-list' as const,
      stripIndexFormat: undefined,
      indexFormat: 'uint32' as const,
      count: indices.length,
      firstIndex: 0,
      page: undefined,
    });
  }
}

/** Both ends of every edge of a geometry's triangles, each edge once. */
export function edgesOf({ attributes, indices, mode = 'triangles' }: Geometry): Uint32Array {
  const vertices = attributes['position']?.count ?? 0;
  const count = indices ? indices.length : vertices;
  const at = (i: number): number => (indices ? indices[i]! : i); // within its length
  const seen = new Set<number>();
  const out: number[] = [];
  const edge = (a: number, b: number): void => {
    const key = Math.min(a, b) * vertices + Math.max(a, b);
    if (a === b || seen.has(key)) return;
    seen.add(key);
    out.push(a, b);
  };
  const step = mode === 'triangles' ? 3 : 1;
  for (let i = 0; i + 2 < count; i += step) {
    const a = mode === 'triangle-fan' ? at(0) : at(i);
    const [b, c] = [at(i + 1), at(i + 2)];
    edge(a, b);
    edge(b, c);
    edge(c, a);
  }
  return Uint32Array.from(out);
}
