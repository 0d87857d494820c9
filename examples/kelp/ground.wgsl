// The sea floor between the blades.
import { noise } from 'umber/noise.wgsl';
import { throughWater, waterBetween, lightNet } from './water.wgsl';

fn surface(p: Fragment) -> Surface {
  var out = surfaceDefaults(p);
  let grain = noise(vec3f(p.position.xz * 0.35, 0), 1) + 0.5 * noise(vec3f(p.position.xz * 2, 1), 2);
  out.baseColor = mix(vec3f(0.06, 0.075, 0.035), vec3f(0.19, 0.17, 0.1), saturate(0.35 + 0.6 * grain));
  out.roughness = 0.95;
  out.metallic = 0;
  return out;
}

fn outputColor(color: vec4f, p: Fragment) -> vec4f {
  let net = 0.8 + 0.8 * lightNet(p.position.xz, frame.time);
  return vec4f(throughWater(color.rgb * net, waterBetween(p.position, frame.cameraPosition)), 1);
}
