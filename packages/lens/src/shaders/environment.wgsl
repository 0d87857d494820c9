// Light from an environment on a surface.
import { irradianceFrom, radianceFrom } from './air.wgsl';
import { scattered, Shading } from './lighting.wgsl';

fn environmentLight(s: Shading) -> vec3f {
  return scattered(s, irradianceFrom(s.normal), radianceFrom(reflect(-s.toEye, s.normal), s.roughness));
}
