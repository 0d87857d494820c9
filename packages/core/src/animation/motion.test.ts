import { madeBy } from '../../../../tests/heap.js';
import { placeAsset } from '../formats/asset/place.js';
import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { box } from '../geometry/flat-shapes.js';
import type { Material } from '../material/material.js';
import { axisAngle } from '../math/rotation.js';
import { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { Animation, AnimationChannel } from './animation.js';
import { Motion } from './motion.js';
import type { Playback } from './playback.js';

const channel = (
  target: AssetNode,
  path: AnimationChannel['path'],
  input: number[],
  output: number[],
): AnimationChannel<AssetNode> => ({
  target,
  path,
  sampler: {
    interpolation: 'linear',
    components: output.length / input.length,
    input: Float32Array.from(input),
    output: Float32Array.from(output),
  },
});
const clip = (
  name: string,
  duration: number,
  ...channels: AnimationChannel<AssetNode>[]
): Animation<AssetNode> => ({ name, duration, channels });
const slide = (target: AssetNode, name: string, to: number, duration = 2): Animation<AssetNode> =>
  clip(name, duration, channel(target, 'translation', [0, duration], [0, 0, 0, to, 0, 0]));

/** A buoy with a lamp on it, and clips: `drift` goes to x = 10 in 2 s, `back` to -10, `turn` a quarter about Y. */
function buoyModel(): { asset: ModelAsset; buoy: AssetNode; lamp: AssetNode; glass: Material } {
  const glass: Material = { name: 'glass', emissiveFactor: [1, 0, 0] };
  const lamp: AssetNode = {
    name: 'lamp',
    children: [],
    translation: [0, 2, 0],
    mesh: { primitives: [{ geometry: box(), material: glass }] },
    light: { type: 'point', intensity: 5 },
  };
  const buoy: AssetNode = { name: 'buoy', children: [lamp] };
  const turn = clip(
    'turn',
    1,
    channel(buoy, 'rotation', [0, 1], [0, 0, 0, 1, ...axisAngle([0, 1, 0], Math.PI / 2)]),
  );
  const lift = clip('lift', 1, channel(lamp, 'translation', [0, 1], [0, 3, 0, 0, 4, 0]));
  const shine = clip(
    'shine',
    1,
    {
      path: 'property',
      property: { owner: glass, names: ['emissiveFactor'] },
      sampler: {
        interpolation: 'linear',
        components: 3,
        input: Float32Array.of(0, 1),
        output: Float32Array.of(0, 0, 0, 0, 1, 0),
      },
    },
    {
      path: 'property',
      property: { owner: lamp.light!, names: ['intensity'] },
      sampler: {
        interpolation: 'linear',
        components: 1,
        input: Float32Array.of(0, 1),
        output: Float32Array.of(0, 8),
      },
    },
  );
  const asset = {
    format: 'glTF',
    scenes: [],
    nodes: [buoy, lamp],
    animations: [slide(buoy, 'drift', 10), slide(buoy, 'back', -10), turn, lift, shine],
  } as unknown as ModelAsset;
  return { asset, buoy, lamp, glass };
}

const stage = (): { motion: Motion; buoy: SceneNode; lamp: SceneNode } & ReturnType<typeof buoyModel> => {
  const model = buoyModel();
  const { node } = placeAsset(model.asset, new Scene());
  return { ...model, motion: new Motion(node), buoy: node.find('buoy')!, lamp: node.find('lamp')! } as never;
};
const x = (node: SceneNode): number => node.readTranslation([0, 0, 0])[0]!;
const y = (node: SceneNode): number => node.readTranslation([0, 0, 0])[1]!;

test('copies of a model play by themselves', () => {
  const { asset } = buoyModel();
  const scene = new Scene();
  const buoys = Array.from({ length: 10 }, () => placeAsset(asset, scene).node);
  const motions = buoys.map((node) => new Motion(node));
  motions.forEach((motion, i) =>
    motion
      .play('drift', { playbackRate: i / 10 })
      .pause()
      .resume(),
  );
  for (const motion of motions) motion.update(1);
  buoys.forEach((node, i) => expect(x(node.find('buoy')!)).toBeCloseTo(i / 2, 6));
});

test('once, again and again, back and forth, backwards: where a clip stands is time folded', () => {
  const { motion, buoy } = stage();
  const places = (playback: Playback, steps: number[]): number[] => {
    const seen = steps.map((step) => {
      motion.update(step);
      return Math.round(x(buoy) * 1e6) / 1e6;
    });
    playback.stop();
    motion.update(0);
    return seen;
  };
  const steps = [0, 0.5, 1, 1, 1];
  expect(places(motion.play('drift', { iterations: 1 }), steps)).toEqual([0, 2.5, 7.5, 10, 10]);
  expect(places(motion.play('drift'), steps)).toEqual([0, 2.5, 7.5, 2.5, 7.5]);
  expect(places(motion.play('drift', { iterations: 2 }), [1.5, 2, 2])).toEqual([7.5, 7.5, 10]);
  expect(places(motion.play('drift', { direction: 'alternate' }), steps)).toEqual([0, 2.5, 7.5, 7.5, 2.5]);
  expect(places(motion.play('drift', { iterations: 1, playbackRate: -1 }), steps)).toEqual([
    10, 7.5, 2.5, 0, 0,
  ]);
  expect(places(motion.play('drift', { iterations: 1, direction: 'reverse' }), steps)).toEqual([
    10, 7.5, 2.5, 0, 0,
  ]);
  expect(places(motion.play('drift', { playbackRate: -2 }), [0, 0.25, 1])).toEqual([10, 7.5, 7.5]);
  expect(places(motion.play('drift', { from: 1 }), [0, 0.5])).toEqual([5, 7.5]);
  // What nothing moves any more stands where it stood.
  expect(x(buoy)).toBe(0);
});

test('the result depends on the time alone, not on the steps', () => {
  const run = (steps: number[]): number[] => {
    const { motion, buoy, lamp } = stage();
    motion.play('drift', { playbackRate: 0.7 });
    motion.play('back', { weight: 0.5, fade: 2, direction: 'alternate' });
    motion.play('turn', { playbackRate: -1.3 });
    motion.play('lift', { layer: 1, weight: 0.25 });
    for (const step of steps) motion.update(step);
    return [...buoy.readTranslation([0, 0, 0]), ...buoy.readRotation([0, 0, 0, 0]), y(lamp)];
  };
  const whole = run([3.25]);
  for (const steps of [Array<number>(13).fill(0.25), [1, 0.001, 2.249], Array<number>(325).fill(0.01)])
    run(steps).forEach((value, k) => expect(value).toBeCloseTo(whole[k]!, 5));
});

test('clips of a layer share by weight, and leave what is missing to the pose below', () => {
  const { motion, buoy } = stage();
  motion.play('drift', { weight: 0.5, iterations: 1, playbackRate: 1 });
  motion.play('back', { weight: 0.25, iterations: 1 });
  motion.update(2);
  // 0.5 * 10 + 0.25 * -10 + 0.25 * 0
  expect(x(buoy)).toBeCloseTo(2.5, 6);
  motion.playbacks[0]!.weight = 3;
  motion.playbacks[1]!.weight = 1;
  motion.update(0);
  // Together 4: the mean of three and one.
  expect(x(buoy)).toBeCloseTo(5, 6);
});

test('a switch fades evenly from one to the other', () => {
  const { motion, buoy } = stage();
  motion.play('drift', { iterations: 1, from: 2 });
  motion.update(0);
  expect(x(buoy)).toBe(10);
  const back = motion.crossFade('back', { fade: 2, iterations: 1, from: 2 });
  motion.update(0.5);
  expect([x(buoy), back.weight]).toEqual([10 * 0.75 - 10 * 0.25, 0.25]);
  motion.update(0.5);
  expect(x(buoy)).toBeCloseTo(0, 6);
  motion.update(1);
  expect(x(buoy)).toBe(-10);
  expect(motion.playbacks).toEqual([back]);
});

test('higher layers cover, additive clips add what differs from their reference', () => {
  const { motion, buoy, lamp } = stage();
  motion.play('drift', { iterations: 1, from: 2 });
  motion.play('back', { iterations: 1, from: 2, layer: 1, weight: 0.25 });
  motion.update(0);
  expect(x(buoy)).toBeCloseTo(10 + (-10 - 10) * 0.25, 6);
  const added = motion.play('drift', { iterations: 1, from: 1, layer: 2, additive: true, weight: 0.5 });
  motion.update(0);
  expect(x(buoy)).toBeCloseTo(5 + 0.5 * 5, 6);
  added.stop();
  motion.play('drift', { from: 1, iterations: 1, layer: 2, additive: true, reference: 2 });
  motion.update(0);
  expect(x(buoy)).toBeCloseTo(5 - 5, 6);
  // Half a quarter turn on top of a quarter.
  motion.play('turn', { iterations: 1, from: 1 });
  motion.play('turn', { iterations: 1, from: 1, additive: true, weight: 0.5 });
  motion.update(0);
  const expected = axisAngle([0, 1, 0], Math.PI * 0.75);
  buoy.readRotation([0, 0, 0, 0]).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 6));
  expect(y(lamp)).toBe(2);
});

