import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import {
  type CameraView,
  createCameraView,
  facing,
  Scene,
  sliceEnds,
  updateCameraView,
  writeCascadeView,
  writeLightView,
} from '../engine.js';

type Vec3 = [number, number, number];

/** Clip space over w. */
function project({ viewProjection: m }: CameraView, p: readonly number[]): Vec3 {
  const row = (k: number): number => m[k]! * p[0]! + m[4 + k]! * p[1]! + m[8 + k]! * p[2]! + m[12 + k]!;
  return [row(0) / row(3), row(1) / row(3), row(2) / row(3)];
}

function cameraAt(translation: Vec3, toward: Vec3, aspect = 1.6): CameraView {
  const scene = new Scene();
  const node = scene.createNode({
    translation,
    rotation: facing(toward),
    camera: { type: 'perspective', yfov: 0.9, znear: 0.1 },
  });
  const view = createCameraView();
  updateCameraView(view, node, aspect);
  return view;
}

/** Corners of what an camera sees at a distance. */
function corners({ view, projection, position, forward }: CameraView, distance: number): Vec3[] {
  return [
    [-1, -1],
    [1, -1],
    [-1, 1],
    [1, 1],
  ].map(([x, y]) =>
    [0, 1, 2].map(
      (k) =>
        position[k]! +
        forward[k]! * distance +
        (view[k * 4]! * x! * distance) / projection[0]! +
        (view[k * 4 + 1]! * y! * distance) / projection[5]!,
    ),
  ) as Vec3[];
}

const unit = (v: Vec3): Vec3 => {
  const n = Math.hypot(...v);
  return v.map((x) => x / n) as Vec3;
};
const way = fc
  .tuple(
    fc.double({ min: -1, max: 1, noNaN: true }),
    fc.double({ min: -1, max: 1, noNaN: true }),
    fc.double({ min: -1, max: 1, noNaN: true }),
  )
  .filter((v) => Math.hypot(...v) > 0.1)
  .map((v) => unit(v as Vec3));

test('a cascade holds all of its slice, from whatever side light comes', () => {
  holds(
    fc.property(
      way,
      way,
      fc.double({ min: 0.1, max: 20, noNaN: true }),
      fc.double({ min: 1.1, max: 8, noNaN: true }),
      (light, toward, from, ratio) => {
        const camera = cameraAt([3, 2, -5], toward);
        const cascade = createCameraView();
        const texel = writeCascadeView(cascade, camera, light, { from, to: from * ratio }, 1024);
        expect(texel).toBeGreaterThan(0);
        for (const distance of [from, from * ratio])
          for (const corner of corners(camera, distance))
            for (const part of project(cascade, corner).slice(0, 2))
              expect(Math.abs(part)).toBeLessThanOrEqual(1);
        for (const distance of [from, from * ratio])
          for (const corner of corners(camera, distance)) {
            const depth = project(cascade, corner)[2];
            expect(depth).toBeGreaterThan(0);
            expect(depth).toBeLessThanOrEqual(1);
          }
      },
    ),
    { numRuns: 150 },
  );
});

test('a cascade moves by whole texels, so edges of shadows stand still', () => {
  const size = 512;
  const light = unit([0.3, -0.8, 0.5]);
  const point = [1.234, 0.5, -4.321];
  const places = Array.from({ length: 40 }, (_, i) => {
    const view = createCameraView();
    writeCascadeView(
      view,
      cameraAt([i * 0.037, 1 + i * 0.011, i * -0.029], unit([0.1 * Math.sin(i), -0.2, -1])),
      light,
      { from: 1, to: 9 },
      size,
    );
    const [x, y] = project(view, point);
    return [((x * 0.5 + 0.5) * size) % 1, ((y * 0.5 + 0.5) * size) % 1];
  });
  for (const [x, y] of places) {
    const apart = (a: number, b: number): number => Math.min(Math.abs(a - b), 1 - Math.abs(a - b));
    expect(apart(x!, places[0]![0]!)).toBeLessThan(0.02);
    expect(apart(y!, places[0]![1]!)).toBeLessThan(0.02);
  }
});

test('what stands between the light and a cascade is not left out of its list', () => {
  const view = createCameraView();
  writeCascadeView(view, cameraAt([0, 0, 0], [0, 0, -1]), [0, -1, 0], { from: 1, to: 5 }, 256);
  // The plane on the light's side lets everything pass.
  expect([...view.planes.slice(16, 20)]).toEqual([0, 0, 0, 1]);
});

test('a spot light sees what its angle says, near things nearer', () => {
  const view = createCameraView();
  writeLightView(view, [0, 5, 0], [0, -1, 0], Math.PI / 4, 0.1);
  expect(Math.abs(project(view, [4.9, 0, 0])[0]) + Math.abs(project(view, [4.9, 0, 0])[1])).toBeLessThan(1);
  const [x, y] = project(view, [5.1, 0, 0]);
  expect(Math.max(Math.abs(x), Math.abs(y))).toBeGreaterThan(1);
  expect(project(view, [0, 4, 0])[2]).toBeGreaterThan(project(view, [0, 0, 0])[2]);
  expect(project(view, [0, 4.9, 0])[2]).toBeCloseTo(1, 5);
  for (const forward of [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
    [0, 0, -1],
  ] as Vec3[]) {
    writeLightView(view, [1, 2, 3], forward, 0.5, 0.1);
    const [a, b] = project(
      view,
      forward.map((part, k) => [1, 2, 3][k]! + part * 7),
    );
    expect(Math.hypot(a, b)).toBeLessThan(1e-5);
  }
});

test('slices end in order, the last at the far end, near ones shorter', () => {
  const ends = sliceEnds(0.5, 60, 4);
  expect(ends[3]).toBeCloseTo(60, 9);
  const lengths = ends.map((end, i) => end - (ends[i - 1] ?? 0.5));
  for (let i = 1; i < 4; i++) expect(lengths[i]!).toBeGreaterThan(lengths[i - 1]!);
});
