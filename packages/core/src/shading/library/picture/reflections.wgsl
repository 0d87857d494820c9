// Surfaces mirror what the picture shows: rays through it, pixel by pixel, until they are behind what is seen (McGuire and Mara,
// "Efficient GPU Screen-Space Ray Tracing", 2014). What they find takes the place of the light from all around that is in the picture
// already. Group 1 holds the picture, and what surfaces are.
import { frame } from './frame.wgsl';
import { air } from './air.wgsl';
import { Fragment } from './surface.wgsl';
import { scattering, Shading } from './lighting.wgsl';
import { radianceAround } from './layered.wgsl';
import { mirrorOpenness, opennessAt, shownPixel, useAmbientOcclusion } from './openness.wgsl';
import { throughFog } from './fog.wgsl';
import { exposureNow } from './tone.wgsl';
import { lightOf, shownOf } from './expose.wgsl';
import { depthRange, metresAt, placeAt } from './ray.wgsl';
import { pixelNoise } from './pixel-noise.wgsl';
import { isOneOf } from './seen-things.wgsl';

@group(1) @binding(0) var seen: texture_2d<f32>;
@group(1) @binding(1) var surfaceNormals: texture_2d<f32>;
@group(1) @binding(2) var surfaceMirrors: texture_2d<f32>;
@group(1) @binding(3) var surfaceDepths: texture_depth_2d;
@group(1) @binding(4) var surfaceThings: texture_2d<f32>;

const STEPS = 64;
const REFINED = 6;
const TAPS = 9;

@vertex fn reflectionsVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

/// Pixels from the upper left, and depth as it is stored.
fn onScreen(clip: vec4f) -> vec3f {
  let at = clip.xyz / clip.w;
  return vec3f((at.xy * vec2f(0.5, -0.5) + 0.5) * frame.size, at.z);
}

fn depthAt(place: vec2f) -> f32 {
  return textureLoad(surfaceDepths, clamp(vec2i(floor(place)), vec2i(), vec2i(frame.size) - 1), 0);
}

struct Found {
  place: vec2f,
  /// Metres that the ray came.
  metres: f32,
  /// How sure it is: 0 not at all.
  share: f32,
}

fn trace(start: vec3f, way: vec3f, noise: f32) -> Found {
  let nothing = Found(vec2f(), 0, 0);
  let first = frame.viewProjection * vec4f(start, 1);
  var last = frame.viewProjection * vec4f(start + way * air.reflections.z, 1);
  if first.w < 1e-3 { return nothing; }
  // Rays end before the eye.
  if last.w < 0.05 * first.w { last = mix(first, last, (first.w - 0.05 * first.w) / (first.w - last.w)); }
  let a = onScreen(first);
  var b = onScreen(last);
  // And at the picture's edge.
  let delta = b - a;
  let limits = select(vec2f(), frame.size, delta.xy > vec2f());
  let ends = select((limits - a.xy) / delta.xy, vec2f(1e6), abs(delta.xy) < vec2f(1e-4));
  let end = clamp(min(ends.x, ends.y), 0, 1);
  b = a + delta * end;
  let pixels = max(abs(b.x - a.x), abs(b.y - a.y));
  if pixels < 1 { return nothing; }
  let steps = min(f32(STEPS), ceil(pixels));
  let range = depthRange();
  // Depths are straight lines on the screen.
  var low = 0.0;
  for (var i = 1; i <= STEPS; i++) {
    if f32(i) > steps { break; }
    let high = min((f32(i) - 0.5 + noise) / steps, 1);
    let at = mix(a, b, high);
    let there = depthAt(at.xy);
    if at.z < there {
      var from_ = low;
      var to_ = high;
      for (var k = 0; k < REFINED; k++) {
        let middle = (from_ + to_) / 2;
        let tried = mix(a, b, middle);
        if tried.z < depthAt(tried.xy) { to_ = middle; } else { from_ = middle; }
      }
      let hit = mix(a, b, to_);
      let depth = depthAt(hit.xy);
      let shown = metresAt(range, depth);
      let behind = metresAt(range, hit.z) - shown;
      let room = air.reflections.w + 0.02 * shown;
      if behind < room {
        let pixel = clamp(vec2i(floor(hit.xy)), vec2i(), vec2i(frame.size) - 1);
        let facing = dot(textureLoad(surfaceNormals, pixel, 0).xyz, way);
        let metres = length(placeAt(hit.xy, shown) - start);
        let place = hit.xy + frame.whole.xy;
        let edge = min(place, frame.whole.zw - place) / frame.whole.zw;
        var share = smoothstep(0, 0.08, min(edge.x, edge.y));
        share *= 1 - smoothstep(0.8, 1, metres / air.reflections.z);
        share *= 1 - smoothstep(-0.1, 0.05, facing);
        return Found(hit.xy, metres, share);
      }
    }
    low = high;
  }
  return nothing;
}

