// Answers of a surface with layers to light. From the outside in: lacquer over fibres over what is below; a film colours
// what the lowest mirrors; and of what is not mirrored, part goes through.
import { Fragment, Surface } from './surface.wgsl';
import { Light } from './lights.wgsl';
import { distribution, schlick, scattering, Shading, shadingOf, visibility } from './lighting.wgsl';
import { irradianceFrom, radianceFrom } from './air.wgsl';
import { frame } from './frame.wgsl';
import { probeAt, probeIrradiance, probeRadiance, useProbes } from './probes.wgsl';
import { mirrorOpenness, Openness, opennessAt, useAmbientOcclusion } from './openness.wgsl';
import { behindSurface } from './transmission.wgsl';
import { useAnisotropy, useClearcoat, useDiffuseTransmission, useIridescence } from './layers.wgsl';
import { useSheen, useSpecular, useTransmission } from './layers.wgsl';

override useEnvironment = false;

const PI = 3.14159265358979;

struct Layered {
  base: Shading,
  /// The lacquer: its own normal and roughness; mirrors 4% straight on.
  coat: Shading,
  /// What the lacquer and the fibres leave of light for what is below.
  left: f32,
  /// Two directions across the surface, along and across the brushing, and their roughness.
  along: vec3f,
  across: vec3f,
  alphaAlong: f32,
  alphaAcross: f32,
}

/// Share of light that fibres scatter back (Estevez and Kulla, "Production Friendly Microfacet Sheen BRDF", 2017, with
/// the visibility of Neubelt and Pettineo, 2013): a fit of the integral, within 0.03.
fn fibreShare(cosine: f32, roughness: f32) -> f32 {
  let v = saturate(cosine);
  let r = max(roughness, 0.1);
  let k = 1 / (r + 0.08);
  let e = 0.12438 + v * (6.0685 + v * (1.5723 - 1.6847 * v)) + r * (-1.8364 - v * (8.3923 - 1.4244 * v))
    + r * r * (1.0436 + 2.8819 * v) + k * (0.22156 - v * (3.2072 + 0.43307 * v));
  return saturate(exp(e));
}

fn fibreDistribution(nh: f32, roughness: f32) -> f32 {
  let inverse = 1 / max(roughness * roughness, 0.0049);
  return (2 + inverse) * pow(max(1 - nh * nh, 1e-4), inverse * 0.5) / (2 * PI);
}

// Sensitivity of the camera to a phase, as Gaussians in frequency (Belcour and Barla, 2017), in linear sRGB.
fn seenPhase(path: f32, shift: vec3f) -> vec3f {
  let phase = 2 * PI * path * 1e-3;
  // Frequencies in waves a micrometre.
  let pos = vec3f(1.6810, 1.7953, 2.2084);
  let spread = vec3f(4.3278e-3, 9.3046e-3, 6.6121e-3);
  let height = vec3f(5.4856e-13, 4.4201e-13, 5.2481e-13) / 1.0685e-7 * 1e6;
  var xyz = height * sqrt(2 * PI * spread) * cos(pos * phase + shift) * exp(-phase * phase * spread);
  xyz.x += 9.7470e-14 / 1.0685e-7 * 1e6 * sqrt(2 * PI * 4.5282e-3) * cos(2.2399 * phase + shift.x) * exp(-4.5282e-3 * phase * phase);
  return mat3x3f(3.2404542, -0.9692660, 0.0556434, -1.5371385, 1.8760108, -0.2040259, -0.4985314, 0.0415560, 1.0572252) * xyz;
}

fn fresnel0(from_: vec3f, to_: vec3f) -> vec3f {
  let r = (to_ - from_) / (to_ + from_);
  return r * r;
}

/// What a thin film mirrors of light that falls at this cosine (Belcour and Barla, "A Practical Extension to Microfacet
/// Theory for the Modeling of Varying Iridescence", 2017). Thickness in nanometres.
fn filmMirror(cosine: f32, filmIor: f32, thickness: f32, f0: vec3f) -> vec3f {
  // A film that vanishes hands over to the air.
  let ior = mix(1, filmIor, smoothstep(0, 30, thickness));
  let inner2 = 1 - (1 - cosine * cosine) / (ior * ior);
  if inner2 < 0 { return vec3f(1); }
  let inner = sqrt(inner2);
  let first = schlick(fresnel0(vec3f(1), vec3f(ior)), cosine).x;
  let through = 1 - first;
  let root = sqrt(clamp(f0, vec3f(0), vec3f(0.9999)));
  let baseIor = (1 + root) / (1 - root);
  let second = schlick(fresnel0(vec3f(ior), baseIor), inner);
  let shift = select(vec3f(0), vec3f(PI), baseIor < vec3f(ior)) + PI;
  let path = 2 * ior * thickness * inner;
  let both = clamp(first * second, vec3f(1e-5), vec3f(0.9999));
  let amplitude = sqrt(both);
  let s = through * through * second / (1 - both);
  var color = first + s;
  var term = s - through;
  for (var m = 1; m <= 2; m++) {
    term *= amplitude;
    color += term * 2 * seenPhase(f32(m) * path, f32(m) * shift);
  }
  return max(color, vec3f());
}

