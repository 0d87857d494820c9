// Where the vertices of a mesh come to stand, for the picture and for shadow maps. What a vertex brings along and hands
// over, and the calls of an author's hooks, stand in `umber/hooks.wgsl`, which is written for each material.
import { frame } from 'umber/frame.wgsl';
import { castsShadow, materialOf, objectToWorld, receivesShadow, SLOT_BITS } from 'umber/transforms.wgsl';
import { hasNormal, hasTangent, Vertex, worldNormal, worldTangent } from 'umber/vertex.wgsl';
import { hasColor } from 'umber/material.wgsl';
import { MeshVertex, MeshVarying } from 'umber/hooks.wgsl';
#if ownInputs
import { takeInputs } from 'umber/hooks.wgsl';
#endif
#if ownVaryings
import { withOwn } from 'umber/hooks.wgsl';
#endif
#if hookDisplace
import { displaced } from 'umber/hooks.wgsl';
import { materialNumber } from 'umber/material.wgsl';
#endif
#if around
import { bend, isBent } from 'umber/bend.wgsl';
import { copyOf, isSwarm } from 'umber/swarm.wgsl';
import { cutMark } from 'umber/clipping.wgsl';
#if ownInstances
import { takeRecord } from 'umber/hooks.wgsl';
#endif
#endif
#if fullStage
import { isWire } from 'umber/inspect.wgsl';
import { isPointed } from 'umber/pointed.wgsl';
#endif
#if surfaceStage
import { isBefore, isMoving, motion } from 'umber/motion.wgsl';
import { frameNow } from 'umber/frame.wgsl';
#endif
#if shadowStage

// Else from the camera: depths ahead of the picture.
override isFromLight = true;
#endif

/// Where a vertex stands.
struct Placed {
  vertex: Vertex,
  objectToWorld: mat4x3f,
  world: vec3f,
#if around
  isThere: bool,
  /// Of copies of swarms: shares of its level, and its number.
  copy: vec3f,
#endif
}

fn placed(i: MeshVertex) -> Placed {
  var o: Placed;
#if around
  let slot = i.code.x;
  var m: mat4x3f;
  if !isBent { m = objectToWorld(slot & SLOT_BITS); }
#else
  let slot = i.slot;
  let m = objectToWorld(slot & SLOT_BITS);
#endif
#if ownInputs
  takeInputs(i);
#endif
  var v: Vertex;
  v.position = i.position;
  v.normal = i.normal;
  v.tangent = i.tangent;
  v.texcoord0 = i.texcoord0;
  v.texcoord1 = i.texcoord1;
  v.color = select(vec4f(1), i.color, hasColor);
  v.index = i.index;
  v.objectToWorld = m;
#if hookDisplace
  materialNumber = materialOf(slot);
#endif
#if around
  if isBent {
    v = bend(v, u32(i.record), slot & SLOT_BITS);
    m = v.objectToWorld;
  }
  o.isThere = true;
  o.copy = vec3f(1, 0, 0);
  if isSwarm {
    let c = copyOf(i.code, i.index, m);
    m = c.objectToWorld;
    v.objectToWorld = m;
    v.index = c.vertex;
    v.instance = c.number;
    v.color *= c.tint;
#if ownInstances
    takeRecord(c.settings);
#endif
    o.copy = vec3f(c.shares, f32(c.number));
    o.isThere = c.isShown;
#if shadowStage
    o.isThere = c.isShown && c.shares.x >= 0.5 && c.shares.y < 0.5;
#endif
  }
#endif
#if hookDisplace
  v = displaced(v);
#endif
  o.vertex = v;
  o.objectToWorld = m;
  o.world = m * vec4f(v.position, 1);
  return o;
}

@vertex fn meshVertex(i: MeshVertex) -> MeshVarying {
#if surfaceStage
  frame = frameNow;
#endif
#if around
  let slot = i.code.x;
#else
  let slot = i.slot;
#endif
  let at = placed(i);
  let v = at.vertex;
  let m = at.objectToWorld;
  let world = at.world;
  var clip = frame.viewProjection * vec4f(world, 1);
#if shadowStage
  if isFromLight {
    // What lies before a map of parallel rays is flattened onto its near side.
    if frame.isParallel > 0.5 { clip.z = min(clip.z, clip.w); }
    if !castsShadow(slot) { clip = vec4f(0, 0, -1, 1); }
  }
#endif
#if fullStage
  if isWire { clip.z *= 1.002; }
  // Who points leaves things out by what says that they throw no shadow.
  if isPointed && !castsShadow(slot) { clip = vec4f(0, 0, -1, 1); }
#endif
#if around
  if isSwarm && !at.isThere { clip = vec4f(0, 0, -1, 1); }
#endif
#if hookMarch
  // Only the pixels count that the geometry covers: neither end of the view may cut it.
  clip.z = 0.5 * clip.w;
#endif
#if fullStage
  clip = vec4f(clip.xy * frame.crop.xy + clip.w * frame.crop.zw, clip.zw);
#endif
  var o: MeshVarying;
  o.clip = clip;
#if objectRows
  o.row0 = vec4f(m[0].x, m[1].x, m[2].x, m[3].x);
  o.row1 = vec4f(m[0].y, m[1].y, m[2].y, m[3].y);
  o.row2 = vec4f(m[0].z, m[1].z, m[2].z, m[3].z);
#endif
#if !hookMarch
  o.position = world;
  if hasNormal { o.normal = worldNormal(m, v.normal); }
  if hasTangent { o.tangent = worldTangent(m, v.tangent); }
  o.texcoords = vec4f(v.texcoord0, v.texcoord1);
  o.vertexColor = v.color;
#if objectSpace
  o.objectPosition = i.position;
  o.objectNormal = i.normal;
#endif
#endif
#if fullStage
  o.node = vec4f(f32(receivesShadow(slot)), length(m[0]), f32(slot & SLOT_BITS), f32(materialOf(slot) | cutMark(slot & SLOT_BITS)));
  o.copy = at.copy;
#else
#if around
  o.material = f32(materialOf(slot) | cutMark(slot & SLOT_BITS));
#else
  o.material = f32(materialOf(slot));
#endif
#endif
#if surfaceStage
  o.copy = at.copy;
  o.slot = f32(slot & SLOT_BITS);
#endif
#if ownVaryings
  o = withOwn(o);
#endif
#if surfaceStage
#if !hookMarch
  // Everything once more as it was in the frame before. What an author's hooks hand over is of this one.
  if isMoving {
    o.now = (motion.now * vec4f(world, 1)).xyw;
    isBefore = true;
    frame.time -= frame.delta;
    o.before = motion.before * vec4f(placed(i).world, 1);
  }
#endif
#endif
  return o;
}