@fragment fn reflectionsFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  shownPixel = at.xy;
  let own = textureLoad(seen, pixel, 0);
  let depth = textureLoad(surfaceDepths, pixel, 0);
  if depth == 0 || own.a <= 0 || !isOneOf(surfaceThings, pixel, air.reflectionsSees) { return own; }
  let normal = textureLoad(surfaceNormals, pixel, 0);
  // What is shown as it was given mirrors nothing.
  if normal.w > 1.5 { return own; }
  let roughness = clamp(normal.w, 0.045, 1);
  let fades = 1 - smoothstep(0.7, 1, roughness / max(air.reflections.y, 0.05));
  if fades <= 0 { return own; }
  let mirror = textureLoad(surfaceMirrors, pixel, 0);
  var p: Fragment;
  p.position = placeAt(at.xy, metresAt(depthRange(), depth));
  p.toCamera = normalize(frame.cameraPosition - p.position);
  if frame.isParallel > 0.5 { p.toCamera = -frame.forward; }
  p.normal = normalize(normal.xyz);
  var s: Shading;
  s.f0 = mirror.rgb;
  s.f90 = 1;
  s.roughness = roughness;
  s.nv = max(dot(p.normal, p.toCamera), 1e-4);
  let share = scattering(s).single;
  let way = reflect(-p.toCamera, p.normal);
  let away = dot(p.position - frame.cameraPosition, frame.forward);
  let noise = pixelNoise(at.xy + frame.whole.xy);
  let found = trace(p.position + p.normal * (0.002 * away), way, noise);
  let sure = found.share * fades * air.reflections.x;
  if sure <= 0 { return own; }
  // What is rough mirrors a wider part of the picture, the farther it is.
  let perMetre = frame.size.y / (2 * length(frame.up) * select(max(away, 1e-3), 1, frame.isParallel > 0.5));
  let reach = min(found.metres * roughness * roughness * 0.7 * perMetre, 0.06 * frame.whole.w);
  var light = vec3f();
  for (var i = 0; i < TAPS; i++) {
    let angle = f32(i) * 2.3999632 + noise * 6.2831853;
    let offset = vec2f(cos(angle), sin(angle)) * (sqrt(f32(i) / f32(TAPS)) * reach);
    let there = clamp(vec2i(floor(found.place + offset)), vec2i(), vec2i(frame.size) - 1);
    let c = textureLoad(seen, there, 0);
    light += lightOf(c.rgb / max(c.a, 1e-6)) * c.a;
  }
  light /= f32(TAPS);
  var around = radianceAround(way, roughness, p.position) * mirror.a;
  if useAmbientOcclusion { around *= mirrorOpenness(opennessAt(p, p.normal), way, roughness); }
  around *= air.whiteBalance * exposureNow();
  let more = share * (light - around) * sure;
  // Fog lies before both.
  let through = throughFog(more, p.position, p.toCamera) - throughFog(vec3f(), p.position, p.toCamera);
  let color = max(lightOf(own.rgb / own.a) + through, vec3f());
  return vec4f(shownOf(color) * own.a, own.a);
}
