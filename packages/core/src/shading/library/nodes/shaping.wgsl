// Numbers, directions and surfaces bent into shape, for shader graphs and hooks.

/// A number between two others becomes one between two further ones; outside it goes on straight.
fn remap(x: f32, fromLow: f32, fromHigh: f32, toLow: f32, toHigh: f32) -> f32 {
  let span = fromHigh - fromLow;
  return toLow + (toHigh - toLow) * (x - fromLow) / select(span, 1e-6, abs(span) < 1e-6);
}

/// Slow at first: a power of 0 to 1.
fn easeIn(t: f32, power: f32) -> f32 {
  return pow(saturate(t), power);
}

/// Slow at last.
fn easeOut(t: f32, power: f32) -> f32 {
  return 1 - pow(1 - saturate(t), power);
}

/// Slow at both ends.
fn easeInOut(t: f32, power: f32) -> f32 {
  let s = saturate(t);
  return select(1 - 0.5 * pow(2 - 2 * s, power), 0.5 * pow(2 * s, power), s < 0.5);
}

/// Share of light that is mirrored: `facing` is the cosine to the normal, `headOn` the share where it is 1
/// (Schlick, "An Inexpensive BRDF Model for Physically-Based Rendering", 1994).
fn mirroredShare(facing: f32, headOn: f32) -> f32 {
  return headOn + (1 - headOn) * pow(1 - saturate(facing), 5);
}

/// A value in even steps, each with a soft edge: for light in flat bands. `soft` is the share of a step that is edge.
fn stepped(x: f32, steps: f32, soft: f32) -> f32 {
  let scaled = saturate(x) * max(steps, 1);
  let at = floor(scaled);
  let edge = max(soft, 1e-4);
  return min(1, (at + smoothstep(1 - edge, 1, scaled - at)) / max(steps, 1));
}

/// Turned about an axis of length 1, counter-clockwise as one looks against it (Rodrigues). Radians.
fn turnAbout(v: vec3f, axis: vec3f, angle: f32) -> vec3f {
  return v * cos(angle) + cross(axis, v) * sin(angle) + axis * dot(axis, v) * (1 - cos(angle));
}

/// Turned in the plane, counter-clockwise. Radians.
fn turnFlat(v: vec2f, angle: f32) -> vec2f {
  return vec2f(v.x * cos(angle) - v.y * sin(angle), v.x * sin(angle) + v.y * cos(angle));
}

/// How much of a picture from each side a surface takes: x, y and z, together 1. The higher `sharpness`, the less they mix.
fn triplanarWeights(normal: vec3f, sharpness: f32) -> vec3f {
  let w = pow(abs(normal) + 1e-6, vec3f(sharpness));
  return w / (w.x + w.y + w.z);
}

/// A texture laid on from three sides: for surfaces without texture coordinates.
fn triplanar(picture: texture_2d<f32>, filters: sampler, place: vec3f, normal: vec3f, sharpness: f32) -> vec4f {
  let w = triplanarWeights(normal, sharpness);
  return textureSample(picture, filters, place.zy) * w.x
    + textureSample(picture, filters, place.xz) * w.y
    + textureSample(picture, filters, place.xy) * w.z;
}

/// The normal of a surface that stands out by `height`, by how that changes from pixel to pixel
/// (Mikkelsen, "Bump Mapping Unparametrized Surfaces on the GPU", 2010). Metres; fragments alone.
fn normalFromHeight(height: f32, position: vec3f, normal: vec3f) -> vec3f {
  let px = dpdx(position);
  let py = dpdy(position);
  let r1 = cross(py, normal);
  let r2 = cross(normal, px);
  let det = dot(px, r1);
  let slope = sign(det) * (dpdx(height) * r1 + dpdy(height) * r2);
  return normalize(abs(det) * normal - slope);
}
