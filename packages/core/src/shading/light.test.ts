import { lobeSamples } from '../light/lobe.js';
import { compileWgsl, type Shader } from '../wgsl/compile.js';
import { runWgsl } from '../wgsl/run/run.js';
import { LIBRARY } from './library.js';

/** A module that calls functions of the library on numbers. */
function calls(text: string): Shader {
  return compileWgsl(text, { file: 'test.wgsl', sources: LIBRARY, features: [] });
}

const GREY = calls(`import { scattered, shine, Shading, distribution } from 'umber/lighting.wgsl';
import { Light } from 'umber/lights.wgsl';
fn shadingOfThis(base: f32, metallic: f32, roughness: f32, nv: f32) -> Shading {
  var s: Shading;
  let r = clamp(roughness, 0.045, 1);
  s.normal = vec3f(0, 0, 1);
  s.toCamera = vec3f(sqrt(1 - nv * nv), 0, nv);
  s.diffuse = vec3f(base * (1 - metallic));
  s.f0 = mix(vec3f(0.04), vec3f(base), metallic);
  s.roughness = r;
  s.a2 = r * r * r * r;
  s.nv = nv;
  return s;
}
fn furnace(base: f32, metallic: f32, roughness: f32, nv: f32) -> f32 {
  return scattered(shadingOfThis(base, metallic, roughness, nv), vec3f(1), vec3f(1)).x;
}
// Reflectance by way of two directions of the plane y = 0, given by cosine and side; times the cosine of the light.
fn answer(base: f32, metallic: f32, roughness: f32, nv: f32, nl: f32, side: f32) -> f32 {
  let l = Light(vec3f(side * sqrt(1 - nl * nl), 0, nl), vec3f(1), 0);
  return shine(shadingOfThis(base, metallic, roughness, nv), l).x;
}
fn density(nh: f32, roughness: f32) -> f32 {
  return distribution(nh, roughness * roughness * roughness * roughness);
}
fn turned(base: f32, metallic: f32, roughness: f32, nv: f32, nl: f32, turn: f32) -> f32 {
  let l = Light(vec3f(cos(turn) * sqrt(1 - nl * nl), sin(turn) * sqrt(1 - nl * nl), nl), vec3f(1), 0);
  return shine(shadingOfThis(base, metallic, roughness, nv), l).x;
}`);
const run = (shader: Shader, name: string, ...args: number[]): number =>
  runWgsl(shader, name, args) as number;

const ROUGHNESSES = [0, 0.1, 0.3, 0.5, 0.8, 1];
const COSINES = [0.02, 0.1, 0.4, 0.8, 1];

test('a white surface in uniform light gives it back, whatever its roughness and the angle', () => {
  for (const metallic of [0, 1])
    for (const roughness of ROUGHNESSES)
      for (const nv of COSINES)
        expect(Math.abs(run(GREY, 'furnace', 1, metallic, roughness, nv) - 1)).toBeLessThan(0.01);
});

test('no surface gives back more than it gets, and a darker one gives less', () => {
  for (const metallic of [0, 1])
    for (const roughness of ROUGHNESSES)
      for (const nv of COSINES) {
        const values = [0, 0.2, 0.6, 1].map((base) => run(GREY, 'furnace', base, metallic, roughness, nv));
        for (let i = 0; i < 4; i++) {
          expect(values[i]).toBeLessThan(1.01);
          if (i > 0) expect(values[i]!).toBeGreaterThan(values[i - 1]!);
        }
      }
});

test('a metal answers the same when light and camera change places', () => {
  for (const roughness of [0.2, 0.6, 1])
    for (const nv of [0.2, 0.7])
      for (const nl of [0.3, 0.9])
        for (const side of [1, -1]) {
          const there = run(GREY, 'answer', 0.8, 1, roughness, nv, nl, side) / nl;
          const back = run(GREY, 'answer', 0.8, 1, roughness, nl, nv, side) / nv;
          expect(Math.abs(back / there - 1)).toBeLessThan(1e-5);
        }
});

