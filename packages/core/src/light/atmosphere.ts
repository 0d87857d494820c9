/**
 * The air of the Earth in three wavelengths (680, 550 and 440 nm, for linear red, green and blue): what scatters light in it
 * and what swallows it, with light that is scattered many times. After Hillaire, "A Scalable and Production Ready Sky and
 * Atmosphere Rendering Technique" (2020), with the coefficients of Bruneton, "A Qualitative and Quantitative Evaluation of 8
 * Clear Sky Models" (2016). Kilometres throughout.
 */

// By name of their own: looked up once, not for every pixel.
const { abs, cos, exp, floor, max, min, sqrt } = Math;

/** Radii of the ground and of the air's end. */
const GROUND = 6360;
const TOP = 6460;
const RAYLEIGH = [5.802e-3, 13.558e-3, 33.1e-3] as const;
const OZONE = [0.65e-3, 1.881e-3, 0.085e-3] as const;
const RAYLEIGH_HEIGHT = 8;
const HAZE_HEIGHT = 1.2;
/** Haze scatters blue light more than red: Angstrom's law with an exponent of 1.3. */
const HAZE = [0.76, 1, 1.337] as const;
/** Of the light that haze takes away, this much goes on in another direction. */
const HAZE_ALBEDO = 0.95;
/** How far haze scatters forward: the mean cosine. */
const HAZE_FORWARD = 0.78;
/** Light of the sun above the air, tens of thousands of lux. */
export const SUN = 12.8;

type Rgb = [number, number, number];

/** What the air does to light at a height. */
interface Air {
  rayleigh: Rgb;
  haze: Rgb;
  /** All that is taken away from a ray. */
  extinction: Rgb;
}

export class Atmosphere {
  private readonly hazeAtGround: Rgb;
  private readonly through = new Table(64, 32);
  private readonly many = new Table(20, 12);
  private readonly air: Air = { rayleigh: [0, 0, 0], haze: [0, 0, 0], extinction: [0, 0, 0] };
  private readonly albedo: Rgb;

  /**
   * @param turbidity how much more light all of the air takes away than clean air does, straight up: 1.7 to 10
   * @param albedo of the ground
   */
  constructor(turbidity: number, albedo: readonly [number, number, number]) {
    const clean = RAYLEIGH[1] * RAYLEIGH_HEIGHT;
    const perKilometre = ((turbidity - 1) * clean) / HAZE_HEIGHT;
    this.hazeAtGround = HAZE.map((part) => part * perKilometre) as Rgb;
    this.albedo = [...albedo];
    this.through.fill((u, v, out) => this.findThrough(u, v, out));
    this.many.fill((u, v, out) => this.findMany(u, v, out));
  }

  /**
   * How much of a ray's light is left after its way out of the air.
   *
   * @param height above the ground
   * @param up cosine of its angle to the zenith; below the horizon nothing is left
   */
  throughTo(height: number, up: number, out: Rgb): void {
    const r = GROUND + min(height, TOP - GROUND - 0.001);
    // As in Bruneton and Neyret, "Precomputed Atmospheric Scattering" (2008), by the length of the way.
    const horizon = sqrt(max(0, r * r - GROUND * GROUND));
    const far = sqrt(TOP * TOP - GROUND * GROUND);
    if (up < 0 && r * r * (up * up - 1) + GROUND * GROUND > 0) {
      out[0] = out[1] = out[2] = 0;
      return;
    }
    const way = distanceTo(r, up, TOP);
    const [least, most] = [TOP - r, horizon + far];
    this.through.read((way - least) / (most - least), horizon / far, out);
  }

