import type { DeviceTimer } from '../device.js';

const COPY_SRC = 4;
const COPY_DST = 8;
const MAP_READ = 1;
const QUERY_RESOLVE = 512;

/** Two timestamps a pass, resolved behind it. */
export class WebgpuTimer implements DeviceTimer {
  readonly kind = 'timer';
  private readonly queries: GPUQuerySet;
  private readonly resolved: GPUBuffer;
  private wasUsed = false;

  constructor(
    private readonly gpu: GPUDevice,
    readonly label: string,
    /** Hands recorded work to the GPU. */
    private readonly submit: () => void,
  ) {
    this.queries = gpu.createQuerySet({ label, type: 'timestamp', count: 2 });
    this.resolved = gpu.createBuffer({ label, size: 16, usage: QUERY_RESOLVE | COPY_SRC });
  }

  writes(): GPURenderPassTimestampWrites {
    this.wasUsed = true;
    return { querySet: this.queries, beginningOfPassWriteIndex: 0, endOfPassWriteIndex: 1 };
  }

  resolve(encoder: GPUCommandEncoder): void {
    encoder.resolveQuerySet(this.queries, 0, 2, this.resolved, 0);
  }

  async milliseconds(): Promise<number | undefined> {
    this.submit();
    if (!this.wasUsed) return undefined;
    const back = this.gpu.createBuffer({ label: this.label, size: 16, usage: MAP_READ | COPY_DST });
    const encoder = this.gpu.createCommandEncoder();
    encoder.copyBufferToBuffer(this.resolved, 0, back, 0, 16);
    this.gpu.queue.submit([encoder.finish()]);
    await back.mapAsync(MAP_READ);
    const [start = 0n, end = 0n] = new BigInt64Array(back.getMappedRange());
    back.destroy();
    return Number(end - start) / 1e6;
  }

  dispose(): void {
    this.queries.destroy();
    this.resolved.destroy();
  }
}