fn layeredOf(s: Surface, p: Fragment) -> Layered {
  var l: Layered;
  l.base = shadingOf(s, p);
  l.left = 1;
  if useSpecular {
    let r = (s.ior - 1) / (s.ior + 1);
    let mirrored = min(r * r * s.specularColor, vec3f(1)) * s.specular;
    l.base.f0 = mix(mirrored, s.baseColor, s.metallic);
    l.base.f90 = mix(s.specular, 1, s.metallic);
  }
  if useIridescence && s.iridescence > 0 {
    let cosine = saturate(dot(s.normal, p.toCamera));
    let film = filmMirror(cosine, s.iridescenceIor, s.iridescenceThickness, l.base.f0);
    let edge = pow(1 - cosine, 5);
    let f0 = saturate((film - edge) / max(1 - edge, 1e-4));
    l.base.f0 = mix(l.base.f0, f0, s.iridescence);
  }
  if useAnisotropy {
    let flat_ = s.anisotropyDirection - s.normal * dot(s.anisotropyDirection, s.normal);
    l.along = normalize(select(vec3f(1, 0, 0), flat_, dot(flat_, flat_) > 1e-8));
    l.across = cross(s.normal, l.along);
    let alpha = l.base.roughness * l.base.roughness;
    l.alphaAlong = mix(alpha, 1, s.anisotropy * s.anisotropy);
    l.alphaAcross = alpha;
  }
  if useSheen {
    l.left *= 1 - max(s.sheenColor.r, max(s.sheenColor.g, s.sheenColor.b)) * fibreShare(l.base.nv, s.sheenRoughness);
  }
  if useClearcoat {
    l.coat = l.base;
    l.coat.normal = s.clearcoatNormal;
    l.coat.nv = max(dot(s.clearcoatNormal, p.toCamera), 1e-4);
    l.coat.diffuse = vec3f();
    l.coat.f0 = vec3f(0.04);
    l.coat.f90 = 1;
    l.coat.roughness = clamp(s.clearcoatRoughness, 0.045, 1);
    l.coat.a2 = l.coat.roughness * l.coat.roughness * l.coat.roughness * l.coat.roughness;
    let share = scattering(l.coat);
    l.left *= 1 - s.clearcoat * (share.single.x + share.more.x);
  }
  return l;
}

// The sky above and the ground below, and the environment.
fn irradianceAround(way: vec3f, position: vec3f) -> vec3f {
  var light = mix(frame.ground, frame.sky, way.y * 0.5 + 0.5);
  var far = vec3f();
  if useEnvironment { far = irradianceFrom(way); }
  if useProbes {
    let here = probeAt(position);
    if here.share > 0 { far = mix(far, probeIrradiance(here.number, way), here.share); }
  }
  light += far;
  return light;
}

fn radianceAround(way: vec3f, roughness: f32, position: vec3f) -> vec3f {
  var light = mix(frame.ground, frame.sky, way.y * 0.5 + 0.5);
  var far = vec3f();
  if useEnvironment { far = radianceFrom(way, roughness); }
  if useProbes {
    let here = probeAt(position);
    if here.share > 0 { far = mix(far, probeRadiance(here.number, position, way, roughness), here.share); }
  }
  light += far;
  return light;
}

/// Light from all around, and what is seen through the surface.
fn allAround(l: Layered, s: Surface, p: Fragment, scale: f32) -> vec3f {
  let base = l.base;
  var bent = base.normal;
  if useAnisotropy {
    // Reflections are stretched across the brushing: as if the surface leaned towards it.
    let across = cross(cross(l.across, base.toCamera), l.across);
    let strength = 1 - s.anisotropy * (1 - base.roughness);
    bent = normalize(mix(across, base.normal, strength * strength * strength * strength));
  }
  var open = Openness(base.normal, 1);
  if useAmbientOcclusion { open = opennessAt(p, base.normal); }
  let occlusion = min(s.occlusion, open.share);
  let around = irradianceAround(open.way, p.position) * occlusion;
  let way = reflect(-base.toCamera, bent);
  var mirrored = radianceAround(way, base.roughness, p.position) * s.occlusion;
  if useAmbientOcclusion { mirrored *= mirrorOpenness(open, way, base.roughness); }
  let share = scattering(base);
  var inside = base.diffuse * around;
  if useDiffuseTransmission {
    let through = s.diffuseTransmissionColor * irradianceAround(-base.normal, p.position) * (1 - s.metallic);
    inside = mix(inside, through, s.diffuseTransmission);
  }
  if useTransmission {
    inside = mix(inside, base.diffuse * behindSurface(s, p, scale), s.transmission);
  }
  var color = share.single * mirrored + share.more * around + (1 - share.single - share.more) * inside;
  color *= l.left;
  if useSheen {
    let glow = radianceAround(reflect(-base.toCamera, base.normal), s.sheenRoughness, p.position) * occlusion;
    var fibres = s.sheenColor * glow * fibreShare(base.nv, s.sheenRoughness);
    if useClearcoat { fibres *= coatLeaves(l, s); }
    color += fibres;
  }
  if useClearcoat {
    let coat = scattering(l.coat);
    let seen = radianceAround(reflect(-l.coat.toCamera, l.coat.normal), l.coat.roughness, p.position);
    color += s.clearcoat * occlusion * (coat.single * seen + coat.more * irradianceAround(l.coat.normal, p.position));
  }
  return color;
}

