/**
 * Fits linearly transformed cosines to the GGX lobes of a table of roughness and angle (Heitz, Dupuy, Hill and
 * Neubelt, "Real-Time Polygonal-Light Shading with Linearly Transformed Cosines", 2016) and writes the table that
 * area lights are shaded with: `tsx scripts/fit-area-lights.ts`. It takes three minutes, and gives the same every time.
 */
import { writeFileSync } from 'node:fs';

const SIDE = 32;
const SAMPLES = 24;
const FILE = 'packages/lens/src/features/area-lights/area-table.ts';

type Vec3 = [number, number, number];

const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const scaled = (a: Vec3, k: number): Vec3 => [a[0] * k, a[1] * k, a[2] * k];
const unit = (a: Vec3): Vec3 => scaled(a, 1 / Math.hypot(...a));

/** The lobe seen from a direction: GGX with height-correlated Smith, as lighting.wgsl has it, without Fresnel. */
class Lobe {
  private readonly a2: number;

  constructor(
    alpha: number,
    readonly view: Vec3,
  ) {
    this.a2 = alpha * alpha;
  }

  /** The half vector of a sample and the direction that it mirrors the view to. */
  sample(u: number, v: number): { light: Vec3; halfway: Vec3 } {
    const cosine = Math.sqrt((1 - u) / (1 + (this.a2 - 1) * u));
    const sine = Math.sqrt(Math.max(0, 1 - cosine * cosine));
    const halfway: Vec3 = [sine * Math.cos(2 * Math.PI * v), sine * Math.sin(2 * Math.PI * v), cosine];
    const vh = dot(this.view, halfway);
    return { light: unit(halfway.map((h, k) => 2 * vh * h - this.view[k]!) as Vec3), halfway };
  }

  /** Answer times cosine, and the probability of `sample`. */
  at(light: Vec3): { value: number; density: number } {
    const { view, a2 } = this;
    if (light[2] <= 0) return { value: 0, density: 0 };
    const halfway = unit(view.map((v, k) => v + light[k]!) as Vec3);
    const nh = halfway[2];
    const f = nh * nh * (a2 - 1) + 1;
    const distribution = a2 / (Math.PI * f * f);
    const nv = Math.max(view[2], 1e-4);
    const nl = light[2];
    const visibility =
      0.5 / Math.max(nl * Math.sqrt(nv * nv * (1 - a2) + a2) + nv * Math.sqrt(nl * nl * (1 - a2) + a2), 1e-9);
    return {
      value: distribution * visibility * nl,
      density: (distribution * nh) / (4 * Math.abs(dot(view, halfway))),
    };
  }
}

/** A cosine whose directions went through a matrix: stretched by `x` and `y`, sheared by `shear`, turned onto an axis. */
class Cosine {
  constructor(
    readonly axes: [Vec3, Vec3, Vec3],
    readonly x: number,
    readonly y: number,
    readonly shear: number,
  ) {}

  /** Columns of the matrix. */
  get matrix(): [Vec3, Vec3, Vec3] {
    const [a, b, c] = this.axes;
    const column = (i: number, j: number, k: number): Vec3 =>
      [0, 1, 2].map((n) => a[n]! * i + b[n]! * j + c[n]! * k) as Vec3;
    return [column(this.x, 0, 0), column(0, this.y, 0), column(this.shear, 0, 1)];
  }

  sample(u: number, v: number): Vec3 {
    const cosine = Math.sqrt(u);
    const sine = Math.sqrt(1 - u);
    const l: Vec3 = [sine * Math.cos(2 * Math.PI * v), sine * Math.sin(2 * Math.PI * v), cosine];
    const m = this.matrix;
    return unit([0, 1, 2].map((n) => m[0][n]! * l[0] + m[1][n]! * l[1] + m[2][n]! * l[2]) as Vec3);
  }

  at(light: Vec3): number {
    const [a, b, c] = this.axes;
    // Back through the matrix: the axes are perpendicular, the rest is a triangle.
    const z = dot(light, c);
    const back: Vec3 = [(dot(light, a) - this.shear * z) / this.x, dot(light, b) / this.y, z];
    const length = Math.hypot(...back);
    const determinant = 1 / Math.abs(this.x * this.y);
    return (Math.max(0, back[2] / length) / Math.PI) * (determinant / length ** 3);
  }
}

const points = Array.from({ length: SAMPLES * SAMPLES }, (_, i) => [
  ((i % SAMPLES) + 0.5) / SAMPLES,
  (Math.floor(i / SAMPLES) + 0.5) / SAMPLES,
]) as [number, number][];

/** What the lobe sends back of uniform light, without Fresnel and weighted by Schlick's; and where to, on the whole. */
function moments(lobe: Lobe): { norm: number; fresnel: number; mean: Vec3 } {
  let [norm, fresnel] = [0, 0];
  const mean: Vec3 = [0, 0, 0];
  for (const [u, v] of points) {
    const { light, halfway } = lobe.sample(u, v);
    const { value, density } = lobe.at(light);
    if (density === 0) continue;
    const weight = value / density / points.length;
    norm += weight;
    fresnel += weight * (1 - Math.max(0, dot(lobe.view, halfway))) ** 5;
    for (let k = 0; k < 3; k++) mean[k]! += weight * light[k]!;
  }
  mean[1] = 0;
  return { norm, fresnel, mean: unit(mean) };
}

