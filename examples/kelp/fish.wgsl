// A fish of a school: on its way around, with a beat of its tail that runs down its body.
import { throughWater, waterBetween } from './water.wgsl';

struct Settings {
  speed: f32,  // 0..3 = 1   metres a second
}

struct InstanceSettings {
  radius: f32, // 0..60 = 8    of its way around, in lengths of the fish
  angle: f32,  // 0..6.3 = 0   where it is on it at the beginning
}

fn displace(v: Vertex, s: Settings, i: InstanceSettings) -> Vertex {
  var out = v;
  // Copies stand in the middle of their way.
  let turn = i.angle + frame.time * s.speed * 4 / i.radius;
  let beat = sin(frame.time * 9 * s.speed + i.angle * 31 - v.position.z * 9) * 0.1 * max(0, 0.25 + v.position.z);
  let p = v.position + vec3f(i.radius + beat, 0.3 * sin(turn * 3 + i.angle), 0);
  let c = cos(turn);
  let d = sin(turn);
  out.position = vec3f(p.x * c + p.z * d, p.y, p.z * c - p.x * d);
  out.normal = vec3f(v.normal.x * c + v.normal.z * d, v.normal.y, v.normal.z * c - v.normal.x * d);
  return out;
}

fn surface(p: Fragment) -> Surface {
  var out = surfaceDefaults(p);
  let belly = saturate(0.5 - 0.8 * p.normal.y);
  out.baseColor = mix(vec3f(0.06, 0.13, 0.16), vec3f(0.75, 0.8, 0.78), belly);
  out.metallic = 0.35;
  out.roughness = 0.3;
  return out;
}

fn outputColor(color: vec4f, p: Fragment) -> vec4f {
  return vec4f(throughWater(color.rgb, waterBetween(p.position, frame.cameraPosition)), 1);
}