test('light from all directions, one by one, never comes to more than there was', () => {
  const steps = 24;
  for (const roughness of [0.3, 0.6, 1]) {
    for (const nv of [0.3, 0.9]) {
      let sum = 0;
      for (let i = 0; i < steps; i++) {
        const nl = (i + 0.5) / steps;
        for (let k = 0; k < steps; k++)
          sum += run(GREY, 'turned', 1, 1, roughness, nv, nl, ((k + 0.5) / steps) * 2 * Math.PI);
      }
      sum *= (2 * Math.PI) / (steps * steps);
      expect(sum).toBeLessThan(1.02);
      expect(sum).toBeGreaterThan(0.3); // what is lost between the facets of the roughest
    }
  }
});

test.each([0.2, 0.4, 0.7, 1])('the lobe of roughness %f gathers what brute force does', (roughness) => {
  // Radiance that changes smoothly with the direction, so that no blurring is needed.
  const radiance = (x: number, z: number): number => 1 + 0.5 * x + z * z * z;
  const samples = lobeSamples(roughness, 64, 256);
  let sum = 0;
  let weight = 0;
  for (let i = 0; i < samples.length; i += 4) {
    expect(Math.hypot(samples[i]!, samples[i + 1]!, samples[i + 2]!)).toBeCloseTo(1, 5);
    sum += radiance(samples[i]!, samples[i + 2]!) * samples[i + 2]!;
    weight += samples[i + 2]!;
  }
  // The integral of L D(nh) nh / (4 vh) nl over the directions l, with the camera straight above.
  let exact = 0;
  let norm = 0;
  const steps = 200;
  for (let i = 0; i < steps; i++) {
    // Dense where the lobe is.
    const theta = (Math.PI / 2) * ((i + 0.5) / steps) ** 2;
    const dTheta = (Math.PI / steps) * ((i + 0.5) / steps);
    const d = run(GREY, 'density', Math.cos(theta / 2), roughness);
    for (let k = 0; k < 16; k++) {
      const turn = ((k + 0.5) / 16) * 2 * Math.PI;
      const share = d * Math.cos(theta) * Math.sin(theta) * dTheta;
      exact += radiance(Math.sin(theta) * Math.cos(turn), Math.cos(theta)) * share;
      norm += share;
    }
  }
  expect(Math.abs(sum / weight - exact / norm)).toBeLessThan(0.02);
});

const TONE = calls(`import { aces, agx, neutral } from 'umber/tone.wgsl';
import { toneMap } from 'umber/color.wgsl';
fn ofAces(r: f32, g: f32, b: f32) -> vec3f { return aces(vec3f(r, g, b)); }
fn ofAgx(r: f32, g: f32, b: f32) -> vec3f { return agx(vec3f(r, g, b)); }
fn ofNeutral(r: f32, g: f32, b: f32) -> vec3f { return neutral(vec3f(r, g, b)); }
fn ofSoft(r: f32, g: f32, b: f32) -> vec3f { return toneMap(vec3f(r, g, b)); }`);

test.each(['ofAces', 'ofAgx', 'ofNeutral', 'ofSoft'])(
  '%s rises from black to white, and grey stays grey',
  (curve) => {
    const at = (r: number, g = r, b = r): number[] => runWgsl(TONE, curve, [r, g, b]) as number[];
    expect(at(0)[0]!).toBeLessThan(0.005);
    let before = -1;
    for (const light of [0.01, 0.05, 0.18, 0.5, 1, 3, 10, 60]) {
      const [r, g, b] = at(light) as [number, number, number];
      expect(r).toBeGreaterThanOrEqual(before);
      expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(0.005);
      expect(r).toBeLessThanOrEqual(1);
      before = r;
    }
    expect(before).toBeGreaterThan(0.95);
  },
);

test('the curves meet values that were published with them', () => {
  const at = (curve: string, r: number, g = r, b = r): number[] =>
    runWgsl(TONE, curve, [r, g, b]) as number[];
  // Neutral: below the bend a colour only loses what Fresnel adds, 0.04 of white.
  expect(at('ofNeutral', 0.5)[0]).toBeCloseTo(0.46, 5);
  expect(at('ofNeutral', 0.6, 0.3, 0.2).map((x) => Math.round(x * 1e4) / 1e4)).toEqual([0.56, 0.26, 0.16]);
  // AgX: middle grey stays middle grey within a hundredth.
  expect(Math.abs(at('ofAgx', 0.18)[0]! - 0.18)).toBeLessThan(0.035);
  // ACES: the fit gives 0.8 of white at 1 and about 0.1 at middle grey.
  expect(Math.abs(at('ofAces', 1)[0]! - 0.62)).toBeLessThan(0.05);
});

