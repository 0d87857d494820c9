// In place of material.wgsl where a shader stands alone: a material's own numbers (glTF 2.0, 3.9). Textures are settings of a shader.
import { Fragment, Surface } from './surface.wgsl';

/// What lies below the cutoff is not drawn.
override isMask = false;
/// What is behind shows through.
override isBlend = false;

struct Material {
  /// Linear light, and alpha.
  baseColorFactor: vec4f,
  /// Light of its own.
  emissiveFactor: vec3f,
  alphaCutoff: f32,
  metallicFactor: f32,
  roughnessFactor: f32,
}

@group(1) @binding(0) var<uniform> material: Material;

fn baseColorAt(p: Fragment) -> vec4f {
  return material.baseColorFactor * p.color;
}

/// What the material's own factors say of a place.
fn surfaceDefaults(p: Fragment) -> Surface {
  var s: Surface;
  let base = baseColorAt(p);
  s.baseColor = base.rgb;
  s.alpha = base.a;
  s.normal = p.normal;
  s.metallic = material.metallicFactor;
  s.roughness = material.roughnessFactor;
  s.occlusion = 1;
  s.emissive = material.emissiveFactor;
#if layers
  s.ior = 1.5;
  s.specular = 1;
  s.specularColor = vec3f(1);
  s.clearcoatNormal = p.normal;
  s.attenuationColor = vec3f(1);
  s.iridescenceIor = 1.3;
  s.iridescenceThickness = 400;
  s.anisotropyDirection = p.tangent.xyz;
  s.diffuseTransmissionColor = vec3f(1);
#endif
  return s;
}

/// Alpha as the material's mode takes it: cut out, blended, or left aside.
fn coverage(alpha: f32) -> f32 {
  if isMask && alpha < material.alphaCutoff { discard; }
  return select(1, alpha, isBlend);
}
