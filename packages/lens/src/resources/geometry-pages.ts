import type { Device, DeviceBuffer, VertexBufferLayout } from '../gpu/device.js';
import type { DescribedGeometry } from './describe-geometry.js';
import type { GpuGeometry } from './geometry-store.js';
import { Ranges } from './ranges.js';

/** Vertices that indices of 16 bits can name: no page has more. */
const MOST_VERTICES = 65536;
/** Geometries of more vertices have buffers of their own, under their own names. */
const MOST_OF_ONE = 4096;
const FIRST_VERTICES = 4096;
const FIRST_INDICES = 16384;

/** A geometry in a page. */
export interface Placed {
  readonly page: GeometryPage;
  /** Number of its first vertex, which is in its indices already, and of its first index. */
  readonly baseVertex: number;
  readonly firstIndex: number;
}

/** Geometries of one layout share buffers, so that those that are drawn behind one another change none, and go out together. */
export class GeometryPages {
  private readonly placedOf = new Map<GpuGeometry, Placed>();
  private readonly byLayout = new Map<string, GeometryPage[]>();

  /** @param zeros for attributes that a geometry lacks */
  constructor(
    private readonly device: Device,
    private readonly zeros: DeviceBuffer,
  ) {}

  /** Uploads a geometry into a page. @returns false for those that do not fit into one */
  place(gpu: GpuGeometry, described: DescribedGeometry): boolean {
    const placed = this.add(described);
    if (!placed) return false;
    const { page, baseVertex, firstIndex } = placed;
    this.placedOf.set(gpu, placed);
    Object.assign(gpu, { page, baseVertex, firstIndex, indexFormat: 'uint16' });
    // A page that grows has other buffers.
    Object.defineProperties(gpu, {
      slots: { get: () => page.slots },
      indexBuffer: { get: () => page.indexBuffer },
    });
    return true;
  }

  private add(described: DescribedGeometry): Placed | undefined {
    const { count, layoutKey, topology, vertices, placedBy } = described;
    if (
      topology !== 'triangle-list' ||
      placedBy === 'instances' ||
      vertices === 0 ||
      vertices > MOST_OF_ONE ||
      count === 0
    )
      return undefined;
    let pages = this.byLayout.get(layoutKey);
    if (!pages) this.byLayout.set(layoutKey, (pages = []));
    for (const page of pages) {
      const placed = page.add(described);
      if (placed) return placed;
    }
    const page = new GeometryPage(this.device, described.layouts, this.zeros);
    pages.push(page);
    return page.add(described);
  }

  /** Gives up what a geometry has of its page. */
  remove(gpu: GpuGeometry): void {
    const placed = this.placedOf.get(gpu);
    if (!placed) return;
    this.placedOf.delete(gpu);
    const { page } = placed;
    if (!page.remove(placed)) return;
    for (const pages of this.byLayout.values()) {
      const at = pages.indexOf(page);
      if (at >= 0) pages.splice(at, 1);
    }
  }
}

/** Vertices that several geometries may name by indices of their own. */
interface VertexRange {
  key: string;
  first: number;
  users: number;
}

interface Resident extends Placed {
  described: DescribedGeometry;
  range: VertexRange;
}

/** Vertex buffers of one layout, and indices. */
export class GeometryPage {
  /** As `GpuGeometry.slots`; those of zeros are nobody's own. */
  readonly slots: { buffer: DeviceBuffer; offset: number }[] = [];
  indexBuffer: DeviceBuffer | undefined;
  private readonly vertices = new Ranges();
  private readonly indices = new Ranges();
  private readonly residents = new Set<Resident>();
  private readonly ranges = new Map<string, VertexRange>();

  constructor(
    private readonly device: Device,
    private readonly layouts: readonly VertexBufferLayout[],
    private readonly zeros: DeviceBuffer,
  ) {}

