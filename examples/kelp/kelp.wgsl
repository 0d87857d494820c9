// A blade of kelp: bent by its height, moved by the swell, rounded by its normals, wide enough to be seen edge-on.
import { noise2 } from 'umber/noise.wgsl';
import { throughWater, waterBetween, lightNet } from './water.wgsl';

struct Settings {
  curve: f32,     // 0..1.2 = 0.55    radians by which a blade leans over at its tip
  swell: f32,     // 0..1.5 = 0.6     how far the swell moves the tips
  pace: f32,      // 0..3 = 1         how fast it runs
  reach: f32,     // 4..40 = 14       metres from one wave of it to the next
  turn: f32,      // 0..3.2 = 1.1     radians by which its direction wanders
  clumps: f32,    // 0..1 = 0.7       how much blades of one clump have in common
  round: f32,     // 0..1.2 = 0.7     how far normals turn away across a blade
  widen: f32,     // 0..1 = 0.6       how much blades that are seen edge-on are turned to the camera
  root: f32,      // 0..1 = 0.8       how dark they are at the root
  young: vec3f,   // color = #a39a3a
  old: vec3f,     // color = #4a4a1e
}

struct InstanceSettings {
  lean: f32,   // 0..2 = 1     of this blade
  clump: f32,  // 0..1 = 0.5   of its clump
  phase: f32,  // 0..6.3 = 0
  age: f32,    // 0..1 = 0.5
}

fn displace(v: Vertex, s: Settings, i: InstanceSettings) -> Vertex {
  var out = v;
  let m = v.objectToWorld;
  // SwarmDensity sizes copies unevenly: those that stay grow wider, those that go shrink.
  let size = vec3f(length(m[0]), length(m[1]), length(m[2]));
  let root = m[3].xz;
  let up = saturate(v.texcoord0.y);
  // The swell: noise that scrolls, read once as strength and once as direction.
  let at = root / s.reach;
  let drift = frame.time * 0.16 * s.pace;
  let strength = 0.45 + 0.9 * noise2(at + vec2f(drift, 0.3 * drift), 3);
  let way = 0.6 + s.turn * noise2(at * 0.4 + vec2f(17.2, -drift * 0.5), 4);
  let wave = sin(frame.time * 0.9 * s.pace + dot(root, vec2f(cos(way), sin(way))) * 5 / s.reach + i.phase * 0.3);
  let push = s.swell * strength * (0.55 + 0.45 * wave);
  // Blades of one clump lean alike, out of its middle.
  let lean = s.curve * mix(i.lean, 0.5 + i.clump, s.clumps);
  let own = normalize(vec3f(m[2].x, 0, m[2].z));
  let swept = own * lean + vec3f(cos(way), 0, sin(way)) * push;
  let bend = length(swept);
  let ahead = swept / max(bend, 0.0001);
  // An arc: as long as the blade, and turned by `bend` at its tip.
  let a = max(bend, 0.001) * up;
  let along = vec3f(0, 1, 0) * (sin(a) / max(bend, 0.001)) + ahead * ((1 - cos(a)) / max(bend, 0.001));
  let tangent = vec3f(0, 1, 0) * cos(a) + ahead * sin(a);
  var side = normalize(vec3f(m[0].x, 0, m[0].z));
  let middle = m[3] + along * size.y;
  let toCamera = normalize(frame.cameraPosition - middle);
  // Seen edge-on a blade would be thinner than a pixel: its side turns towards where it is wide.
  let facing = abs(dot(normalize(cross(side, tangent)), toCamera));
  let wide = normalize(cross(tangent, toCamera));
  side = normalize(mix(side, wide * sign(dot(wide, side) + 0.0001), s.widen * (1 - facing) * (1 - facing)));
  let world = middle + side * v.position.x * size.x;
  let flat = normalize(cross(side, tangent));
  let normal = normalize(flat + side * v.texcoord0.x * s.round);
  // Back into the blade's own space, which hooks give: what a matrix turns and sizes, its columns undo.
  let d = world - m[3];
  out.position = vec3f(dot(m[0], d), dot(m[1], d), dot(m[2], d)) / (size * size);
  // Normals are divided by sizes on their way back out.
  out.normal = vec3f(dot(m[0], normal), dot(m[1], normal), dot(m[2], normal));
  return out;
}

fn surface(p: Fragment, s: Settings, i: InstanceSettings) -> Surface {
  var out = surfaceDefaults(p);
  let up = p.texcoord0.y;
  let rib = 1 - 0.35 * smoothstep(0.35, 0.0, abs(p.texcoord0.x));
  out.baseColor = mix(s.old, s.young, saturate(0.25 + 0.6 * up + 0.5 * (i.age - 0.5))) * rib;
  out.baseColor *= mix(1, mix(1 - s.root, 1, smoothstep(0, 0.85, up)), 1.0);
  out.occlusion = mix(1 - s.root, 1, up);
  out.metallic = 0;
  out.roughness = 0.55;
  // Light comes through blades against the sun.
  out.emissive = out.baseColor * 0.1 * up;
  return out;
}

fn outputColor(color: vec4f, p: Fragment) -> vec4f {
  let net = 0.8 + 0.8 * lightNet(p.position.xz + p.position.y * 0.3, frame.time) * smoothstep(0, 1, p.texcoord0.y);
  return vec4f(throughWater(color.rgb * net, waterBetween(p.position, frame.cameraPosition)), 1);
}