  /**
   * The light that comes along a ray, of a sun of `SUN` above the air.
   *
   * @param height of the camera
   * @param up cosine of the ray's angle to the zenith
   * @param toSun cosine of its angle to the sun
   * @param sunUp cosine of the sun's angle to the zenith
   * @param ground radiance of the ground, where the ray meets it
   * @param left what is left of light from the ray's end, if wanted
   */
  along(
    height: number,
    up: number,
    toSun: number,
    sunUp: number,
    ground: readonly number[] | undefined,
    out: Rgb,
    left?: Rgb,
  ): void {
    const r = GROUND + height;
    const toGround = up < 0 ? distanceTo(r, up, GROUND) : -1;
    const end = toGround > 0 ? toGround : distanceTo(r, up, TOP);
    const steps = toGround > 0 ? 24 : 40;
    const { air, hazeAtGround } = this;
    const rayleighPhase = (3 / (16 * Math.PI)) * (1 + toSun * toSun);
    const hazePhase = forwardPhase(toSun);
    out[0] = out[1] = out[2] = 0;
    let [leftR, leftG, leftB] = [1, 1, 1];
    let before = 0;
    for (let i = 1; i <= steps; i++) {
      // Short steps first: the air is dense near the camera.
      const at = end * (i / steps) ** 2;
      const step = at - before;
      const t = before + step / 2;
      before = at;
      const here = sqrt(r * r + t * t + 2 * r * t * up);
      const h = max(0, here - GROUND);
      // The sun's angle to the zenith there, in the plane of the ray: the ray's own turn is small against the Earth.
      const sunHere = (r * sunUp + t * toSun) / here;
      this.airAt(h, hazeAtGround, air);
      this.throughTo(h, sunHere, sunlight);
      this.many.read(0.5 + 0.5 * sunHere, sqrt(h / (TOP - GROUND)), scattered);
      for (let c = 0; c < 3; c++) {
        const take = air.extinction[c]!; // three numbers, here and below
        const passes = exp(-take * step);
        const single = sunlight[c]! * (air.rayleigh[c]! * rayleighPhase + air.haze[c]! * hazePhase);
        const source = single + scattered[c]! * (air.rayleigh[c]! + air.haze[c]!);
        const leftHere = c === 0 ? leftR : c === 1 ? leftG : leftB;
        out[c]! += (leftHere * source * SUN * (1 - passes)) / max(take, 1e-9);
        if (c === 0) leftR *= passes;
        else if (c === 1) leftG *= passes;
        else leftB *= passes;
      }
    }
    if (ground && toGround > 0) {
      out[0] += ground[0]! * leftR;
      out[1] += ground[1]! * leftG;
      out[2] += ground[2]! * leftB;
    }
    if (left) [left[0], left[1], left[2]] = [leftR, leftG, leftB];
  }

  private airAt(h: number, haze: Rgb, out: Air): void {
    const thinR = exp(-h / RAYLEIGH_HEIGHT);
    const thinH = exp(-h / HAZE_HEIGHT);
    // A layer around 25 km.
    const ozone = max(0, 1 - abs(h - 25) / 15);
    for (let c = 0; c < 3; c++) {
      const r = RAYLEIGH[c]! * thinR; // three numbers, here and below
      const m = haze[c]! * thinH;
      out.rayleigh[c] = r;
      out.haze[c] = m * HAZE_ALBEDO;
      out.extinction[c] = r + m + OZONE[c]! * ozone;
    }
  }

  private findThrough(u: number, v: number, out: Rgb): void {
    const far = sqrt(TOP * TOP - GROUND * GROUND);
    const horizon = v * far;
    const r = sqrt(horizon * horizon + GROUND * GROUND);
    const least = TOP - r;
    const way = least + u * (horizon + far - least);
    const up = way === 0 ? 1 : max(-1, min(1, (far * far - horizon * horizon - way * way) / (2 * r * way)));
    const sum: Rgb = [0, 0, 0];
    const steps = 48;
    for (let i = 0; i < steps; i++) {
      const t = ((i + 0.5) / steps) * way;
      const here = sqrt(r * r + t * t + 2 * r * t * up);
      this.airAt(max(0, here - GROUND), this.hazeAtGround, this.air);
      for (let c = 0; c < 3; c++) sum[c]! += (this.air.extinction[c]! * way) / steps; // three numbers, here and below
    }
    for (let c = 0; c < 3; c++) out[c] = exp(-sum[c]!);
  }

  /** Light that was scattered twice and more, the same from all sides, for a sun of 1: Hillaire, section 5.5. */
  private findMany(u: number, v: number, out: Rgb): void {
    const sunUp = max(-1, min(1, 2 * u - 1));
    const r = GROUND + min(TOP - GROUND - 0.01, max(0.001, v * v * (TOP - GROUND)));
    const second: Rgb = [0, 0, 0];
    const share: Rgb = [0, 0, 0];
    const sunSide = sqrt(max(0, 1 - sunUp * sunUp));
    const around = 8;
    for (let i = 0; i < around; i++) {
      for (let k = 0; k < around; k++) {
        // Directions that are spread evenly over the sphere.
        const up = 1 - (2 * (i + 0.5)) / around;
        const angle = (2 * Math.PI * (k + 0.5)) / around;
        const toSun = up * sunUp + sqrt(1 - up * up) * cos(angle) * sunSide;
        this.gather(r, up, toSun, sunUp, second, share);
      }
    }
    const directions = around * around;
    for (let c = 0; c < 3; c++) out[c] = second[c]! / directions / (1 - min(0.98, share[c]! / directions)); // three numbers
  }