fn coatLeaves(l: Layered, s: Surface) -> f32 {
  let share = scattering(l.coat);
  return 1 - s.clearcoat * (share.single.x + share.more.x);
}

/// Light of the surface's own, as the lacquer lets it out.
fn ownLight(l: Layered, s: Surface) -> vec3f {
  if useClearcoat { return s.emissive * coatLeaves(l, s); }
  return s.emissive;
}

// Distribution times visibility.
fn microfacets(l: Layered, base: Shading, light: vec3f, halfway: vec3f, nl: f32) -> f32 {
  let nh = saturate(dot(base.normal, halfway));
  if useAnisotropy { return brushedFacets(l, base, light, halfway, nl); }
  return distribution(nh, base.a2) * visibility(nl, base.nv, base.a2);
}

// The same of brushed surfaces, after Burley (2012) and Heitz (2014).
fn brushedFacets(l: Layered, base: Shading, light: vec3f, halfway: vec3f, nl: f32) -> f32 {
  let nh = saturate(dot(base.normal, halfway));
  let f = vec3f(dot(l.along, halfway) * l.alphaAcross, dot(l.across, halfway) * l.alphaAlong, nh * l.alphaAlong * l.alphaAcross);
  let area = l.alphaAlong * l.alphaAcross;
  let w = area / max(dot(f, f), 1e-9);
  let d = area * w * w / PI;
  let v = nl * length(vec3f(l.alphaAlong * dot(l.along, base.toCamera), l.alphaAcross * dot(l.across, base.toCamera), base.nv));
  let e = base.nv * length(vec3f(l.alphaAlong * dot(l.along, light), l.alphaAcross * dot(l.across, light), nl));
  return d * saturate(0.5 / max(v + e, 1e-7));
}

/// Radiance that one light sends to the camera by way of the surface.
fn layeredShine(l: Layered, s: Surface, light: Light) -> vec3f {
  let base = l.base;
  let nl = dot(base.normal, light.direction);
  var color = vec3f();
  if nl > 0 {
    let halfway = normalize(light.direction + base.toCamera);
    let vh = saturate(dot(base.toCamera, halfway));
    let f = schlick(base.f0, vh) * base.f90 + base.f0 * (1 - base.f90);
    var matt = base.diffuse / PI;
    if useDiffuseTransmission { matt *= 1 - s.diffuseTransmission; }
    if useTransmission { matt *= 1 - s.transmission; }
    color = ((1 - f) * matt + f * microfacets(l, base, light.direction, halfway, nl)) * nl;
    if useSheen {
      let most = max(s.sheenColor.r, max(s.sheenColor.g, s.sheenColor.b));
      color *= min(l.left, 1 - most * fibreShare(nl, s.sheenRoughness));
      let nh = saturate(dot(base.normal, halfway));
      let glow = fibreDistribution(nh, s.sheenRoughness) / (4 * max(nl + base.nv - nl * base.nv, 1e-4));
      color += s.sheenColor * glow * nl;
    } else { color *= l.left; }
  } else {
    if useDiffuseTransmission {
      color += s.diffuseTransmissionColor * (1 - s.metallic) * s.diffuseTransmission * -nl / PI * l.left;
    }
    if useTransmission {
      // What a thin wall lets through, as if the light stood on this side.
      let turned = light.direction - 2 * nl * base.normal;
      let halfway = normalize(turned + base.toCamera);
      let f = schlick(base.f0, saturate(dot(base.toCamera, halfway)));
      color += (1 - f) * base.diffuse * s.transmission * microfacets(l, base, turned, halfway, -nl) * -nl * l.left;
    }
  }
  if useClearcoat {
    let coatNl = dot(l.coat.normal, light.direction);
    if coatNl > 0 {
      let halfway = normalize(light.direction + l.coat.toCamera);
      let f = schlick(l.coat.f0, saturate(dot(l.coat.toCamera, halfway))).x;
      let nh = saturate(dot(l.coat.normal, halfway));
      color += s.clearcoat * f * distribution(nh, l.coat.a2) * visibility(coatNl, l.coat.nv, l.coat.a2) * coatNl;
    }
  }
  return color * light.color;
}