test('a clip may be kept to subtrees', () => {
  const { motion, buoy, lamp } = stage();
  motion.play('drift', { from: 1, mask: { exclude: lamp } });
  motion.play('lift', { from: 0.5, mask: lamp });
  motion.play('turn', { mask: [lamp], from: 0.5 });
  motion.update(0);
  expect([x(buoy), y(lamp)]).toEqual([5, 3.5]);
  expect(buoy.readRotation([0, 0, 0, 0])).toEqual([0, 0, 0, 1]);
});

test("materials and lights that a clip animates are this placing's own", () => {
  const { asset, glass } = buoyModel();
  const scene = new Scene();
  const [a, b] = [placeAsset(asset, scene).node, placeAsset(asset, scene).node];
  const motion = new Motion(a);
  motion.play('shine', { from: 0.5 });
  motion.update(0);
  const materialOf = (node: SceneNode): Material => node.find('lamp')!.mesh!.primitives[0]!.material!;
  expect(materialOf(a).emissiveFactor).toEqual([0, 0.5, 0]);
  expect(a.find('lamp')!.light!.intensity).toBe(4);
  expect(materialOf(b)).toBe(glass);
  expect(glass.emissiveFactor).toEqual([1, 0, 0]);
  expect(b.find('lamp')!.light!.intensity).toBe(5);
  motion.stop();
  motion.update(0);
  expect(materialOf(a).emissiveFactor).toEqual([1, 0, 0]);
});

