// From the geometry's own space into the world.

/// False where vertices have no normals: those of the triangles take their place.
override hasNormal = true;
/// True where vertices have tangents.
override hasTangent = false;

/// A vertex before it is placed: all in the geometry's own space.
struct Vertex {
  position: vec3f,
  normal: vec3f,
  tangent: vec4f,
  texcoord0: vec2f,
  texcoord1: vec2f,
  color: vec4f,
  index: u32,
  /// Number of an instance of a swarm, in the order of its tiles; else 0.
  instance: u32,
  /// The node's world transform.
  objectToWorld: mat4x3f,
}

// Rows of the cofactor matrix: the inverse transpose times the determinant, whose sign is undone.
fn worldNormal(m: mat4x3f, normal: vec3f) -> vec3f {
  let c0 = cross(m[1], m[2]);
  let c1 = cross(m[2], m[0]);
  let c2 = cross(m[0], m[1]);
  let n = c0 * normal.x + c1 * normal.y + c2 * normal.z;
  return select(n, -n, dot(m[0], c0) < 0);
}

fn worldTangent(m: mat4x3f, tangent: vec4f) -> vec4f {
  let handed = select(1.0, -1.0, dot(m[0], cross(m[1], m[2])) < 0);
  return vec4f(m[0] * tangent.x + m[1] * tangent.y + m[2] * tangent.z, tangent.w * handed);
}
