// Vertices bent by morph targets and by joints (glTF 2.0, 3.7.2.2 and 3.7.3.3).

import { Vertex } from 'umber/vertex.wgsl';
#if surfaceStage
import { isBefore, posesBefore } from 'umber/motion.wgsl';
#endif

override isBent = false;

/// Three to a slot. A pose has the rows of its matrices from its slot on, and the weights of its targets before it, the
/// first ones last.
@group(0) @binding(22) var<storage, read> poses: array<vec4f>;
/// What is written of each vertex: targets that move it, what they move, sets of four joints; then those.
@group(0) @binding(23) var<storage, read> bends: array<vec4u>;

fn poseRow(at: u32) -> vec4f {
#if surfaceStage
  if isBefore { return posesBefore[at]; }
#endif
  return poses[at];
}

fn jointMatrix(slot: u32) -> mat4x3f {
  return transpose(mat3x4f(poseRow(slot * 3), poseRow(slot * 3 + 1), poseRow(slot * 3 + 2)));
}

/// The vertex as its targets move it, with the mean of its joints' matrices for a transform.
fn bend(vertex: Vertex, record: u32, slot: u32) -> Vertex {
  var v = vertex;
  let head = bends[record];
  var at = record + 1;
  if head.z == 0 { v.objectToWorld = jointMatrix(slot); }
  else { v.objectToWorld = mat4x3f(); }
  for (var i = 0u; i < head.z; i++) {
    let joints = bends[at];
    let weights = bitcast<vec4f>(bends[at + 1]);
    at += 2;
    v.objectToWorld += jointMatrix(slot + (joints.x & 0xffff)) * weights.x;
    if weights.y > 0 { v.objectToWorld += jointMatrix(slot + (joints.x >> 16)) * weights.y; }
    if weights.z > 0 { v.objectToWorld += jointMatrix(slot + (joints.y & 0xffff)) * weights.z; }
    if weights.w > 0 { v.objectToWorld += jointMatrix(slot + (joints.y >> 16)) * weights.w; }
  }
  for (var i = 0u; i < head.x; i++) {
    let entry = bends[at];
    let weights = poseRow(slot * 3 - 1 - (entry.x >> 2));
    let weight = weights[entry.x & 3];
    at++;
    v.position += weight * bitcast<vec3f>(entry.yzw);
    if (head.y & 1) != 0 {
      v.normal += weight * bitcast<vec3f>(bends[at].xyz);
      at++;
    }
    if (head.y & 2) != 0 {
      v.tangent += weight * vec4f(bitcast<vec3f>(bends[at].xyz), 0);
      at++;
    }
    if (head.y & 4) != 0 {
      v.color += weight * bitcast<vec4f>(bends[at]);
      at++;
    }
    if (head.y & 8) != 0 {
      let by = weight * bitcast<vec4f>(bends[at]);
      v.texcoord0 += by.xy;
      v.texcoord1 += by.zw;
      at++;
    }
  }
  return v;
}