describe('moments', () => {
  /** What is called in a run of steps, as clip times. */
  const called = (options: Parameters<Motion['play']>[1], times: number[], steps: number[]): number[] => {
    const { motion } = stage();
    const seen: number[] = [];
    const playback = motion.play('drift', options);
    for (const time of times) playback.at(time, () => seen.push(time));
    for (const step of steps) motion.update(step);
    return seen;
  };

  test('come in order, each time and once, also at ends and turns, whatever the steps', () => {
    const small = Array<number>(50).fill(0.125);
    for (const [options, times, expected] of [
      [{ iterations: 1 }, [0, 0.5, 2], [0, 0.5, 2]],
      [{}, [0, 0.5], [0, 0.5, 0, 0.5, 0, 0.5, 0]],
      [{}, [2], [2, 2, 2]],
      [{ iterations: 2 }, [0, 1, 2], [0, 1, 0, 2, 1, 2]],
      [{ direction: 'alternate' }, [0, 0.5, 2], [0, 0.5, 2, 0.5, 0, 0.5, 2]],
      [{ playbackRate: -1 }, [0.5, 2], [2, 0.5, 2, 0.5, 2, 0.5, 2]],
      [{ iterations: 1, playbackRate: -1 }, [0, 0.5, 2], [2, 0.5, 0]],
    ] as const) {
      for (const steps of [small, [6.25], [3, 3.25], [0.5, 0.5, 1, 2, 2.25]])
        expect([options, called(options, [...times], steps)]).toEqual([options, expected]);
    }
  });

  test('may stop or move what calls them', () => {
    const { motion } = stage();
    const playback = motion.play('drift');
    let calls = 0;
    playback.at(0.5, (self) => {
      if (++calls === 3) self.stop();
    });
    motion.update(100);
    expect(calls).toBe(3);
    expect(motion.playbacks).toHaveLength(0);
    const again = motion.play('drift', { iterations: 1 });
    let ends = 0;
    again.on('end', () => ends++);
    const forget = again.at(1, (self) => self.seek(0.25));
    motion.update(1.5);
    expect(again.time).toBe(0.25);
    forget();
    motion.update(5);
    motion.update(5);
    expect([again.time, ends]).toEqual([2, 1]);
  });

  test('a step over very many of them is refused, not gone through', () => {
    const { motion } = stage();
    motion.play('drift').at(1, () => undefined);
    expect(() => motion.update(1e7)).toThrow(/passes more than 100000 moments/);
  });
});

