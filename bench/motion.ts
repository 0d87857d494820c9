import { readFile } from 'node:fs/promises';
import {
  affineFromTrs,
  affineMultiply,
  type Animation,
  type AssetNode,
  facing,
  geometryFrom,
  type ModelAsset,
  Motion,
  placeAsset,
  readGltf,
  sampleAnimation,
  Scene,
  axisAngle,
  poseOf,
  Poses,
} from '@umber-lens/core/engine';
import { lensOn } from 'umber-lens';
import { TraceDevice } from 'umber-lens/device';
import { median, race, row, type Row } from './measure.js';

const SKELETONS = 1000;
const JOINTS = 40;
const KEYS = 20;

/**
 * 1,000 skeletons of 40 joints, a rotation and a translation each, sampled and posed: against one flat loop that samples
 * the same channels and multiplies the same matrices.
 */
export async function skeletons(): Promise<Row> {
  const asset = chain();
  const [clip] = asset.animations as [Animation<AssetNode>];
  const scene = new Scene();
  const motions = Array.from({ length: SKELETONS }, (_, i) => {
    const motion = new Motion(placeAsset(asset, scene).node);
    motion.play('bend', { from: (i * 0.37) % 1 });
    return motion;
  });
  scene.update();

  // The same by hand: channels in the joints' order, each joint's parent the one before it.
  const samplers = clip.channels.map(({ sampler }) => sampler);
  const times = Float64Array.from({ length: SKELETONS }, (_, i) => (i * 0.37) % 1);
  const hints = new Uint8Array(SKELETONS * samplers.length);
  const translation = new Float32Array(3);
  const rotation = new Float32Array(4);
  const scale = Float32Array.of(1, 1, 1);
  const local = new Float32Array(12);
  const world = new Float32Array(JOINTS * 12);
  const bind = new Float32Array(JOINTS * 12);
  for (let j = 0; j < JOINTS; j++) bind.set([1, 0, 0, 0, 0, 1, 0, -j * 0.1, 0, 0, 1, 0], j * 12);
  const palette = new Float32Array(SKELETONS * JOINTS * 12);
  const root = Float32Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0);
  const flat = (delta: number): void => {
    for (let s = 0; s < SKELETONS; s++) {
      const time = (times[s] = (times[s]! + delta) % 1);
      for (let j = 0; j < JOINTS; j++) {
        const c = j * 2;
        const h = s * samplers.length + c;
        hints[h] = sampleAnimation(samplers[c]!, time, rotation, 0, 'rotation', hints[h]);
        hints[h + 1] = sampleAnimation(samplers[c + 1]!, time, translation, 0, 'numbers', hints[h + 1]);
        affineFromTrs(local, 0, translation, 0, rotation, 0, scale, 0);
        if (j === 0) affineMultiply(world, 0, root, 0, local, 0);
        else affineMultiply(world, j * 12, world, j * 12 - 12, local, 0);
        affineMultiply(palette, (s * JOINTS + j) * 12, world, j * 12, bind, j * 12);
      }
    }
  };
  const result = await race(
    {
      ours: () => {
        for (let i = 0; i < motions.length; i++) motions[i]!.update(1 / 60);
        scene.update();
      },
      flat: () => flat(1 / 60),
    },
    41,
  );
  const off = palette.reduce(
    (most, value, i) => Math.max(most, Math.abs(value - scene.guests.get(Poses)!.values[i]!)),
    0,
  );
  if (!(off < 1e-3)) throw new Error(`the two differ by ${off}`);
  return row(
    '1,000 skeletons of 40 joints sampled and posed, against one flat loop of the same sums',
    result['ours']!,
    result['flat']!,
    'ms',
    1.5,
  );
}

/** A mesh on a chain of joints, and a clip that bends it. */
function chain(): ModelAsset {
  const joints: AssetNode[] = [];
  for (let j = 0; j < JOINTS; j++) {
    const node: AssetNode = { name: `joint ${j}`, children: [] };
    joints[j - 1]?.children.push(node);
    joints.push(node);
  }
  const input = Float32Array.from({ length: KEYS }, (_, k) => k / (KEYS - 1));
  const animation: Animation<AssetNode> = {
    name: 'bend',
    duration: 1,
    channels: joints.flatMap((target, j): Animation<AssetNode>['channels'] => [
      {
        target,
        path: 'rotation',
        sampler: {
          interpolation: 'linear',
          components: 4,
          input,
          output: Float32Array.from(
            [...input].flatMap((t) => axisAngle([0, 0, 1], 0.2 * Math.sin(6.2832 * t + j))),
          ),
        },
      },
      {
        target,
        path: 'translation',
        sampler: {
          interpolation: 'linear',
          components: 3,
          input,
          output: Float32Array.from([...input].flatMap(() => [0, j === 0 ? 0 : 0.1, 0])),
        },
      },
    ]),
  };
  const geometry = geometryFrom({
    position: joints.flatMap((_, j) => [0, j * 0.1, 0]),
    joints0: joints.flatMap((_, j) => [j, 0, 0, 0]),
    weights0: joints.flatMap(() => [1, 0, 0, 0]),
  });
  const inverseBindMatrices = Float32Array.from(
    joints.flatMap((_, j) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -j * 0.1, 0, 1]),
  );
  const skin = { joints, inverseBindMatrices };
  const body: AssetNode = { name: 'body', children: [], mesh: { primitives: [{ geometry }] }, skin };
  return {
    nodes: [body, ...joints],
    scenes: [],
    animations: [animation],
    skins: [skin],
  } as unknown as ModelAsset;
}

