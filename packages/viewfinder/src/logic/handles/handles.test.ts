import { axisAngle, Scene } from '@umber-lens/core/engine';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import {
  alongAxis,
  angleAbout,
  draggedAlong,
  draggedAround,
  draggedOver,
  type Hold,
  onPlane,
  snapped,
} from './drag.js';
import { Eye } from './eye.js';
import { gripAt, gripsOf } from './grips.js';
import { frameOf, HeldNodes } from './move-nodes.js';
import { add, cross, dot, length, minus, times, unit, type Vec } from './vectors.js';

const vector = fc.tuple(
  ...[0, 1, 2].map(() => fc.double({ min: -10, max: 10, noNaN: true })),
) as unknown as fc.Arbitrary<Vec>;
const direction = vector.filter((v) => length(v) > 0.5).map(unit);

test('the place on an axis is the one that is nearest to the line of sight, by search', () => {
  holds(
    fc.property(vector, direction, vector, direction, (origin, ray, from, axis) => {
      fc.pre(Math.abs(dot(ray, axis)) < 0.98);
      const found = alongAxis({ origin, direction: ray }, from, axis)!; // not along it
      // By a second method: the distance of a place on the axis from the line, made least by ternary search.
      const away = (t: number): number => length(cross(minus(add(from, axis, t), origin), ray));
      let [low, high] = [found - 100, found + 90];
      for (let i = 0; i < 200; i++) {
        const [a, b] = [low + (high - low) / 3, high - (high - low) / 3];
        if (away(a) < away(b)) high = b;
        else low = a;
      }
      expect(found).toBeCloseTo((low + high) / 2, 3);
    }),
  );
});

test('the place on a plane lies on both, and angles about an axis are those of the turn', () => {
  holds(
    fc.property(vector, direction, vector, direction, (origin, ray, at, normal) => {
      const found = onPlane({ origin, direction: ray }, at, normal);
      if (!found) return;
      expect(dot(minus(found, at), normal)).toBeCloseTo(0, 6);
      expect(length(cross(minus(found, origin), ray))).toBeCloseTo(0, 5);
    }),
  );
  expect(angleAbout([0, 1, 0], [1, 0, 0], [0, 0, -1])).toBeCloseTo(Math.PI / 2);
  expect(angleAbout([0, 0, 1], [1, 5, 3], [1, 5, -3])).toBeCloseTo(0);
  expect(snapped(0.37, 0.25)).toBe(0.25);
  expect(snapped(0.37, 0)).toBe(0.37);
});

