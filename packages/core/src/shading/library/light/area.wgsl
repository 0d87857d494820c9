// Light from rectangles and discs, by linearly transformed cosines (Heitz, Dupuy, Hill and Neubelt, "Real-Time
// Polygonal-Light Shading with Linearly Transformed Cosines", 2016): the lobe is a cosine whose directions went through
// a matrix, so a polygon taken back through it is gathered in closed form. Discs are polygons of as large an area.
import { Fragment, Surface } from './surface.wgsl';
import { Light, LightSource } from './lights.wgsl';
import { Shading } from './lighting.wgsl';
import { Layered } from './layered.wgsl';
import { useClearcoat, useDiffuseTransmission, useTransmission } from './layers.wgsl';

override useAreas = false;

const PI = 3.14159265358979;
/// As area-lights.ts has them.
const SIDE = 32.0;
const DISC_CORNERS = 12u;

/// Layer 0: the inverse matrices. Layer 1: what the lobe sends back of uniform light, and Schlick's share of it.
@group(0) @binding(15) var areaTable: texture_2d_array<f32>;
@group(0) @binding(16) var areaSampler: sampler;

fn isArea(source: LightSource) -> bool { return useAreas && source.kind > 1.5; }

/// Half of its width and of its height as the light lies in the world; it shines along their cross product, turned.
fn areaAcross(source: LightSource) -> vec3f { return source.direction; }
fn areaUp(source: LightSource) -> vec3f { return vec3f(source.coneScale, source.coneOffset, source.more); }

/// Corners of a light, counted against the clock as seen from behind.
fn cornerCount(source: LightSource) -> u32 { return select(4u, DISC_CORNERS, source.kind > 2.5); }

fn areaCorner(source: LightSource, k: u32) -> vec3f {
  var x = select(1.0, -1.0, k == 1u || k == 2u);
  var y = select(1.0, -1.0, k == 2u || k == 3u);
  if source.kind > 2.5 {
    let angle = f32(k) * 2 * PI / f32(DISC_CORNERS);
    // So large that the polygon has the disc's area.
    let reach = sqrt(2 * PI / f32(DISC_CORNERS) / sin(2 * PI / f32(DISC_CORNERS)));
    x = cos(angle) * reach;
    y = sin(angle) * reach;
  }
  return source.position + areaAcross(source) * x + areaUp(source) * y;
}

// What an edge of a polygon on the unit sphere adds, up to one over two pi (Lambert).
fn edge(a: vec3f, b: vec3f) -> vec3f {
  let across = cross(a, b);
  let sine = length(across);
  let angle = atan2(sine, dot(a, b));
  return across * select(angle / max(sine, 1e-7), 1.0, sine < 1e-4);
}

/// Share of a cosine that a light fills, above the horizon, after a matrix; 0 to 1.
fn gathered(source: LightSource, position: vec3f, matrix: mat3x3f) -> f32 {
  let count = cornerCount(source);
  var sum = 0.0;
  var leaves = vec3f();
  var enters = vec3f();
  var isCut = false;
  var a = matrix * (areaCorner(source, 0u) - position);
  for (var k = 1u; k <= count; k++) {
    let b = matrix * (areaCorner(source, k % count) - position);
    if a.z > 0 || b.z > 0 {
      var from_ = a;
      var to_ = b;
      // What lies below the horizon is left out; the edge along the horizon comes at the end.
      if a.z <= 0 {
        from_ = mix(a, b, a.z / (a.z - b.z));
        enters = from_;
        isCut = true;
      }
      if b.z <= 0 {
        to_ = mix(a, b, a.z / (a.z - b.z));
        leaves = to_;
        isCut = true;
      }
      sum += edge(normalize(from_), normalize(to_)).z;
    }
    a = b;
  }
  if isCut { sum += edge(normalize(leaves), normalize(enters)).z; }
  return max(sum, 0) / (2 * PI);
}

/// Rows: two directions across a surface, the first one towards the camera, and its normal.
fn surfaceSpace(normal: vec3f, toCamera: vec3f) -> mat3x3f {
  var first = toCamera - normal * dot(normal, toCamera);
  if dot(first, first) < 1e-8 {
    first = cross(normal, select(vec3f(1, 0, 0), vec3f(0, 1, 0), abs(normal.x) > 0.9));
  }
  first = normalize(first);
  return transpose(mat3x3f(first, cross(normal, first), normal));
}

fn tablePlace(roughness: f32, nv: f32) -> vec2f {
  return (vec2f(roughness, sqrt(1 - saturate(nv))) * (SIDE - 1) + 0.5) / SIDE;
}

/// What a shiny surface sends to the camera of a light of radiance 1.
fn areaMirrored(source: LightSource, position: vec3f, s: Shading, f90: f32, space: mat3x3f) -> vec3f {
  let at = tablePlace(s.roughness, s.nv);
  let m = textureSampleLevel(areaTable, areaSampler, at, 0, 0);
  let share = textureSampleLevel(areaTable, areaSampler, at, 1, 0);
  let inverse = mat3x3f(m.x, 0, m.y, 0, 1, 0, m.z, 0, m.w);
  return gathered(source, position, inverse * space) * (s.f0 * share.x + (vec3f(f90) - s.f0) * share.y);
}

/// Radiance that a surface with layers sends to the camera of an area light.
fn areaShine(l: Layered, s: Surface, p: Fragment, source: LightSource) -> vec3f {
  // Nothing is lit from behind the light.
  let facing = cross(areaAcross(source), areaUp(source));
  if dot(facing, p.position - source.position) >= 0 { return vec3f(); }
  let base = l.base;
  let space = surfaceSpace(base.normal, base.toCamera);
  let matt = gathered(source, p.position, space);
  let share = textureSampleLevel(areaTable, areaSampler, tablePlace(base.roughness, base.nv), 1, 0);
  var diffuse = base.diffuse * matt * (1 - (base.f0 * share.x + (base.f90 - base.f0) * share.y));
  if useDiffuseTransmission {
    diffuse *= 1 - s.diffuseTransmission;
    let behind = gathered(source, p.position, surfaceSpace(-base.normal, base.toCamera));
    diffuse += s.diffuseTransmissionColor * (1 - s.metallic) * s.diffuseTransmission * behind;
  }
  if useTransmission { diffuse *= 1 - s.transmission; }
  var color = (diffuse + areaMirrored(source, p.position, base, base.f90, space)) * l.left;
  if useClearcoat {
    let coat = areaMirrored(source, p.position, l.coat, 1, surfaceSpace(l.coat.normal, l.coat.toCamera));
    color += s.clearcoat * coat;
  }
  return color * source.color;
}

/// An area light for answers that know points alone: from its middle, as strong as it arrives.
fn areaAsPoint(source: LightSource, index: u32, p: Fragment) -> Light {
  let way = normalize(source.position - p.position);
  let facing = cross(areaAcross(source), areaUp(source));
  if dot(facing, p.position - source.position) >= 0 { return Light(way, vec3f(), index); }
  // What arrives on a surface that faces the middle.
  let share = gathered(source, p.position, surfaceSpace(way, p.toCamera));
  return Light(way, source.color * share * PI, index);
}