/** Cubed difference of the two shapes, sampled by both. */
function difference(lobe: Lobe, norm: number, cosine: Cosine): number {
  let sum = 0;
  const add = (light: Vec3): void => {
    const { value, density } = lobe.at(light);
    const own = cosine.at(light);
    const all = density + own;
    if (all > 0) sum += Math.abs(value / norm - own) ** 3 / all;
  };
  for (const [u, v] of points) {
    add(lobe.sample(u, v).light);
    add(cosine.sample(u, v));
  }
  return sum / points.length;
}

/** Nelder and Mead's search for the lowest value. */
function lowest(f: (p: number[]) => number, start: number[], step: number): number[] {
  const n = start.length;
  let simplex = [start, ...start.map((_, i) => start.map((x, k) => (k === i ? x + step : x)))].map((p) => ({
    p,
    value: f(p),
  }));
  for (let round = 0; round < 80; round++) {
    simplex.sort((a, b) => a.value - b.value);
    const [best, worst] = [simplex[0]!, simplex[n]!];
    if (Math.abs(best.value - worst.value) <= 1e-5 * Math.abs(best.value)) break;
    const middle = start.map((_, k) => simplex.slice(0, n).reduce((sum, { p }) => sum + p[k]!, 0) / n);
    const along = (t: number): { p: number[]; value: number } => {
      const p = middle.map((m, k) => m + t * (worst.p[k]! - m));
      return { p, value: f(p) };
    };
    const mirrored = along(-1);
    if (mirrored.value < best.value) {
      const farther = along(-2);
      simplex[n] = farther.value < mirrored.value ? farther : mirrored;
    } else if (mirrored.value < simplex[n - 1]!.value) simplex[n] = mirrored;
    else {
      const nearer = along(mirrored.value < worst.value ? -0.5 : 0.5);
      if (nearer.value < worst.value) simplex[n] = nearer;
      else
        simplex = simplex.map(({ p }) => {
          const q = p.map((x, k) => best.p[k]! + 0.5 * (x - best.p[k]!));
          return { p: q, value: f(q) };
        });
    }
  }
  simplex.sort((a, b) => a.value - b.value);
  return simplex[0]!.p;
}

/** The inverse of a matrix without y in its first and third row and column but the middle, by its middle element. */
function inverse([a, b, c]: [Vec3, Vec3, Vec3]): [number, number, number, number] {
  const determinant = a[0] * c[2] - c[0] * a[2];
  const k = b[1] / determinant;
  // Columns x and z of the inverse: (x, z) of each.
  return [c[2] * k, -a[2] * k, -c[0] * k, a[0] * k];
}

const table = new Float32Array(SIDE * SIDE * 8);
let last = [1, 1, 0];
for (let r = SIDE - 1; r >= 0; r--) {
  const rowStart: number[] = [...last];
  for (let t = 0; t < SIDE; t++) {
    const roughness = Math.max(r / (SIDE - 1), 0.045);
    // Steps of the square root: the lobe changes most where one looks along the surface.
    const cosine = Math.max(1 - (t / (SIDE - 1)) ** 2, 0.003);
    const lobe = new Lobe(roughness * roughness, [Math.sqrt(1 - cosine * cosine), 0, cosine]);
    const { norm, fresnel, mean } = moments(lobe);
    const isStraight = t === 0;
    const axes: [Vec3, Vec3, Vec3] = isStraight
      ? [
          [1, 0, 0],
          [0, 1, 0],
          [0, 0, 1],
        ]
      : [[mean[2], 0, -mean[0]], [0, 1, 0], mean];
    const made = (p: number[]): Cosine =>
      new Cosine(
        axes,
        Math.max(p[0]!, 1e-7),
        Math.max(isStraight ? p[0]! : p[1]!, 1e-7),
        isStraight ? 0 : p[2]!,
      );
    const start = isStraight ? rowStart : last;
    const found = lowest((p) => difference(lobe, norm, made(p)), isStraight ? [start[0]!] : start, 0.05);
    const fit = made(found);
    last = [fit.x, fit.y, fit.shear];
    if (isStraight) rowStart.splice(0, 3, ...last);
    const at = (t * SIDE + r) * 4;
    table.set(inverse(fit.matrix), at);
    table.set([norm, fresnel, 0, 0], SIDE * SIDE * 4 + at);
  }
  last = rowStart;
  console.error(`roughness ${r + 1} of ${SIDE}`);
}

/** Six digits are more than half floats hold. */
const text = (from: number, count: number, step: number): string =>
  Array.from({ length: SIDE * SIDE }, (_, i) =>
    Array.from(table.subarray(from + i * 4, from + i * 4 + count), (x) =>
      String(Number(x.toPrecision(step))),
    ).join(','),
  ).join(',');
writeFileSync(
  FILE,
  `/** Made by scripts/fit-area-lights.ts: do not edit. */

/** Columns and rows of the tables: perceptual roughness 0 to 1, and the square root of 1 less the cosine to the camera. */
export const AREA_TABLE_SIDE = ${SIDE};

/** Of the inverse matrix, whose middle is 1: x and z of its first column, x and z of its third. */
// prettier-ignore
export const AREA_MATRICES = [${text(0, 4, 5)}];

/** What the lobe sends back of uniform light: all, and the share that Schlick's term has. */
// prettier-ignore
export const AREA_SHARES = [${text(SIDE * SIDE * 4, 2, 4)}];
`,
);