/** A camera at 0, 2, 10 that looks along -Z, at 800 x 600. */
function eyeAt(place: [number, number, number] = [0, 2, 10], turn?: readonly number[]): Eye {
  const scene = new Scene();
  const camera = scene.createNode({
    translation: place,
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  if (turn) camera.setRotation(...(turn as [number, number, number, number]));
  const eye = new Eye();
  eye.look(camera, 800, 600);
  return eye;
}

const hold = (eye: Eye, x: number, y: number): Hold => ({ x, y, sight: eye.ray(x, y) });

test('places on the screen and lines of sight are each other the other way round', () => {
  const eye = eyeAt([1, 3, 8], axisAngle([1, 0, 0], -0.3));
  for (const place of [
    [0, 0, 0],
    [2, 1, -4],
    [-3, 2, 1],
  ] as Vec[]) {
    const { x, y } = eye.project(place);
    const { direction, origin } = eye.ray(x, y);
    expect(length(cross(minus(place, origin), unit(direction)))).toBeCloseTo(0, 4);
  }
  // What is 1 px wide there: two places as far apart are a pixel apart on the screen.
  const at: Vec = [0, 0, 0];
  const moved = eye.project(add(at, eye.right, eye.pixelAt(at)));
  expect(moved.x - eye.project(at).x).toBeCloseTo(1, 3);
});

test('what is dragged stays under the hand', () => {
  const eye = eyeAt();
  const at: Vec = [1, 1, 0];
  const frame = { right: eye.right, up: eye.up, pixel: eye.pixelAt(at) };
  const { x, y } = eye.project(at);
  const start = hold(eye, x, y);
  const along = draggedAlong([1, 0, 0], at, start, hold(eye, x + 100, y), frame);
  expect(eye.project(add(at, [1, 0, 0], along)).x).toBeCloseTo(x + 100, 2);
  const over = draggedOver([0, 0, 1], at, start, hold(eye, x + 40, y - 70), frame);
  const there = eye.project(add(at, over));
  expect(there.x).toBeCloseTo(x + 40, 2);
  expect(there.y).toBeCloseTo(y - 70, 2);
  // A quarter of a ring about Z, from its right to its top.
  const rim = eye.project(add(at, [1, 0, 0]));
  const top = eye.project(add(at, [0, 1, 0]));
  const turn = draggedAround([0, 0, 1], at, 1, hold(eye, rim.x, rim.y), hold(eye, top.x, top.y), frame);
  expect(turn).toBeCloseTo(Math.PI / 2, 3);
});

test('an axis that points at the eye is still dragged, by the way on the screen', () => {
  const eye = eyeAt([0, 0, 10]);
  const at: Vec = [0, 0, 0];
  const frame = { right: eye.right, up: eye.up, pixel: eye.pixelAt(at) };
  const start = hold(eye, 400, 300);
  const by = draggedAlong([0, 0, 1], at, start, hold(eye, 400, 250), frame);
  expect(by).toBeCloseTo(50 * frame.pixel, 6);
  // A ring that is seen edge-on turns by its radius a radian.
  const turn = draggedAround([0, 1, 0], at, 1, start, hold(eye, 400 + 1 / frame.pixel, 300), frame);
  expect(Math.abs(turn)).toBeCloseTo(1, 3);
  expect(Number.isFinite(length(draggedOver([0, 1, 0], at, start, hold(eye, 420, 320), frame)))).toBe(true);
});

test('handles are as large on the screen wherever they stand, and each part is hit where it is drawn', () => {
  for (const place of [
    [0, 2, 0],
    [2, 1, -30],
    [0.5, 2, 8],
  ] as Vec[]) {
    const eye = eyeAt();
    const frame = {
      at: place,
      axes: [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ] as const,
    };
    const grips = gripsOf('move', frame, eye);
    const x = grips.find(({ name }) => name === 'x')!;
    const middle = eye.project(place);
    expect(Math.hypot(x.tip!.x - middle.x, x.tip!.y - middle.y)).toBeCloseTo(86, -1);
    expect(gripAt(grips, x.tip!.x - 12, x.tip!.y)).toBe('x');
    expect(gripAt(grips, middle.x, middle.y)).toBe('view');
    expect(gripAt(grips, middle.x + 300, middle.y)).toBeUndefined();
  }
});

test('several nodes below turned and stretched parents move, turn and grow about their middle as the world sees it', () => {
  const scene = new Scene();
  const top = scene.createNode({
    translation: [3, 0, 1],
    rotation: axisAngle([0, 1, 0], 0.7),
    scale: [2, 2, 2],
  });
  const a = scene.createNode({ parent: top, translation: [1, 0, 0], rotation: axisAngle([1, 0, 0], 0.4) });
  const b = scene.createNode({ translation: [-1, 2, 0] });
  const places = (): Vec[] => [a, b].map((node) => [...node.readWorldPosition([0, 0, 0])] as unknown as Vec);
  const before = places();
  const frame = frameOf([a, b], 'world', 'middle')!;
  const middle = times(add(before[0]!, before[1]!), 0.5);
  frame.at.forEach((part, k) => expect(part).toBeCloseTo(middle[k]!, 5));
  const close = (found: Vec, wanted: Vec): void =>
    found.forEach((part, k) => expect(part).toBeCloseTo(wanted[k]!, 4));

  let held = new HeldNodes([a, b], frame, 'middle');
  held.move([0.5, -1, 2]);
  places().forEach((place, i) => close(place, add(before[i]!, [0.5, -1, 2])));
  held.letGo();
  places().forEach((place, i) => close(place, before[i]!));

  // A quarter about Y, worked out by hand: x is what z was, z is less what x was.
  held = new HeldNodes([a, b], frame, 'middle');
  held.rotate([0, 1, 0], Math.PI / 2);
  places().forEach((place, i) => {
    const [x, y, z] = minus(before[i]!, middle);
    close(place, add(middle, [z, y, -x]));
  });
  // And back again: as it was, with its turn.
  new HeldNodes([a, b], frame, 'middle').rotate([0, 1, 0], -Math.PI / 2);
  a.readRotation([0, 0, 0, 0]).forEach((part, k) =>
    expect(part).toBeCloseTo(axisAngle([1, 0, 0], 0.4)[k]!, 5),
  );

  held = new HeldNodes([a, b], frame, 'middle');
  held.scale([2, 2, 2]);
  places().forEach((place, i) => close(place, add(middle, times(minus(before[i]!, middle), 2))));
  expect([...a.readScale([0, 0, 0])]).toEqual([2, 2, 2]);
  const refs = held
    .edits((node) => ({ node, address: '' }))
    .map((edit) => edit.type === 'set' && edit.path[0]);
  expect(refs).toEqual(['translation', 'scale', 'translation', 'scale']);
});
