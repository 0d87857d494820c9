import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { axisAngle } from '../math/rotation.js';
import { Scene } from '../scene/scene.js';
import { aim, twoBoneIk } from './aim.js';
import { easing } from './easing.js';
import { noise } from './noise.js';
import { pathThrough } from './path.js';
import { spring } from './spring.js';

describe('easing', () => {
  test.each([
    // Points of the curves by hand: at t = 1/2 x is (3 x1 + 3 x2 + 1) / 8, y likewise.
    ['ease', (0.75 + 0.75 + 1) / 8, (0.3 + 3 + 1) / 8],
    ['ease-in', (1.26 + 3 + 1) / 8, (0 + 3 + 1) / 8],
    ['ease-out', (0 + 1.74 + 1) / 8, (0 + 3 + 1) / 8],
    ['ease-in-out', 0.5, 0.5],
  ] as const)('%s goes through the middle of its curve', (name, x, y) => {
    const curve = easing(name);
    expect(curve(x)).toBeCloseTo(y, 6);
    expect([curve(-1), curve(0), curve(1), curve(2)]).toEqual([0, 0, 1, 1]);
  });

  test('cubic-bezier may overshoot; what is none is refused', () => {
    const back = easing([0.3, -0.6, 0.7, 1.6]);
    expect(Math.min(...Array.from({ length: 50 }, (_, i) => back(i / 50)))).toBeLessThan(-0.05);
    expect(() => easing([1.2, 0, 0, 1])).toThrow(/is no easing/);
    expect(() => easing('ease-inn' as 'ease-in')).toThrow(
      expect.objectContaining({ hint: expect.stringMatching(/Did you mean "ease-in"/) }),
    );
  });
});

describe('springs', () => {
  test.each([0.2, 0.7, 1, 1.5, 4])(
    'with damping %d end where one large step does, whatever the steps',
    (damping) => {
      const run = (steps: number[]): number[] => {
        const [value, velocity] = [[0], [3]];
        for (const step of steps) spring(value, velocity, [10], step, { halfLife: 0.3, damping });
        return [...value, ...velocity];
      };
      const whole = run([0.8]);
      run(Array<number>(80).fill(0.01)).forEach((v, k) => expect(v).toBeCloseTo(whole[k]!, 8));
      // A second method: small steps of the equation x'' = -w (2 d x' + w x).
      const decay = Math.LN2 / 0.3;
      const w = damping <= 1 ? decay / damping : decay / (damping - Math.sqrt(damping * damping - 1));
      let [x, v] = [0, 3];
      for (let i = 0; i < 80_000; i++) {
        v += (-2 * damping * w * v - w * w * (x - 10)) * 1e-5;
        x += v * 1e-5;
      }
      expect(whole[0]!).toBeCloseTo(x, 2);
      expect(whole[1]!).toBeCloseTo(v, 1);
    },
  );

  test('the way that is left halves in a half-life, in the end', () => {
    const [value, velocity] = [[0], [0]];
    spring(value, velocity, [1], 4, { halfLife: 0.5, damping: 3 });
    const left = 1 - value[0]!;
    spring(value, velocity, [1], 0.5, { halfLife: 0.5, damping: 3 });
    expect((1 - value[0]!) / left).toBeCloseTo(0.5, 6);
    expect(() => spring([0], [0], [1], 0.1, { damping: 0 })).toThrow(/cannot be/);
  });
});

