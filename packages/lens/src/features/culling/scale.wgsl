// How much a transform stretches.

/// The most by which an affine transform, given by rows, makes anything longer, or somewhat more where it shears: by
/// Gershgorin's circles around the eigenvalues of its columns' products.
fn largestScale(row0: vec4f, row1: vec4f, row2: vec4f) -> f32 {
  let x = vec3f(row0.x, row1.x, row2.x);
  let y = vec3f(row0.y, row1.y, row2.y);
  let z = vec3f(row0.z, row1.z, row2.z);
  let xy = abs(dot(x, y));
  let xz = abs(dot(x, z));
  let yz = abs(dot(y, z));
  return sqrt(max(dot(x, x) + xy + xz, max(dot(y, y) + xy + yz, dot(z, z) + xz + yz)));
}
