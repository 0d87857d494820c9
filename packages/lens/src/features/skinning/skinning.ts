import { Poses, type Scene } from '@umber-lens/core/engine';
import type { PreparedScene } from '../../batches/prepared-scene.js';
import type { BindGroupEntry, Device, DeviceBuffer } from '../../gpu/device.js';
import { BINDING_BENDS, BINDING_POSES } from '../../compiled/layouts.js';
import type { Feature, FeatureHost, FrameAt } from '../feature.js';

const SLOT_BYTES = 48;

/** Skins and morph targets: the poses of a scene on the GPU, and what is written of each vertex. */
export class Skinning implements Feature {
  readonly isPlacing = true;
  /** Another array when a buffer in it is another. */
  entries: readonly BindGroupEntry[];
  private readonly nothing: DeviceBuffer;
  private readonly byScene = new Map<Scene, { poses: Copy; records: Copy; seen: number; frame: number }>();
  private poses: DeviceBuffer;
  private records: DeviceBuffer;

  private readonly device: Device;

  constructor({ device }: FeatureHost) {
    this.device = device;
    this.nothing = device.createBuffer({ label: 'no poses', usage: 'storage', size: SLOT_BYTES });
    this.poses = this.records = this.nothing;
    this.entries = this.made();
  }

  /** The poses that are bound. */
  get posesBuffer(): DeviceBuffer {
    return this.poses;
  }

  prepare({ scene, frame }: FrameAt): void {
    this.upload(scene, frame);
  }

  prepareUnlit({ scene }: PreparedScene, frame: number): void {
    this.upload(scene, frame);
  }

  /** Uploads the poses that changed, and what came of records. To be called outside a pass, after `scene.update`. */
  private upload(scene: Scene, frame: number): void {
    const all = scene.guests.get(Poses);
    if (!all) return;
    let known = this.byScene.get(scene);
    if (!known) {
      known = {
        poses: new Copy(this.device, 'poses'),
        records: new Copy(this.device, 'bends'),
        seen: -1,
        frame,
      };
      this.byScene.set(scene, known);
    }
    known.frame = frame;
    known.records.keep(all.records, known.records.used, all.recordCount);
    known.records.used = all.recordCount;
    const { log, values } = all;
    let [from, to] = [0, values.length];
    if (log.holds(known.seen)) {
      [from, to] = [Infinity, 0];
      for (let at = known.seen; at < log.end; at++) {
        from = Math.min(from, log.firstAt(at) * 12);
        to = Math.max(to, (log.firstAt(at) + log.countAt(at)) * 12);
      }
    }
    known.poses.keep(values, from, Math.min(to, values.length));
    known.seen = log.end;
    const [poses, records] = [known.poses.buffer ?? this.nothing, known.records.buffer ?? this.nothing];
    if (poses === this.poses && records === this.records) return;
    this.poses = poses;
    this.records = records;
    this.entries = this.made();
  }

  /** Frees what no frame since `frame` has drawn. */
  sweep(frame: number): void {
    for (const [scene, { poses, records, frame: last }] of this.byScene) {
      if (last >= frame) continue;
      this.byScene.delete(scene);
      if (poses.buffer === this.poses) {
        this.poses = this.records = this.nothing;
        this.entries = this.made();
      }
      poses.buffer?.dispose();
      records.buffer?.dispose();
    }
  }

  private made(): BindGroupEntry[] {
    return [
      { binding: BINDING_POSES, buffer: this.poses },
      { binding: BINDING_BENDS, buffer: this.records },
    ];
  }
}

/** A buffer that holds what an array does. */
class Copy {
  buffer: DeviceBuffer | undefined;
  /** Elements that it holds already, for those who add. */
  used = 0;

  constructor(
    private readonly device: Device,
    private readonly label: string,
  ) {}

  /** Uploads elements from one to before another; all where there is more than it has room for. */
  keep(values: Float32Array | Uint32Array, from: number, to: number): void {
    const size = values.byteLength;
    if (!this.buffer || this.buffer.size < size) {
      this.buffer?.dispose();
      this.buffer = this.device.createBuffer({ label: this.label, usage: 'storage', size });
      from = 0;
    }
    if (to > from) this.device.writeBuffer(this.buffer, from * 4, values, from, to - from);
  }
}
