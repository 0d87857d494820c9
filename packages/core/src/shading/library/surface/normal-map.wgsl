// Normals from a texture, in the frame of the texture coordinates.
import { Fragment } from './surface.wgsl';
import { hasTangent } from './vertex.wgsl';

fn mappedNormal(p: Fragment, uv: vec2f, texel: vec3f) -> vec3f {
  var t: vec3f;
  var b: vec3f;
  if hasTangent {
    t = p.tangent.xyz;
    b = cross(p.normal, t) * p.tangent.w;
  } else {
    // Tangents from derivatives (Schueler, "Normal Mapping Without Precomputed Tangents", ShaderX5).
    let px = dpdx(p.position);
    let py = dpdy(p.position);
    let ux = dpdx(uv);
    let uy = dpdy(uv);
    let crossY = cross(py, p.normal);
    let crossX = cross(p.normal, px);
    t = crossY * ux.x + crossX * uy.x;
    b = -(crossY * ux.y + crossX * uy.y);
    let longest = max(dot(t, t), dot(b, b));
    let handed = select(1.0, -1.0, (dot(cross(px, py), p.normal) < 0) == p.isFront);
    let size = select(0, handed * inverseSqrt(longest), longest > 0);
    t *= size;
    b *= size;
  }
  return normalize(t * texel.x + b * texel.y + p.normal * texel.z);
}
