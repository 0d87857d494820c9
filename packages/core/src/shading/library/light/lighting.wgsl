// Answers of a surface to light (glTF 2.0, appendix B): GGX distribution, height-correlated Smith
// visibility, Schlick Fresnel.
import { Fragment, Surface } from './surface.wgsl';
import { Light } from './lights.wgsl';
import { frame } from './frame.wgsl';

const PI = 3.14159265358979;

/// A surface in the terms that its answers are made of.
struct Shading {
  normal: vec3f,
  toCamera: vec3f,
  diffuse: vec3f,
  f0: vec3f,
  /// Roughness to the fourth.
  a2: f32,
  roughness: f32,
  /// Cosine between normal and camera.
  nv: f32,
#if full
  /// What is mirrored at grazing angles.
  f90: f32,
#endif
}

fn shadingOf(s: Surface, p: Fragment) -> Shading {
  var out: Shading;
  let roughness = clamp(s.roughness, 0.045, 1);
  out.normal = s.normal;
  out.toCamera = p.toCamera;
  out.diffuse = s.baseColor * (1 - s.metallic);
  out.f0 = mix(vec3f(0.04), s.baseColor, s.metallic);
  out.roughness = roughness;
  out.a2 = roughness * roughness * roughness * roughness;
  out.nv = max(dot(s.normal, p.toCamera), 1e-4);
#if full
  out.f90 = 1;
#endif
  return out;
}

// GGX (Trowbridge-Reitz).
fn distribution(nh: f32, a2: f32) -> f32 {
  let f = nh * nh * (a2 - 1) + 1;
  return a2 / (PI * f * f);
}

// Height-correlated Smith: G / (4 nl nv).
fn visibility(nl: f32, nv: f32, a2: f32) -> f32 {
  let v = nl * sqrt(nv * nv * (1 - a2) + a2);
  let l = nv * sqrt(nl * nl * (1 - a2) + a2);
  return 0.5 / max(v + l, 1e-7);
}

fn schlick(f0: vec3f, vh: f32) -> vec3f {
  let f = 1 - vh;
  let f2 = f * f;
  return f0 + (1 - f0) * (f2 * f2 * f);
}

// Radiance that one light sends to the camera by way of the surface.
fn shine(s: Shading, light: Light) -> vec3f {
  let nl = dot(s.normal, light.direction);
  if nl <= 0 { return vec3f(); }
  let halfway = normalize(light.direction + s.toCamera);
  let nh = saturate(dot(s.normal, halfway));
  let vh = saturate(dot(s.toCamera, halfway));
  let f = schlick(s.f0, vh);
  let specular = f * (distribution(nh, s.a2) * visibility(nl, s.nv, s.a2));
  let diffuse = (1 - f) * s.diffuse / PI;
  return (diffuse + specular) * light.color * nl;
}

/// The answer that a surface without a hook of its own gives to one light.
fn lightDefaults(s: Surface, light: Light, p: Fragment) -> vec3f {
  return shine(shadingOf(s, p), light);
}

// Light from all around a surface: `around` is what its matt part gathers over pi, `mirrored` what its shine sees.
// How much shines by Karis, "Physically Based Shading on Mobile" (2014); light that the first bounce between
// microfacets loses comes back by Fdez-Aguera, "A Multiple-Scattering Microfacet Model for Real-Time Image-based
// Lighting" (2019), so that a white surface in uniform light gives all of it back, whatever its roughness.
fn scattered(s: Shading, around: vec3f, mirrored: vec3f) -> vec3f {
  let share = scattering(s);
  return share.single * mirrored + (share.more + s.diffuse * (1 - share.single - share.more)) * around;
}

/// Shares of light from all around that a surface mirrors after one bounce, and after more.
struct Scattering {
  single: vec3f,
  more: vec3f,
}

fn scattering(s: Shading) -> Scattering {
  let r = s.roughness * vec4f(-1, -0.0275, -0.572, 0.022) + vec4f(1, 0.0425, 1.04, -0.04);
  let a = min(r.x * r.x, exp2(-9.28 * saturate(s.nv))) * r.x + r.y;
  let ab = vec2f(-1.04, 1.04) * a + r.zw;
#if full
  let single = s.f0 * ab.x + ab.y * s.f90;
#else
  let single = s.f0 * ab.x + ab.y;
#endif
  let lost = 1 - ab.x - ab.y;
  let average = s.f0 + (1 - s.f0) / 21;
  let more = lost * single * average / (1 - average * lost);
  return Scattering(single, more);
}

// A sky above and a ground below, as radiance.
fn ambient(s: Shading) -> vec3f {
  let around = mix(frame.ground, frame.sky, s.normal.y * 0.5 + 0.5);
  let reflected = reflect(-s.toCamera, s.normal);
  let mirrored = mix(frame.ground, frame.sky, reflected.y * 0.5 + 0.5);
  return scattered(s, around, mirrored);
}
