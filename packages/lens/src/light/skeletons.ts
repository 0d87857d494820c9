import type { Geometry } from '@umber-lens/core';
import type { Device } from '../gpu/device.js';
import type { GpuGeometry } from '../resources/geometry-store.js';

export type SkeletonKind = 'points' | 'wires';

interface Entry {
  skeleton: GpuGeometry;
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
    if (!entry) known.set(gpu, (entry = { skeleton: this.make(kind, geometry, gpu), lastUsed: frame }));
    entry.lastUsed = frame;
    return entry.skeleton;
  }

  sweep(frame: number): void {
    for (const known of Object.values(this.known))
      for (const [gpu, { skeleton, lastUsed }] of known) {
        if (lastUsed >= frame) continue;
        if (skeleton.indexBuffer !== gpu.indexBuffer) skeleton.indexBuffer?.dispose();
        known.delete(gpu);
      }
  }

  private make(kind: SkeletonKind, geometry: Geometry, gpu: GpuGeometry): GpuGeometry {
    if (kind === 'points') return { ...gpu, topology: 'point-list', stripIndexFormat: undefined };
    // Lines and points are their own edges.
    if (!gpu.topology.startsWith('triangle')) return gpu;
    const indices = edgesOf(geometry);
    return {
      ...gpu,
      topology: 'line-list',
      stripIndexFormat: undefined,
      indexBuffer:
        indices.length > 0
          ? this.device.createBuffer({
              label: `${geometry.name ?? 'geometry'} edges`,
              usage: 'index',
              data: indices,
            })
          : undefined,
      indexFormat: 'uint32',
      count: indices.length,
    };
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
