import { compileWgsl } from '../compile.js';
import { runWgsl } from '../run/run.js';
import { displacementOf } from './displacement.js';

const VERTEX = `struct Vertex { position: vec3f, normal: vec3f, tangent: vec4f, texcoord0: vec2f, color: vec4f, index: u32 }
struct Settings { lift: f32, sway: vec3f, free: f32 }
struct Frame { time: f32 }
@group(0) @binding(0) var<uniform> frame: Frame;
`;
const RANGES = { Settings: { lift: [0, 0.5], sway: [-0.2, 0.3] } } as const;

/** A module whose `displace` has this body, in which `out` is the vertex that is given back. */
const module = (body: string, more = ''): string =>
  `${VERTEX}${more}fn displace(v: Vertex, s: Settings) -> Vertex { var out = v; ${body} return out; }
@vertex fn main(@location(0) p: vec3f) -> @builtin(position) vec4f {
  var v: Vertex; v.position = p; var s: Settings; s.lift = frame.time; return vec4f(displace(v, s).position, 1);
}`;

test.each<[string, number, number?]>([
  ['out.position.y += s.lift;', 0.5],
  ['out.position.y += s.lift * sin(9 * frame.time + v.position.x);', 0.5],
  ['out.position += v.normal * s.lift;', 0.5 * Math.sqrt(3)],
  ['out.position += s.sway;', 0.3 * Math.sqrt(3)],
  ['out.position = vec3f(v.position.x, v.position.y + 0.25 * cos(frame.time), v.position.z);', 0.25],
  // A share of where it is.
  ['out.position *= 1 + 0.1 * sin(frame.time);', 0, 0.1 * Math.sqrt(3)],
  ['out.position.x += s.lift * v.position.y;', 0, 0.5],
  ['out.position = mix(v.position, v.position + vec3f(0, 2, 0), saturate(frame.time));', 2],
  ['if frame.time > 3 { out.position.y += 0.5; } else { out.position.y -= 0.75; }', 0.75],
  ['if frame.time > 3 { return v; } out.position.z += 1;', 1],
  ['let t = clamp(frame.time, -0.5, 0.25); out.position.x += 2 * t;', 1],
  ['out.position.y += half(s.lift) + abs(min(s.lift, 0.1));', 0.35],
  ['let d = vec3f(0.3, 0.4, 0) * fract(frame.time); out.position += d.xyz;', 0.5],
  // Loops forget what they write, and nothing else.
  ['var sum = 0.0; for (var i = 0; i < 4; i++) { sum += 0.1; } out.position.y += saturate(sum);', 1],
  ['out.normal = -v.normal;', 0],
])('%s moves by at most %d m and %d of the place', (body, fixed, share = 0) => {
  const shader = compileWgsl(module(body, 'fn half(x: f32) -> f32 { return x / 2; }'), { file: 'm.wgsl' });
  const found = displacementOf(shader, 'displace', RANGES)!;
  expect(found.fixed).toBeCloseTo(fixed, 5);
  // Mixing by a share cannot be told from moving by it.
  if (!body.includes('mix')) expect(found.share).toBeCloseTo(share, 5);
});

test.each([
  'out.position.y += s.free;',
  'out.position.y += frame.time;',
  'out.position = vec3f(v.texcoord0, 0);',
  'out.position.y += 1 / s.lift;',
  'out.position.y += exp(frame.time);',
  'for (var i = 0; i < 4; i++) { out.position.y += 0.1; }',
  'out.position.y += f32(v.index * 2654435769u);',
])('how far %s moves is not known', (body) => {
  expect(displacementOf(compileWgsl(module(body)), 'displace', RANGES)).toBeUndefined();
});

test('nothing that runs moves farther than was found', () => {
  const body = `let w = sin(3 * v.position.x + frame.time) * s.lift;
    var p = v.position + v.normal * w;
    if p.y > 0.2 { p.y = mix(p.y, 0.2, 0.5); }
    p += cross(s.sway, v.normal) * smoothstep(0, 1, v.position.z);
    out.position = p * (1.1 - 0.2 * step(0.5, s.lift));`;
  const shader = compileWgsl(module(body));
  const { fixed, share } = displacementOf(shader, 'displace', RANGES)!;
  let seed = 7;
  const random = (): number => (seed = (seed * 16807) % 2147483647) / 2147483647;
  let farthest = 0;
  for (let i = 0; i < 2000; i++) {
    const position = [0, 1, 2].map(() => random() * 2 - 1);
    const n = [0, 1, 2].map(() => random() * 2 - 1);
    const length = Math.hypot(...n);
    const vertex = {
      ...{ position, normal: n.map((part) => part / length) },
      ...{ tangent: [1, 0, 0, 1], texcoord0: [0, 0], color: [1, 1, 1, 1], index: 0 },
    };
    const settings = { lift: random() / 2, sway: [0, 1, 2].map(() => random() / 2 - 0.2), free: 9 };
    const frame = { time: random() * 100 };
    const moved = runWgsl(shader, 'displace', [vertex, settings], { resources: { frame } }) as typeof vertex;
    const away = Math.hypot(...moved.position.map((part, k) => part - position[k]!));
    expect(away).toBeLessThanOrEqual(fixed + share * Math.hypot(...position));
    farthest = Math.max(farthest, away / (fixed + share * Math.hypot(...position)));
  }
  // It is a bound, and not far from what is reached.
  expect(farthest).toBeGreaterThan(0.2);
});
