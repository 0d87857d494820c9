import { type CustomInput, type Geometry, type PlacedBy } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer, RenderPipelineOptions, VertexBufferLayout } from '../gpu/device.js';
import { type DescribedGeometry, describeGeometry } from './describe-geometry.js';
import type { GeometryPage, GeometryPages } from './geometry-pages.js';
import type { writeGeometry } from './write-geometry.js';

/** A geometry on the GPU. */
export interface GpuGeometry {
  /** Vertex buffers by slot, with where each starts. */
  slots: readonly { buffer: DeviceBuffer; offset: number }[];
  layouts: readonly VertexBufferLayout[];
  /** Equal for geometries that one pipeline can draw. */
  layoutKey: string;
  topology: NonNullable<RenderPipelineOptions['topology']>;
  /** For strips that are drawn with indices. */
  stripIndexFormat: 'uint16' | 'uint32' | undefined;
  indexBuffer: DeviceBuffer | undefined;
  indexFormat: 'uint16' | 'uint32';
  /** Indices, or vertices where there are none. */
  count: number;
  /** Of a page: its first index, and what its vertices are numbered from there. */
  firstIndex: number;
  baseVertex: number;
  /** Whose buffers it has with others together. */
  page: GeometryPage | undefined;
  /** Drawn by a swarm: see `SwarmView` for what its instances say. */
  placedBy: PlacedBy;
  /** Of the geometry, as it was uploaded. */
  version: number | undefined;
  lastUsed: number;
}

interface Known {
  gpu: GpuGeometry;
  own: readonly CustomInput[];
}

/**
 * Uploads geometry once and keeps it while it is drawn. Attributes that share bytes share a buffer,
 * also across geometries, as the views of a model file do.
 */
export class GeometryStore {
  /** By geometry, then by the attributes of its own that a shader reads. */
  private readonly known = new Map<Geometry, Map<string, Known>>();
  private pages: GeometryPages | undefined;
  private write: typeof writeGeometry | undefined;
  private writing: Promise<void> | undefined;
  private readonly regions = new Map<Uint8Array, { buffer: DeviceBuffer; users: number }>();
  private readonly regionsOf = new Map<GpuGeometry, Uint8Array[]>();
  /** Zeros, for attributes that a geometry lacks. */
  readonly zeros: DeviceBuffer;

  constructor(private readonly device: Device) {
    this.zeros = device.createBuffer({ label: 'zeros', usage: 'vertex', size: 16 });
  }

  /** Waits for what uploads changes, where there were some. */
  async whenReady(): Promise<void> {
    await this.writing;
  }

  /** Geometries there are. */
  get count(): number {
    return this.known.size;
  }

  /** @param own attributes that a material's shader reads besides the usual ones */
  get(geometry: Geometry, frame: number, own: readonly CustomInput[] = []): GpuGeometry {
    let variants = this.known.get(geometry);
    if (!variants) this.known.set(geometry, (variants = new Map<string, Known>()));
    const key = own.length === 0 ? '' : own.map(({ name, location }) => `${location}${name}`).join(' ');
    let found = variants.get(key);
    if (!found) variants.set(key, (found = { gpu: this.upload(geometry, own), own }));
    found.gpu.lastUsed = frame;
    return found.gpu;
  }

  /**
   * Uploads what of a geometry was written to; what does so is loaded with the first. To be called outside a pass.
   *
   * @returns whether it lies where it lay; else it is to be asked for again
   */
  update(geometry: Geometry, gpu: GpuGeometry): boolean {
    if (!this.write) {
      this.writing ??= import('./write-geometry.js').then(({ writeGeometry }) => {
        this.write = writeGeometry;
      });
      return true;
    }
    const variants = this.known.get(geometry);
    for (const [key, { gpu: known, own }] of variants ?? []) {
      if (known !== gpu) continue;
      if (this.write(this.device, this.regions, geometry, gpu, own)) return true;
      variants!.delete(key);
      this.free(gpu);
    }
    return false;
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    for (const [geometry, variants] of this.known) {
      for (const [key, { gpu }] of variants) {
        if (gpu.lastUsed >= frame) continue;
        variants.delete(key);
        this.free(gpu);
      }
      if (variants.size === 0) this.known.delete(geometry);
    }
  }

  private free(gpu: GpuGeometry): void {
    if (gpu.page) {
      this.pages?.remove(gpu);
      return;
    }
    gpu.indexBuffer?.dispose();
    this.freeRegions(gpu);
  }

  private freeRegions(gpu: GpuGeometry): void {
    for (const bytes of this.regionsOf.get(gpu) ?? []) {
      const region = this.regions.get(bytes);
      if (!region || --region.users > 0) continue;
      region.buffer.dispose();
      this.regions.delete(bytes);
    }
    this.regionsOf.delete(gpu);
  }

  private upload(geometry: Geometry, own: readonly CustomInput[]): GpuGeometry {
    const described = describeGeometry(geometry, own);
    const { layouts, layoutKey, topology, placedBy, count } = described;
    const gpu: GpuGeometry = {
      slots: [],
      layouts,
      layoutKey,
      topology,
      stripIndexFormat: undefined,
      indexBuffer: undefined,
      indexFormat: 'uint16',
      count,
      firstIndex: 0,
      baseVertex: 0,
      page: undefined,
      placedBy,
      version: geometry.version,
      lastUsed: 0,
    };
    // What changes has buffers of its own.
    if (geometry.version !== undefined || !this.pages?.place(gpu, described))
      this.uploadAlone(gpu, described, geometry.name);
    return gpu;
  }

  /** Into buffers of its own. */
  private uploadAlone(
    gpu: GpuGeometry,
    { groups, hasZeros, indices, topology }: DescribedGeometry,
    name: string | undefined,
  ): void {
    const used: Uint8Array[] = [];
    const slots = groups.map(({ bytes, base }) => {
      if (!used.includes(bytes)) {
        used.push(bytes);
        const known = this.regions.get(bytes);
        if (known) known.users++;
        else this.regions.set(bytes, { buffer: this.createBuffer(bytes, name), users: 1 });
      }
      return { buffer: this.regions.get(bytes)!.buffer, offset: base }; // entered above
    });
    if (hasZeros) slots.push({ buffer: this.zeros, offset: 0 });
    gpu.slots = slots;
    gpu.indexFormat = indices instanceof Uint32Array ? 'uint32' : 'uint16';
    if (indices && indices.length > 0) {
      const size = (indices.byteLength + 3) & ~3;
      gpu.indexBuffer = this.device.createBuffer({
        label: `${name ?? 'geometry'} indices`,
        usage: 'index',
        size,
      });
      this.device.writeBuffer(gpu.indexBuffer, 0, indices);
      if (topology.endsWith('strip')) gpu.stripIndexFormat = gpu.indexFormat;
    }
    this.regionsOf.set(gpu, used);
  }

  /** Puts geometries of one layout into pages from now on, those that are there too. To be called outside a pass. */
  usePages(pages: GeometryPages): void {
    this.pages = pages;
    for (const [geometry, variants] of this.known) {
      for (const { gpu, own } of variants.values()) {
        const { indexBuffer } = gpu;
        if (geometry.version !== undefined || !pages.place(gpu, describeGeometry(geometry, own))) continue;
        indexBuffer?.dispose();
        this.freeRegions(gpu);
      }
    }
  }

  private createBuffer(bytes: Uint8Array, label = 'geometry'): DeviceBuffer {
    const buffer = this.device.createBuffer({ label, usage: 'vertex', size: (bytes.length + 3) & ~3 });
    this.device.writeBuffer(buffer, 0, bytes);
    return buffer;
  }
}
