// Rays from the camera through the picture, for shapes that are found by marching instead of by triangles.
import { asideAt, frame, ownPixel } from './frame.wgsl';

struct Ray {
  origin: vec3f,
  /// Of length 1.
  direction: vec3f,
}

/// Where a ray meets a shape, in the space of the ray.
struct Hit {
  position: vec3f,
  normal: vec3f,
  isHit: bool,
}

fn hitAt(position: vec3f, normal: vec3f) -> Hit {
  return Hit(position, normal, true);
}

fn miss() -> Hit {
  return Hit(vec3f(), vec3f(0, 1, 0), false);
}

fn asideOf(pixel: vec2f) -> vec3f {
  return asideAt(vec2f(pixel.x / frame.size.x * 2 - 1, 1 - pixel.y / frame.size.y * 2));
}

/// The ray through a pixel, in the world; the position counts from the upper left.
fn rayThrough(screenPosition: vec2f) -> Ray {
  let aside = asideOf(ownPixel(screenPosition));
  if frame.isParallel > 0.5 { return Ray(frame.cameraPosition + aside, frame.forward); }
  return Ray(frame.cameraPosition, normalize(frame.forward + aside));
}

/// A ray of the world in the space of a node.
fn rayInObject(objectToWorld: mat4x3f, ray: Ray) -> Ray {
  let c0 = cross(objectToWorld[1], objectToWorld[2]);
  let c1 = cross(objectToWorld[2], objectToWorld[0]);
  let c2 = cross(objectToWorld[0], objectToWorld[1]);
  let scale = 1 / dot(objectToWorld[0], c0);
  let start = ray.origin - objectToWorld[3];
  let origin = vec3f(dot(c0, start), dot(c1, start), dot(c2, start)) * scale;
  let way = vec3f(dot(c0, ray.direction), dot(c1, ray.direction), dot(c2, ray.direction)) * scale;
  return Ray(origin, normalize(way));
}

/// Depth of a place in the world as it is stored.
fn depthOf(position: vec3f) -> f32 {
  let clip = frame.viewProjection * vec4f(position, 1);
  return saturate(clip.z / clip.w);
}

/// What turns depths as they are stored into metres along the camera's way of looking: the same for all pixels.
struct DepthRange {
  start: vec2f,
  step: vec2f,
}

fn depthRange() -> DepthRange {
  let start = frame.viewProjection * vec4f(frame.cameraPosition, 1);
  let step = frame.viewProjection * vec4f(frame.forward, 0);
  return DepthRange(start.zw, step.zw);
}

fn metresAt(range: DepthRange, depth: f32) -> f32 {
  return (depth * range.start.y - range.start.x) / (range.step.x - depth * range.step.y);
}

/// The place that a pixel of the picture at hand shows at this many metres along the camera's way of looking.
fn placeAt(pixel: vec2f, metres: f32) -> vec3f {
  let aside = asideOf(pixel);
  return frame.cameraPosition + aside * select(metres, 1, frame.isParallel > 0.5) + frame.forward * metres;
}