describe('paths', () => {
  test('go through their points, evenly by length', () => {
    const path = pathThrough([
      [0, 0, 0],
      [1, 0, 0],
      [4, 0, 0],
    ]);
    expect(path.length).toBeCloseTo(4, 6);
    const out = [0, 0, 0];
    for (const d of [0, 0.5, 1, 2.5, 4]) {
      path.at(d, out);
      expect(out[0]).toBeCloseTo(d, 2);
    }
    path.at(9, out);
    expect(out[0]).toBeCloseTo(4, 6);
    path.directionAt(2, out);
    expect(out.map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([1, 0, 0]);
  });

  test('a closed one of a circle is nearly as long as it, and meets itself', () => {
    const ring = Array.from({ length: 16 }, (_, i): [number, number, number] => [
      Math.cos((i * Math.PI) / 8),
      0,
      Math.sin((i * Math.PI) / 8),
    ]);
    const path = pathThrough(ring, { closed: true });
    expect(path.length).toBeCloseTo(2 * Math.PI, 1);
    const [a, b] = [
      [0, 0, 0],
      [0, 0, 0],
    ];
    path.at(0.3, a);
    path.at(0.3 + path.length, b);
    a.forEach((v, k) => expect(b[k]).toBeCloseTo(v, 6));
    expect(Math.hypot(...a)).toBeCloseTo(1, 2);
    expect(() => pathThrough([[1, 1, 1]])).toThrow(/two different points/);
  });
});

test('noise is the same each time, smooth, 0 at whole numbers, and as large below as above', () => {
  let [sum, most] = [0, 0];
  for (let i = 0; i < 4000; i++) {
    const [x, y, z] = [i * 0.137, i * 0.071, i * 0.0531];
    const value = noise(x, y, z, 5);
    expect(Math.abs(noise(x + 1e-5, y, z, 5) - value)).toBeLessThan(1e-4);
    sum += value;
    most = Math.max(most, Math.abs(value));
  }
  expect(Math.abs(sum / 4000)).toBeLessThan(0.05);
  expect(most).toBeGreaterThan(0.5);
  expect(most).toBeLessThanOrEqual(1.1);
  expect([noise(3, 4, 5), noise(-2)]).toEqual([0, 0]);
  expect(noise(0.5, 0.25, 0.75, 1)).not.toBe(noise(0.5, 0.25, 0.75, 2));
});

describe('aiming', () => {
  test('a node looks at a place through turned and scaled parents', () => {
    const scene = new Scene();
    const parent = scene.createNode({
      translation: [1, 2, 3],
      rotation: axisAngle([1, 2, 0], 0.8),
      scale: [2, 2, 2],
    });
    const lamp = scene.createNode({ parent, translation: [0.5, 0, 0] });
    const buoy = scene.createNode({ translation: [-4, 1, -7] });
    aim(lamp, buoy);
    const m = lamp.readWorld(new Float32Array(12));
    const way = [-4 - m[3]!, 1 - m[7]!, -7 - m[11]!];
    const size = Math.hypot(...way);
    const forward = [-m[2]! / 2, -m[6]! / 2, -m[10]! / 2];
    forward.forEach((v, k) => expect(v).toBeCloseTo(way[k]! / size, 5));
    aim(lamp, [9, 9, 9], { weight: 0 });
    const same = lamp.readWorld(new Float32Array(12));
    m.forEach((v, k) => expect(same[k]!).toBeCloseTo(v, 5));
  });

  test('any axis can be the one that points', () => {
    const scene = new Scene();
    const vane = scene.createNode();
    aim(vane, [0, 0, 5], { axis: [1, 0, 0] });
    const m = vane.readWorld(new Float32Array(12));
    expect([m[0]!, m[4]!, m[8]!].map((v) => Math.round(v * 1e5) / 1e5 + 0)).toEqual([0, 0, 1]);
  });
});

describe('limbs of two bones', () => {
  const limb = (): {
    root: ReturnType<Scene['createNode']>;
    middle: ReturnType<Scene['createNode']>;
    tip: ReturnType<Scene['createNode']>;
  } => {
    const scene = new Scene();
    const body = scene.createNode({ translation: [0.3, 1, -0.2], rotation: axisAngle([0, 1, 0.2], 0.7) });
    const root = scene.createNode({ parent: body, name: 'hip' });
    const middle = scene.createNode({ parent: root, name: 'knee', translation: [1, 0, 0] });
    const tip = scene.createNode({ parent: middle, name: 'claw', translation: [0, -0.7, 0] });
    return { root, middle, tip };
  };

  test('reach what is near, bend towards the pole, and keep their lengths', () => {
    holds(
      fc.property(
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 6, maxLength: 6 }),
        (n) => {
          const { root, middle, tip } = limb();
          const a = root.readWorldPosition([0, 0, 0]);
          const way = [n[0]!, n[1]!, n[2]! + 0.01];
          const size = Math.hypot(...way);
          const distance = 0.35 + 1.3 * Math.min(1, Math.abs(n[3]!));
          const goal = a.map((v, k) => v + (way[k]! / size) * distance) as [number, number, number];
          const pole = a.map((v, k) => v + [n[4]!, n[5]!, 1.3][k]! * 3) as [number, number, number];
          expect(twoBoneIk(root, middle, tip, goal, { pole })).toBeLessThan(2e-4);
          const [b, c] = [middle.readWorldPosition([0, 0, 0]), tip.readWorldPosition([0, 0, 0])];
          expect(Math.hypot(...b.map((v, k) => v - a[k]!))).toBeCloseTo(1, 4);
          expect(Math.hypot(...c.map((v, k) => v - b[k]!))).toBeCloseTo(0.7, 4);
          // The knee lies on the pole's side of the line to the goal.
          const side = (p: number[]): number[] => {
            const dot = p.reduce((sum, v, k) => sum + ((v - a[k]!) * way[k]!) / size, 0);
            return p.map((v, k) => v - a[k]! - (dot * way[k]!) / size);
          };
          const [knee, wanted] = [side(b), side(pole)];
          if (Math.hypot(...knee) > 1e-2 && Math.hypot(...wanted) > 1e-2)
            expect(knee.reduce((sum, v, k) => sum + v * wanted[k]!, 0)).toBeGreaterThan(0);
        },
      ),
      { numRuns: 200 },
    );
  });

  test('stretch towards what is too far, and say by how much they miss it', () => {
    const { root, middle, tip } = limb();
    const a = root.readWorldPosition([0, 0, 0]);
    expect(twoBoneIk(root, middle, tip, [a[0]! + 5, a[1]!, a[2]!])).toBeCloseTo(5 - 1.7, 3);
    expect(() => twoBoneIk(middle, root, tip, [0, 0, 0])).toThrow(/no tip of a limb/);
  });
});
