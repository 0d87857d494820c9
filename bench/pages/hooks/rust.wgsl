import { noise } from 'umber/noise.wgsl';
struct Settings {
  size: f32, // 0.01..2 = 0.3
}
fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  let worn = smoothstep(0.1, 0.4, noise(p.objectPosition / s.size, 4));
  out.baseColor = mix(out.baseColor, vec3f(0.22, 0.07, 0.03), worn);
  out.roughness = mix(out.roughness, 0.9, worn);
  return out;
}