describe('clips from elsewhere', () => {
  test('are matched by path, then by name; the report says what was not', () => {
    const { asset, buoy, lamp } = buoyModel();
    const scene = new Scene();
    const other = scene.createNode({ name: 'other' });
    const twin = scene.createNode({ name: 'buoy', parent: other });
    scene.createNode({ name: 'lamp', parent: other });
    const right = scene.createNode({ name: 'lamp', parent: twin });
    const motion = new Motion(other, { animations: asset.animations });
    const flag: AssetNode = { name: 'lampp', children: [] };
    const bound = motion.bind(
      clip(
        'all',
        1,
        channel(lamp, 'translation', [0], [0, 7, 0]),
        channel(buoy, 'translation', [0], [1, 0, 0]),
        channel(flag, 'translation', [0], [0, 0, 0]),
      ),
      { sources: [...asset.nodes, flag] },
    );
    expect(bound.report).toEqual({
      matched: [
        { target: 'buoy/lamp', node: right, by: 'path' },
        { target: 'buoy', node: twin, by: 'name' },
      ],
      missing: [{ target: 'lampp', reason: 'not there', nearest: 'lamp' }],
    });
    motion.play(bound);
    motion.update(0);
    expect([x(twin), y(right)]).toEqual([1, 7]);
  });

  test('fit a model of other proportions and another rest pose', () => {
    const bone: AssetNode = {
      name: 'bone',
      children: [],
      translation: [0, 1, 0],
      rotation: axisAngle([0, 0, 1], 0.5),
    };
    const scene = new Scene();
    const root = scene.createNode();
    const own = scene.createNode({
      parent: root,
      name: 'bone',
      translation: [3, 0, 0],
      rotation: axisAngle([0, 0, 1], 0.2),
    });
    const motion = new Motion(root);
    const nod = clip(
      'nod',
      1,
      channel(bone, 'translation', [0, 1], [0, 1, 0, 0, 1.5, 0]),
      channel(bone, 'rotation', [0, 1], [...axisAngle([0, 0, 1], 0.5), ...axisAngle([0, 0, 1], 0.9)]),
    );
    motion.play(nod, { fit: true });
    motion.update(0);
    // At rest there it is at rest here.
    expect(own.readTranslation([0, 0, 0])).toEqual([3, 0, 0]);
    const rest = axisAngle([0, 0, 1], 0.2);
    own.readRotation([0, 0, 0, 0]).forEach((v, k) => expect(v).toBeCloseTo(rest[k]!, 6));
    motion.update(0.5);
    // Three times as long: three times as far; and by 0.2 radians, as in the clip.
    expect(own.readTranslation([0, 0, 0]).map((v) => +v.toFixed(5))).toEqual([3, 0.75, 0]);
    const turned = axisAngle([0, 0, 1], 0.4);
    own.readRotation([0, 0, 0, 0]).forEach((v, k) => expect(v).toBeCloseTo(turned[k]!, 5));
  });
});

test('names and numbers that cannot be are refused with the way out', () => {
  const { motion, asset } = stage();
  expect(() => motion.play('drit')).toThrow(/no clip "drit"/);
  expect(() => motion.play('drit')).toThrow(
    expect.objectContaining({ hint: expect.stringMatching(/Did you mean "drift"\?.*"back"/) }),
  );
  expect(() => motion.update(-1)).toThrow(/delta is -1/);
  expect(() => motion.play('drift', { playbackRate: NaN })).toThrow(/playbackRate is NaN/);
  expect(() => motion.play('drift').at(3, () => undefined)).toThrow(/time is 3/);
  const empty = new Motion(new Scene().createNode({ name: 'raft' }));
  expect(() => empty.play(asset.animations[0]!)).toThrow(/nothing below "raft" is what "drift" moves/);
});

test('a steady frame makes no objects', () => {
  const { motion } = stage();
  motion.play('drift');
  motion.play('back', { weight: 0.5 });
  motion.play('turn', { layer: 1, weight: 0.5 });
  motion.play('lift', { additive: true }).at(0.5, () => undefined);
  for (let i = 0; i < 3000; i++) motion.update(0.01);
  // The engine boxes a number now and then, 16 bytes each; one small array a clip would be 4 times 100 bytes.
  const limit = 2000 * 300;
  const made = madeBy(() => {
    for (let i = 0; i < 2000; i++) motion.update(0.01);
  }, limit);
  expect(made).toBeLessThan(limit);
});

test('a clip goes on moving the same nodes when they come to other rows, go, and their rows are used again', () => {
  const { asset } = buoyModel();
  const scene = new Scene();
  const before = Array.from({ length: 20 }, (_, i) => scene.createNode({ name: `post ${i}` }));
  const buoys = Array.from({ length: 4 }, () => placeAsset(asset, scene).node);
  const motions = buoys.map((node) => new Motion(node));
  for (const motion of motions) motion.play('drift');
  const step = (): void => {
    for (const motion of motions) motion.update(0.25);
    scene.update();
  };
  const at = (node: SceneNode): number => node.find('buoy')!.readTranslation([0, 0, 0])[0];
  step();
  step();
  // Below a later row, and holes before them that are closed or used again.
  const late = scene.createNode({ name: 'late' });
  buoys[1]!.setParent(late);
  const gone = buoys[2]!.find('buoy')!;
  gone.remove();
  for (const post of before) post.remove();
  const fresh = Array.from({ length: 30 }, (_, i) =>
    scene.createNode({ name: `crate ${i}`, translation: [-7, 0, 0] }),
  );
  step();
  step();
  expect([0, 1, 3].map((i) => at(buoys[i]!))).toEqual([5, 5, 5]);
  for (const node of fresh) expect([...node.readTranslation([0, 0, 0])]).toEqual([-7, 0, 0]);
});