const LAYERED = compileWgsl(
  `import { fibreShare, fibreDistribution, filmMirror, brushedFacets, Layered } from 'umber/layered.wgsl';
import { Shading } from 'umber/lighting.wgsl';
fn share(cosine: f32, roughness: f32) -> f32 { return fibreShare(cosine, roughness); }
fn fibres(nh: f32, roughness: f32) -> f32 { return fibreDistribution(nh, roughness); }
fn film(cosine: f32, ior: f32, thickness: f32, f0: f32) -> vec3f { return filmMirror(cosine, ior, thickness, vec3f(f0)); }
// The projected area of brushed facets: its integral over all directions is 1.
fn brushed(nh: f32, turn: f32, along: f32, across: f32) -> f32 {
  var l: Layered;
  l.along = vec3f(1, 0, 0);
  l.across = vec3f(0, 1, 0);
  l.alphaAlong = along;
  l.alphaAcross = across;
  var s: Shading;
  s.normal = vec3f(0, 0, 1);
  s.toCamera = vec3f(0, 0, 1);
  s.nv = 1;
  let sine = sqrt(1 - nh * nh);
  let halfway = vec3f(cos(turn) * sine, sin(turn) * sine, nh);
  // Light and camera straight above, where the visibility is 1 / 4 for both sides alike.
  return brushedFacets(l, s, vec3f(0, 0, 1), halfway, 1) * 4 * nh;
}`,
  { file: 'test.wgsl', sources: LIBRARY, features: ['full', 'layers'] },
);

test('fibres scatter the share that the integral over all directions says', () => {
  for (const roughness of [0.3, 0.5, 0.8, 1]) {
    for (const nv of [0.2, 0.5, 0.9]) {
      let sum = 0;
      const steps = 28;
      for (let i = 0; i < steps; i++) {
        const nl = (i + 0.5) / steps;
        for (let k = 0; k < steps; k++) {
          const turn = ((k + 0.5) / steps) * Math.PI;
          const [sv, sl] = [Math.sqrt(1 - nv * nv), Math.sqrt(1 - nl * nl)];
          const h = [sl * Math.cos(turn) + sv, sl * Math.sin(turn), nl + nv] as const;
          const nh = h[2] / Math.hypot(...h);
          sum += (run(LAYERED, 'fibres', nh, roughness) / (4 * (nl + nv - nl * nv))) * nl;
        }
      }
      sum *= (2 * Math.PI) / (steps * steps);
      expect(Math.abs(run(LAYERED, 'share', nv, roughness) - sum)).toBeLessThan(0.035);
    }
  }
});

test('a film that is not there mirrors what lies below; one that is there colours it, and never more than all', () => {
  const film = (...args: number[]): number[] => runWgsl(LAYERED, 'film', args) as number[];
  for (const f0 of [0.04, 0.5, 0.9]) {
    const [r, g, b] = film(1, 1.3, 0, f0) as [number, number, number];
    for (const part of [r, g, b]) expect(Math.abs(part - f0)).toBeLessThan(0.03);
    for (const thickness of [150, 300, 450, 700])
      for (const cosine of [0.2, 0.6, 1])
        for (const part of film(cosine, 1.4, thickness, f0)) {
          expect(part).toBeGreaterThanOrEqual(0);
          expect(part).toBeLessThan(1.12);
        }
  }
  const hues = [250, 350, 450, 550].map((thickness) => film(0.9, 1.4, thickness, 0.04));
  const reddest = hues.map(([r, , b]) => r! / Math.max(b!, 1e-3));
  expect(Math.max(...reddest) / Math.min(...reddest)).toBeGreaterThan(2);
});

test('facets of brushed metal cover the surface once', () => {
  const brushed = (nh: number, turn: number): number =>
    runWgsl(LAYERED, 'brushed', [nh, turn, 0.6, 0.2]) as number;
  let sum = 0;
  const steps = 48;
  for (let i = 0; i < steps; i++)
    for (let k = 0; k < steps; k++) sum += brushed((i + 0.5) / steps, ((k + 0.5) / steps) * Math.PI * 2);
  expect(Math.abs((sum * 2 * Math.PI) / (steps * steps) - 1)).toBeLessThan(0.03);
});
