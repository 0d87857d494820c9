// The sea's surface. From above it mirrors the sky and lets one look down; from below one sees out through a round window,
// and around it the bed, mirrored.
import { noise2 } from 'umber/noise.wgsl';
import { throughWater, waterBetween, DEEP, SEA } from './water.wgsl';

struct Settings {
  waves: f32,   // 0..1.5 = 0.5   how steep they are
  zenith: vec3f, // color = #3c78b4
  horizon: vec3f, // color = #cfe0e4
}

fn skyAt(way: vec3f, s: Settings) -> vec3f {
  let sun = normalize(vec3f(-0.45, 0.8, -0.4));
  let glow = pow(saturate(dot(way, sun)), 220) * 6 + pow(saturate(dot(way, sun)), 12) * 0.35;
  return mix(s.horizon, s.zenith, pow(saturate(way.y), 0.5)) + vec3f(1, 0.93, 0.78) * glow;
}

fn slopeAt(at: vec2f, t: f32) -> vec2f {
  var slope = vec2f();
  for (var i = 0; i < 5; i++) {
    let turn = f32(i) * 1.9 + 0.4;
    let way = vec2f(cos(turn), sin(turn));
    let size = 0.35 + f32(i) * 0.42;
    slope += way * cos(dot(way, at) / size + t * (1.1 + 0.25 * f32(i)) + 2 * noise2(at * 0.15, i)) * 0.11;
  }
  return slope;
}

// What the camera sees on a way mirrored downwards: the picture itself is searched for it, step by step.
fn mirrored(p: Fragment, way: vec3f) -> vec4f {
  var t = 0.6;
  for (var i = 0; i < 20; i++) {
    let at = frame.viewProjection * vec4f(p.position + way * t, 1);
    if at.w <= 0 { break; }
    let uv = at.xy / at.w * vec2f(0.5, -0.5) + 0.5;
    if any(uv < vec2f(0)) || any(uv > vec2f(1)) { break; }
    let pixel = uv * p.screenSize;
    let depth = at.z / at.w;
    // Depths are reversed: greater is nearer.
    let there = sceneDepth(pixel);
    if there > depth && there < depth * 1.35 { return vec4f(sceneColor(pixel).rgb, smoothstep(0.0, 0.1, min(min(uv.x, 1 - uv.x), min(uv.y, 1 - uv.y)))); }
    t *= 1.28;
  }
  return vec4f(0);
}

fn outputColor(p: Fragment, s: Settings) -> vec4f {
  let isBelow = frame.cameraPosition.y < SEA;
  let slope = slopeAt(p.position.xz, frame.time) * s.waves;
  let flatter = exp(-0.02 * distance(p.position, frame.cameraPosition));
  var normal = normalize(vec3f(-slope.x * flatter, 1, -slope.y * flatter));
  if isBelow { normal = -normal; }
  let facing = saturate(dot(normal, p.toCamera));
  let ratio = select(1 / 1.33, 1.33, isBelow);
  let sine = ratio * ratio * (1 - facing * facing);
  // Schlick's fit, at the side where light is slower by the angle on the other side.
  let cosine = select(facing, sqrt(max(0, 1 - sine)), isBelow);
  let share = select(0.02 + 0.98 * pow(1 - cosine, 5), 1.0, sine >= 1);
  let mirror = reflect(-p.toCamera, normal);
  let bent = refract(-p.toCamera, normal, ratio);
  var color: vec3f;
  if isBelow {
    let seen = mirrored(p, mirror);
    let below = mix(mix(DEEP, vec3f(0.03, 0.1, 0.075), saturate(-mirror.y)), seen.rgb, seen.a);
    color = mix(skyAt(normalize(bent + vec3f(0, 0.001, 0)), s), below, share);
    color = throughWater(color, waterBetween(p.position, frame.cameraPosition));
  } else {
    let pixel = p.screenPosition + slope * 40 * flatter;
    let behind = sceneColor(select(p.screenPosition, pixel, sceneDepth(pixel) < p.depth)).rgb;
    color = mix(behind, toneMap(skyAt(mirror, s)), share);
  }
  return vec4f(color, 1);
}
