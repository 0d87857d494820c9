// In place of lights.wgsl where a shader stands alone: up to four lights, of the sun's kind or in all directions from a place.

const MOST_LIGHTS = 4;

struct LightSource {
  /// In the world: where it is; where its rays are parallel, the way to it.
  position: vec3f,
  /// 1 when its rays are parallel, else 0.
  isParallel: f32,
  /// What arrives: lux where rays are parallel, else candela.
  color: vec3f,
}

@group(0) @binding(1) var<uniform> lights: array<LightSource, MOST_LIGHTS>;

/// One light as it arrives at a place.
struct Light {
  /// Unit vector from the place to the light.
  direction: vec3f,
  /// What arrives on a surface that faces the light: lux.
  color: vec3f,
  index: u32,
}

fn lightAt(index: u32, position: vec3f) -> Light {
  let way = lights[index].position - position * (1 - lights[index].isParallel);
  let squared = max(dot(way, way), 1e-8);
  return Light(way * inverseSqrt(squared), lights[index].color / mix(squared, 1, lights[index].isParallel), index);
}