  /** Adds what comes along a ray of light that was scattered once or met the ground, and the share of a light from all sides. */
  private gather(r: number, up: number, toSun: number, sunUp: number, second: Rgb, share: Rgb): void {
    const toGround = up < 0 ? distanceTo(r, up, GROUND) : -1;
    const end = toGround > 0 ? toGround : distanceTo(r, up, TOP);
    const left: Rgb = [1, 1, 1];
    const steps = 20;
    const even = 1 / (4 * Math.PI);
    for (let i = 0; i < steps; i++) {
      const step = end / steps;
      const t = (i + 0.5) * step;
      const here = sqrt(r * r + t * t + 2 * r * t * up);
      const h = max(0, here - GROUND);
      this.airAt(h, this.hazeAtGround, this.air);
      this.throughTo(h, (r * sunUp + t * toSun) / here, sunlight);
      for (let c = 0; c < 3; c++) {
        const scatters = this.air.rayleigh[c]! + this.air.haze[c]!; // three numbers, here and below
        const take = this.air.extinction[c]!;
        const passes = exp(-take * step);
        const piece = (left[c]! * scatters * (1 - passes)) / max(take, 1e-9);
        second[c]! += piece * sunlight[c]! * even;
        share[c]! += piece;
        left[c]! *= passes;
      }
    }
    if (toGround <= 0) return;
    const sunHere = (r * sunUp + toGround * toSun) / GROUND;
    this.throughTo(0, sunHere, sunlight);
    for (let c = 0; c < 3; c++)
      second[c]! += (left[c]! * sunlight[c]! * max(0, sunHere) * this.albedo[c]!) / Math.PI;
  }
}

const sunlight: Rgb = [0, 0, 0];
const scattered: Rgb = [0, 0, 0];

/** Kilometres along a ray from a radius to a sphere: to its far side from within, to its near side from outside; negative: it misses. */
function distanceTo(r: number, up: number, radius: number): number {
  const root = r * r * (up * up - 1) + radius * radius;
  if (root < 0) return -1;
  const middle = -r * up;
  return radius > r ? middle + sqrt(root) : middle - sqrt(root);
}

/** Cornette and Shanks, "Physically reasonable analytic expression for the single-scattering phase function" (1992). */
function forwardPhase(cos: number): number {
  const g = HAZE_FORWARD;
  const below = (2 + g * g) * (1 + g * g - 2 * g * cos) ** 1.5;
  return ((3 / (8 * Math.PI)) * (1 - g * g) * (1 + cos * cos)) / below;
}

/** Three numbers by two, each 0..1, read between what was found. */
class Table {
  private readonly values: Float32Array;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.values = new Float32Array(width * height * 3);
  }

  fill(find: (u: number, v: number, out: Rgb) => void): void {
    const out: Rgb = [0, 0, 0];
    for (let j = 0; j < this.height; j++) {
      for (let i = 0; i < this.width; i++) {
        find(i / (this.width - 1), j / (this.height - 1), out);
        this.values.set(out, (j * this.width + i) * 3);
      }
    }
  }

  read(u: number, v: number, out: Rgb): void {
    const { height, values, width } = this;
    const x = max(0, min(1, u)) * (width - 1);
    const y = max(0, min(1, v)) * (height - 1);
    const i = min(width - 2, floor(x));
    const j = min(height - 2, floor(y));
    const s = x - i;
    const t = y - j;
    const a = (j * width + i) * 3;
    const b = a + width * 3;
    for (let c = 0; c < 3; c++)
      out[c] =
        (values[a + c]! * (1 - s) + values[a + 3 + c]! * s) * (1 - t) + // four of the table
        (values[b + c]! * (1 - s) + values[b + 3 + c]! * s) * t;
  }
}
