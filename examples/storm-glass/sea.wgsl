// A heavy sea: four long waves that move it, and small ones that only turn its surface; foam where it is steep.
import { noise2 } from 'umber/noise.wgsl';

fn waveOf(i: i32) -> vec4f {
  if i == 0 { return vec4f(0.9, 0.44, 17, 0.85); }
  if i == 1 { return vec4f(0.66, -0.75, 11, 0.42); }
  if i == 2 { return vec4f(1, 0.1, 7.3, 0.27); }
  return vec4f(0.35, 0.94, 4.9, 0.15);
}

fn speedOf(i: i32) -> f32 {
  if i == 0 { return 1; }
  if i == 1 { return 1.2; }
  if i == 2 { return 1.35; }
  return 1.6;
}

// Height, and slopes along X and Z.
fn seaAt(place: vec2f) -> vec3f {
  var sum = vec3f();
  for (var i = 0; i < 4; i++) {
    let w = waveOf(i);
    let k = 6.2831853 / w.z;
    let phase = dot(w.xy, place) * k + frame.time * speedOf(i) * sqrt(9.81 * k) * 0.6;
    sum += vec3f(sin(phase), w.xy * k * cos(phase)) * w.w;
  }
  return sum;
}

fn displace(v: Vertex) -> Vertex {
  var out = v;
  out.position.y += seaAt(v.position.xz).x;
  return out;
}

fn surface(p: Fragment) -> Surface {
  var s = surfaceDefaults(p);
  let sea = seaAt(p.position.xz);
  let far = length(p.viewPosition);
  // Small waves are lost in the distance.
  let fine = 1 / (1 + far * 0.03);
  let place = p.position.xz;
  var slope = sea.yz;
  for (var i = 0; i < 6; i++) {
    let turn = f32(i) * 1.7 + 0.6;
    let way = vec2f(cos(turn), sin(turn));
    let waves = 1.3 + f32(i) * 0.83;
    slope += way * cos(dot(way, place) * waves * 2.1 + frame.time * (1.4 + 0.4 * f32(i))) * 0.11 * fine / (1 + 0.2 * f32(i));
  }
  s.normal = normalize(vec3f(-slope.x, 1, -slope.y));
  let foam = smoothstep(0.42, 0.8, length(sea.yz) * 0.6 + sea.x * 0.22 + noise2(place * 1.1, 3) * 0.35 + noise2(place * 3.7, 5) * 0.25);
  s.baseColor = mix(s.baseColor, vec3f(0.55, 0.6, 0.62), foam * 0.75);
  s.roughness = mix(0.16, 0.85, foam);
  return s;
}
