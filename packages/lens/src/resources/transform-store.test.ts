import { box, Scene, type SceneNode } from '@umber-lens/core/engine';
import type { BufferOptions, DeviceBuffer, TypedNumbers } from '../gpu/device.js';
import { TraceDevice } from '../gpu/trace/trace-device.js';
import { TransformStore } from './transform-store.js';

/** A device that keeps what is written into its buffers. */
class KeepingDevice extends TraceDevice {
  readonly contents = new Map<DeviceBuffer, Float32Array>();
  uploads: [offset: number, bytes: number][] = [];

  override createBuffer(options: BufferOptions): DeviceBuffer {
    const buffer = super.createBuffer(options);
    this.contents.set(buffer, new Float32Array(buffer.size / 4).fill(Number.NaN));
    return buffer;
  }

  override writeBuffer(
    buffer: DeviceBuffer,
    offset: number,
    data: TypedNumbers,
    first = 0,
    length = data.length - first,
  ): void {
    super.writeBuffer(buffer, offset, data, first, length);
    this.uploads.push([offset, length * 4]);
    this.contents.get(buffer)!.set((data as Float32Array).subarray(first, first + length), offset / 4);
  }
}

function stage(count: number): {
  device: KeepingDevice;
  scene: Scene;
  nodes: SceneNode[];
  store: TransformStore;
} {
  const device = new KeepingDevice();
  const scene = new Scene();
  const geometry = box();
  const nodes = Array.from({ length: count }, (_, i) =>
    scene.createNode({ translation: [i, 0, 0], mesh: { geometry } }),
  );
  return { device, scene, nodes, store: new TransformStore(device, scene) };
}

/** Every living node's slot holds its world transform. */
function expectRight({ device, scene, store }: ReturnType<typeof stage>): void {
  const held = device.contents.get(store.buffer!)!;
  const { world } = scene.columns;
  for (const node of scene.nodes()) {
    const slot = store.slots[node.row]!;
    for (let k = 0; k < 12; k++) {
      if (held[slot * 12 + k] !== world[node.row * 12 + k])
        throw new Error(
          `row ${node.row}, slot ${slot}: ${held[slot * 12 + k]} is not ${world[node.row * 12 + k]}`,
        );
    }
  }
}

function sync(all: ReturnType<typeof stage>): [number, number][] {
  all.scene.update();
  all.device.uploads = [];
  all.store.sync();
  expectRight(all);
  return all.device.uploads;
}

test('the column goes up whole at first, and nothing while all stands still', () => {
  const all = stage(100);
  expect(sync(all)).toEqual([[0, 101 * 48]]);
  expect(sync(all)).toEqual([]);
});

test('one that moves uploads its own bytes; neighbours go up together', () => {
  const all = stage(100);
  sync(all);
  all.nodes[41]!.setTranslation(0, 1, 0);
  expect(sync(all)).toEqual([[42 * 48, 48]]);
  for (const i of [10, 11, 12, 20]) all.nodes[i]!.setTranslation(0, 2, 0);
  // The gap of seven is cheaper to upload than to go round.
  expect(sync(all)).toEqual([[11 * 48, 11 * 48]]);
  for (const i of [3, 90]) all.nodes[i]!.setTranslation(0, 3, 0);
  expect(sync(all)).toEqual([
    [4 * 48, 48],
    [91 * 48, 48],
  ]);
});

test('many that move go up as they lie', () => {
  const all = stage(1000);
  sync(all);
  for (let i = 100; i < 700; i++) all.nodes[i]!.setTranslation(0, i, 0);
  expect(sync(all)).toEqual([[101 * 48, 600 * 48]]);
});

test('rows that move apart from one another are brought together, and then cost one upload', () => {
  const all = stage(10_000);
  sync(all);
  const move = (time: number): void => {
    for (let i = 0; i < 100; i++) all.nodes[i * 100]!.setTranslation(0, i + time, 0);
  };
  const place = all.store.log.end;
  move(1);
  expect(sync(all)).toHaveLength(1);
  // Those who draw are told which rows have another slot now.
  expect(all.store.log.countSince(place)).toBe(100);
  const again = all.store.log.end;
  move(2);
  expect(sync(all)).toEqual([[expect.any(Number), 100 * 48]]);
  expect(all.store.log.end).toBe(again);
  // One of them alone is one upload of its own.
  all.nodes[500]!.setTranslation(9, 9, 9);
  expect(sync(all)).toEqual([[expect.any(Number), 48]]);
});

test('when there is no more room together, all go home, and every list hears of it', () => {
  const all = stage(4000);
  sync(all);
  const place = all.store.log.end;
  let homes = 0;
  for (let round = 0; round < 40; round++) {
    for (let i = 0; i < 40; i++) all.nodes[(i * 97 + round * 31) % 4000]!.setTranslation(0, round, i);
    sync(all);
    if (!all.store.log.holds(place)) homes++;
  }
  expect(homes).toBeGreaterThan(0);
});

test('nodes that come and go, and rows used again, keep their places right', () => {
  const all = stage(300);
  sync(all);
  const geometry = box();
  for (let round = 0; round < 60; round++) {
    for (let i = 0; i < 20; i++) {
      const at = (round * 37 + i * 13) % all.nodes.length;
      if (i % 3 === 0 && all.nodes[at]!.isAlive) all.nodes[at]!.remove();
      else if (all.nodes[at]!.isAlive) all.nodes[at]!.setTranslation(round, i, at);
    }
    for (let i = 0; i < 7; i++)
      all.nodes.push(all.scene.createNode({ translation: [round, i, 1], mesh: { geometry } }));
    sync(all);
  }
});

test('a column that was moved into another memory is uploaded from there', () => {
  const all = stage(1500);
  sync(all);
  const geometry = box();
  for (let i = 0; i < 3000; i++)
    all.nodes.push(all.scene.createNode({ translation: [i, 1, 0], mesh: { geometry } }));
  sync(all);
  all.nodes[4000]!.setTranslation(0, 0, 5);
  expect(sync(all)).toHaveLength(1);
});