  add(described: DescribedGeometry): Placed | undefined {
    const { count, vertices } = described;
    const key = keyOf(described);
    let range = this.ranges.get(key);
    if (!range) {
      const first = this.room(this.vertices, vertices, FIRST_VERTICES, MOST_VERTICES);
      if (first === undefined) return undefined;
      range = { key, first, users: 0 };
      this.ranges.set(key, range);
      this.writeVertices(described, first);
    }
    range.users++;
    const firstIndex = this.room(this.indices, even(count), FIRST_INDICES, Infinity)!; // there is no limit
    const resident: Resident = { page: this, baseVertex: range.first, firstIndex, described, range };
    this.writeIndices(resident);
    this.residents.add(resident);
    return resident;
  }

  /** @returns whether nothing is left */
  remove(placed: Placed): boolean {
    const resident = placed as Resident;
    if (!this.residents.delete(resident)) return false;
    const { described, firstIndex, range } = resident;
    this.indices.give(firstIndex, even(described.count));
    if (--range.users === 0) {
      this.ranges.delete(range.key);
      this.vertices.give(range.first, described.vertices);
    }
    if (this.residents.size > 0) return false;
    for (const { buffer } of this.slots) if (buffer !== this.zeros) buffer.dispose();
    this.indexBuffer?.dispose();
    return true;
  }

  /** Takes a part of what there is, after there is more where it has to be. */
  private room(ranges: Ranges, length: number, first: number, most: number): number | undefined {
    for (;;) {
      const at = ranges.take(length);
      if (at !== undefined) return at;
      if (ranges.capacity === most) return undefined;
      ranges.grow(Math.min(most, Math.max(first, ranges.capacity * 2)));
      if (ranges === this.vertices) this.makeVertices();
      else this.makeIndices();
    }
  }

  /** Larger buffers; everything is written anew, since geometry is in memory anyway. */
  private makeVertices(): void {
    const { device, layouts, slots, vertices, zeros } = this;
    layouts.forEach(({ arrayStride }, slot) => {
      const old = slots[slot]?.buffer;
      if (old !== zeros) old?.dispose();
      const size = vertices.capacity * arrayStride;
      const buffer =
        arrayStride === 0 ? zeros : device.createBuffer({ label: 'geometries', usage: 'vertex', size });
      slots[slot] = { buffer, offset: 0 };
    });
    for (const { described, baseVertex } of this.residents) this.writeVertices(described, baseVertex);
  }

  private makeIndices(): void {
    this.indexBuffer?.dispose();
    this.indexBuffer = this.device.createBuffer({
      label: 'indices of geometries',
      usage: 'index',
      size: this.indices.capacity * 2,
    });
    for (const resident of this.residents) this.writeIndices(resident);
  }

  private writeVertices({ groups, vertices }: DescribedGeometry, first: number): void {
    groups.forEach(({ bytes, base, stride }, slot) => {
      // Of the last vertex there may be less than a whole stride.
      const length = Math.min(vertices * stride, bytes.length - base);
      this.device.writeBuffer(this.slots[slot]!.buffer, first * stride, bytes, base, length); // one a group
    });
  }

  private writeIndices({ described: { count, indices }, baseVertex, firstIndex }: Resident): void {
    const rebased = new Uint16Array(even(count));
    for (let i = 0; i < count; i++) rebased[i] = (indices ? indices[i]! : i) + baseVertex; // as many
    this.device.writeBuffer(this.indexBuffer!, firstIndex * 2, rebased); // made by room
  }
}

/** Indices are written two at a time. */
const even = (count: number): number => (count + 1) & ~1;

const numbers = new WeakMap<Uint8Array, number>();
let lastNumber = 0;

/** Equal for geometries of the same vertices. */
function keyOf({ groups, vertices }: DescribedGeometry): string {
  const parts = groups.map(({ bytes, base, stride }) => {
    let number = numbers.get(bytes);
    if (number === undefined) numbers.set(bytes, (number = ++lastNumber));
    return `${number}:${base}:${stride}`;
  });
  return `${parts.join(' ')} ${vertices}`;
}
