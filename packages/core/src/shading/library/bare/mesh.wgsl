// In place of mesh.wgsl where a shader stands alone: the entry points `meshVertex` and `meshFragment`, for pages of any kind.
import { frame } from 'umber/frame.wgsl';
import { Vertex, worldNormal, worldTangent } from 'umber/vertex.wgsl';
import { MeshVertex, MeshVarying } from 'umber/hooks.wgsl';
import { fragmentOf } from 'umber/fragment-of.wgsl';
import { shade } from 'umber/shade.wgsl';
import { encodeSrgb } from 'umber/color.wgsl';
#if ownInputs
import { takeInputs } from 'umber/hooks.wgsl';
#endif
#if ownVaryings
import { takeVaryings, withOwn } from 'umber/hooks.wgsl';
#endif
#if hookDisplace
import { displaced } from 'umber/hooks.wgsl';
#endif
#if hookMarch
import { marched } from 'umber/hooks.wgsl';
import { objectOf } from 'umber/fragment-of.wgsl';
import { rayInObject, rayThrough } from 'umber/ray.wgsl';
#endif

/// False where the target encodes colours by itself, as `rgba8unorm-srgb` does.
override isEncoded = true;

@vertex fn meshVertex(i: MeshVertex) -> MeshVarying {
#if ownInputs
  takeInputs(i);
#endif
  let w = frame.objectToWorld;
  let m = mat4x3f(w[0].xyz, w[1].xyz, w[2].xyz, w[3].xyz);
  var v: Vertex;
  v.position = i.position;
  v.color = vec4f(1);
#if withNormal
  v.normal = i.normal;
#endif
#if withTangent
  v.tangent = i.tangent;
#endif
#if withTexcoord0
  v.texcoord0 = i.texcoord0;
#endif
#if withTexcoord1
  v.texcoord1 = i.texcoord1;
#endif
#if withColor
  v.color = i.color;
#endif
  v.index = i.index;
  v.objectToWorld = m;
#if hookDisplace
  v = displaced(v);
#endif
  let world = m * vec4f(v.position, 1);
  var o: MeshVarying;
  o.clip = frame.viewProjection * vec4f(world, 1);
#if hookMarch
  // Only the pixels count that the geometry covers: neither end of the view may cut it.
  o.clip.z = 0.5 * o.clip.w;
#endif
#if objectRows
  o.row0 = vec4f(m[0].x, m[1].x, m[2].x, m[3].x);
  o.row1 = vec4f(m[0].y, m[1].y, m[2].y, m[3].y);
  o.row2 = vec4f(m[0].z, m[1].z, m[2].z, m[3].z);
#endif
#if !hookMarch
  o.position = world;
  o.normal = worldNormal(m, v.normal);
  o.tangent = worldTangent(m, v.tangent);
  o.texcoords = vec4f(v.texcoord0, v.texcoord1);
  o.vertexColor = v.color;
#if objectSpace
  o.objectPosition = i.position;
#if withNormal
  o.objectNormal = i.normal;
#endif
#endif
#endif
#if ownVaryings
  o = withOwn(o);
#endif
  return o;
}

/// As screens have it, alpha multiplied in.
fn shownColor(c: vec4f) -> vec4f {
  if !isEncoded { return c; }
  return vec4f(encodeSrgb(c.rgb / max(c.a, 1e-6)) * c.a, c.a);
}

#if hookMarch
/// The geometry only says which pixels are asked.
struct Marched {
  @location(0) color: vec4f,
  @builtin(frag_depth) depth: f32,
}

@fragment fn meshFragment(i: MeshVarying) -> Marched {
#if ownVaryings
  takeVaryings(i);
#endif
  let m = objectOf(i);
  let hit = marched(rayInObject(m, rayThrough(i.clip.xy)));
  if !hit.isHit { discard; }
  var p = fragmentOf(m, hit);
  let clip = frame.viewProjection * vec4f(p.position, 1);
  let depth = saturate(clip.z / clip.w * frame.depthRange.x + frame.depthRange.y);
#if screenSpace
  p.screenPosition = i.clip.xy;
  p.screenSize = frame.size;
  p.depth = depth;
#endif
  return Marched(shownColor(shade(p)), depth);
}
#else
@fragment fn meshFragment(i: MeshVarying, @builtin(front_facing) isFront: bool) -> @location(0) vec4f {
#if ownVaryings
  takeVaryings(i);
#endif
  var p = fragmentOf(i, isFront);
#if screenSpace
  p.screenPosition = i.clip.xy;
  p.screenSize = frame.size;
  p.depth = i.clip.z;
#endif
  return shownColor(shade(p));
}
#endif
