// The place on a surface that a pixel shows, out of what the vertex stage handed over.
import { frame, toCameraFrom } from 'umber/frame.wgsl';
import { Fragment } from 'umber/surface.wgsl';
#if !bare
import { materialNumber } from 'umber/material.wgsl';
#endif
import { MeshVarying } from 'umber/hooks.wgsl';
#if around
import { MATERIAL_BITS } from 'umber/transforms.wgsl';
#endif
#if hookMarch
import { worldNormal } from 'umber/vertex.wgsl';
import { Hit } from 'umber/ray.wgsl';
#else
import { hasNormal, hasTangent } from 'umber/vertex.wgsl';

/// False where nothing asks where a surface is and how it lies: it is unlit, and neither cut, nor behind fog, nor looked at otherwise.
override needsPlace = true;
#endif

#if !bare
/// The number of the material, and above it the mark of what is cut.
fn materialWord(i: MeshVarying) -> u32 {
#if fullStage
  return u32(i.node.w);
#else
  return u32(i.material);
#endif
}

/// Whose surface it is, for what reads materials.
fn takeMaterial(i: MeshVarying) {
#if around
  materialNumber = materialWord(i) & MATERIAL_BITS;
#else
  materialNumber = materialWord(i);
#endif
}
#endif

#if objectRows
fn objectOf(i: MeshVarying) -> mat4x3f {
  return transpose(mat3x4f(i.row0, i.row1, i.row2));
}
#endif

#if hookMarch
/// A place that was found by marching.
fn fragmentOf(m: mat4x3f, hit: Hit) -> Fragment {
  var p: Fragment;
  p.position = m * vec4f(hit.position, 1);
  p.normal = normalize(worldNormal(m, hit.normal));
  p.toCamera = toCameraFrom(p.position);
  p.viewPosition = (frame.view * vec4f(p.position, 1)).xyz;
  p.viewNormal = (frame.view * vec4f(p.normal, 0)).xyz;
  p.color = vec4f(1);
  p.isFront = true;
#if objectSpace
  p.objectPosition = hit.position;
  p.objectNormal = normalize(hit.normal);
#endif
#if objectMatrix
  p.objectToWorld = m;
#endif
  return p;
}
#else
fn fragmentOf(i: MeshVarying, isFront: bool) -> Fragment {
  var p: Fragment;
  if needsPlace {
    let side = select(-1.0, 1.0, isFront);
    p.position = i.position;
    p.toCamera = toCameraFrom(i.position);
    if hasNormal { p.normal = normalize(i.normal) * side; } else {
      // Screen-space derivatives span the face; their order follows the target's own y.
      let n = normalize(cross(dpdx(i.position), dpdy(i.position)));
      p.normal = faceForward(n, -p.toCamera, n);
    }
    if hasTangent { p.tangent = vec4f(normalize(i.tangent.xyz), i.tangent.w) * side; }
  }
#if hooks
  p.viewPosition = (frame.view * vec4f(i.position, 1)).xyz;
  p.viewNormal = (frame.view * vec4f(p.normal, 0)).xyz;
#endif
  p.texcoord0 = i.texcoords.xy;
  p.texcoord1 = i.texcoords.zw;
  p.color = i.vertexColor;
  p.isFront = isFront;
#if objectSpace
  p.objectPosition = i.objectPosition;
  p.objectNormal = normalize(i.objectNormal);
#endif
#if objectMatrix
  p.objectToWorld = objectOf(i);
#endif
  return p;
}
#endif