/** Weights of 100 morph targets, a clip each, on 200 nodes: against one flat loop that samples the same channels. */
export async function targets(): Promise<Row> {
  const [count, nodes] = [100, 200];
  const input = Float32Array.from({ length: KEYS }, (_, k) => k / (KEYS - 1));
  const output = Float32Array.from({ length: KEYS * count }, (_, i) => Math.sin(i * 0.37));
  const sampler = { interpolation: 'linear', components: count, input, output } as const;
  const moves = geometryFrom({ position: [0, 0.01, 0, 0, 0, 0, 0, 0, 0] }).attributes['position']!;
  const geometry = {
    ...geometryFrom({ position: [0, 0, 0, 1, 0, 0, 0, 1, 0] }),
    targets: Array.from({ length: count }, (_, t) => ({
      name: `target ${t}`,
      attributes: { position: moves },
    })),
  };
  const face: AssetNode = { name: 'face', children: [], mesh: { primitives: [{ geometry }] } };
  const animation: Animation<AssetNode> = {
    name: 'speak',
    duration: 1,
    channels: [{ target: face, path: 'weights', sampler }],
  };
  const asset = { nodes: [face], scenes: [], animations: [animation], skins: [] } as unknown as ModelAsset;
  const scene = new Scene();
  const motions = Array.from({ length: nodes }, (_, i) => {
    const motion = new Motion(placeAsset(asset, scene).node);
    motion.play('speak', { from: (i * 0.37) % 1 });
    return motion;
  });
  scene.update();
  const times = Float64Array.from({ length: nodes }, (_, i) => (i * 0.37) % 1);
  const weights = new Float32Array(nodes * count);
  const flat = (delta: number): void => {
    for (let i = 0; i < nodes; i++) {
      const time = (times[i] = (times[i]! + delta) % 1);
      const at = time * (KEYS - 1);
      const key = Math.min(KEYS - 2, Math.floor(at));
      const share = at - key;
      for (let t = 0, a = key * count; t < count; t++, a++)
        weights[i * count + t] = output[a]! * (1 - share) + output[a + count]! * share;
    }
  };
  const result = await race(
    {
      ours: () => {
        for (let i = 0; i < motions.length; i++) motions[i]!.update(1 / 60);
        scene.update();
      },
      flat: () => flat(1 / 60),
    },
    41,
  );
  // The last weights stand before a pose's own slot, the first one last.
  const own = [...scene.meshes.keys()].map((node) => poseOf(node)!.weights);
  const off = own.reduce(
    (most, values, i) =>
      values.reduce((m, value, t) => Math.max(m, Math.abs(value - weights[i * count + t]!)), most),
    0,
  );
  if (!(off < 1e-3)) throw new Error(`the two differ by ${off}`);
  return row(
    '200 nodes of 100 weights each by a clip, against one flat loop',
    result['ours']!,
    result['flat']!,
    'ms',
  );
}

/** What a steady frame of moving skeletons keeps on the heap: bytes a frame, which is to be none. */
export function allocation(): Row {
  const asset = chain();
  const scene = new Scene();
  const motions = Array.from({ length: 50 }, (_, i) => {
    const motion = new Motion(placeAsset(asset, scene).node);
    motion.play('bend', { from: (i * 0.37) % 1 });
    return motion;
  });
  const frames = (count: number): void => {
    for (let f = 0; f < count; f++) {
      for (let i = 0; i < motions.length; i++) motions[i]!.update(1 / 60);
      scene.update();
    }
  };
  frames(1000);
  // In short spans, so that a collection falls into few of them; what those show is left out by the median.
  const spans: number[] = [];
  for (let span = 0; span < 101; span++) {
    const before = process.memoryUsage().heapUsed;
    frames(20);
    spans.push((process.memoryUsage().heapUsed - before) / 20);
  }
  const made = Math.max(0, median(spans));
  return {
    what: 'bytes allocated by a steady frame of 50 skeletons of 40 joints',
    ours: `${made.toFixed(0)} bytes`,
    against: 'of 2,000 joints',
    ratio: made / 2000,
    limit: 1,
  };
}

/** Draw calls of 200 gulls on one skeleton with two shadow maps, recorded on a device that only notes what it is told. */
export async function flock(): Promise<Row> {
  const asset = await readGltf(
    await readFile(new URL('../examples/public/models/gull.glb', import.meta.url)),
  );
  const scene = new Scene();
  const motions = Array.from({ length: 200 }, (_, i) => {
    const { node } = placeAsset(asset, scene);
    node.setTranslation((i % 20) - 10, Math.floor(i / 20), 0);
    const motion = new Motion(node);
    motion.play(i % 2 ? 'glide' : 'flap', { from: i * 0.01 });
    return motion;
  });
  scene.createNode({
    rotation: facing([0.3, -1, -0.4]),
    light: { type: 'directional', intensity: 3, shadow: { cascades: 2 } },
  });
  const camera = scene.createNode({
    translation: [0, 5, 20],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  const lens = lensOn(new TraceDevice());
  const target = lens.createTarget({ width: 64, height: 40 });
  await lens.load(scene);
  for (let frame = 0; frame < 3; frame++) {
    for (const motion of motions) motion.update(1 / 60);
    lens.draw(scene, camera, { target });
  }
  const draws = lens.ledger.passes
    .filter(({ name }) => name !== 'finish')
    .reduce((sum, pass) => sum + pass.draws, 0);
  lens.dispose();
  return {
    what: 'draw calls of 200 moving gulls on one skeleton, shadows in two maps included',
    ours: `${draws} draws`,
    against: '3 draws',
    ratio: draws / 3,
    limit: 1,
  };
}
