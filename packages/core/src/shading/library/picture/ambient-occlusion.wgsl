// How much of what is around a surface is hidden by what the picture shows: in slices through the eye's ray, from horizon to horizon
// (Bavoil et al., "Image-space horizon-based ambient occlusion", 2008; Jimenez et al., "Practical Realtime Strategies for Accurate
// Indirect Occlusion", 2016). Group 1 holds what surfaces are: normals and depths.
import { frame } from './frame.wgsl';
import { air } from './air.wgsl';
import { pixelNoise } from './pixel-noise.wgsl';
import { isOneOf } from './seen-things.wgsl';
import { depthRange, metresAt, placeAt } from './ray.wgsl';

@group(1) @binding(0) var surfaceNormals: texture_2d<f32>;
@group(1) @binding(1) var surfaceDepths: texture_depth_2d;
@group(1) @binding(2) var surfaceThings: texture_2d<f32>;

const PI = 3.14159265358979;
const SLICES = 3;
const STEPS = 8;
/// Pixels beyond which nothing is looked at.
const REACH = 256.0;

@vertex fn occlusionVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

fn depthAt(pixel: vec2i) -> f32 {
  return textureLoad(surfaceDepths, clamp(pixel, vec2i(), vec2i(frame.size) - 1), 0);
}

/// Share of a slice that is open, weighted by the cosine: the integral of cos(t - n) |sin t| from one horizon to the other.
fn openIn(h: f32, n: f32) -> f32 {
  return (cos(n) + 2 * h * sin(n) - cos(2 * h - n)) / 4;
}

/// The same with cos t and sin t: along the eye's ray, and along the slice.
fn towardsEye(h: f32, n: f32) -> f32 {
  return -(cos(3 * h - n) / 3 + cos(h + n)) / 4;
}

fn aside(h: f32, n: f32) -> f32 {
  return sin(h - n) / 2 - (sin(3 * h - n) / 3 + sin(h + n)) / 4;
}

@fragment fn occlusionFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let depth = depthAt(pixel);
  if depth == 0 { return vec4f(); }
  let range = depthRange();
  let away = metresAt(range, depth);
  let place = placeAt(at.xy, away);
  let normal = normalize(textureLoad(surfaceNormals, pixel, 0).xyz);
  var toEye = normalize(frame.cameraPosition - place);
  if frame.isParallel > 0.5 { toEye = -frame.forward; }
  let radius = air.occlusion.x;
  let perMetre = frame.size.y / (2 * length(frame.up) * select(away, 1, frame.isParallel > 0.5));
  let reach = min(radius * perMetre, REACH);
  if reach < 1.5 || !isOneOf(surfaceThings, pixel, air.occlusionSees) { return vec4f(normal, away); }
  let right = normalize(frame.right);
  let up = normalize(frame.up);
  // Noise turns the slices of each pixel, and moves their steps.
  let noise = pixelNoise(at.xy + frame.whole.xy);
  let shift = fract(noise * 7.31 + 0.37);
  var open = 0.0;
  var bent = vec3f();
  for (var k = 0; k < SLICES; k++) {
    let angle = (f32(k) + noise) * PI / f32(SLICES);
    let way = vec2f(cos(angle), -sin(angle));
    let across = right * way.x - up * way.y;
    let plane = across - toEye * dot(across, toEye);
    let axis = normalize(cross(plane, toEye));
    let within = normal - axis * dot(normal, axis);
    let length_ = max(length(within), 1e-4);
    let n = sign(dot(plane, within)) * acos(clamp(dot(within, toEye) / length_, -1, 1));
    var horizons = vec2f(cos(n - PI / 2), cos(n + PI / 2));
    let lowest = horizons;
    for (var step = 0; step < STEPS; step++) {
      let t = (f32(step) + shift) / f32(STEPS);
      let offset = vec2i(round(way * max(t * t * reach, 1.0 + f32(step))));
      for (var side = 0; side < 2; side++) {
        let there = pixel + select(-offset, offset, side == 1);
        let behind = depthAt(there);
        // Nothing is infinitely far, which is no number to compute with.
        let delta = placeAt(vec2f(there) + 0.5, metresAt(range, max(behind, 1e-6))) - place;
        let far = length(delta);
        // What is farther than the radius hides nothing, and towards it less and less.
        let counts = saturate(2 - 2 * far / radius) * select(1.0, 0.0, behind == 0);
        let h = mix(lowest[side], dot(delta, toEye) / max(far, 1e-6), counts);
        horizons[side] = max(horizons[side], h);
      }
    }
    let h0 = n + max(-acos(clamp(horizons.x, -1, 1)) - n, -PI / 2);
    let h1 = n + min(acos(clamp(horizons.y, -1, 1)) - n, PI / 2);
    open += length_ * (openIn(h0, n) + openIn(h1, n));
    let up_ = towardsEye(h0, n) + towardsEye(h1, n) - 2 * towardsEye(0, n);
    let side = aside(h0, n) + aside(h1, n) - 2 * aside(0, n);
    bent += length_ * (toEye * up_ + normalize(plane) * side);
  }
  let share = mix(1, saturate(open / f32(SLICES)), air.occlusion.y);
  return vec4f(normalize(bent + normal * 1e-4) * max(share, 2e-3), away);
}
