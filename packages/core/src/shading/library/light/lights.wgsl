// Light as it arrives at a place (KHR_lights_punctual).

const MOST_LIGHTS = 64;

struct LightSource {
  position: vec3f,
  /// 1 / range; 0 for no limit.
  inverseRange: f32,
  /// Way the light travels. Of area lights half of their width, as they lie in the world.
  direction: vec3f,
  /// 0 point and spot, 1 directional, 2 rectangle, 3 disc.
  kind: f32,
  /// Colour times intensity; of area lights, radiance.
  color: vec3f,
  /// Scale and offset of the cosine between the cone's two angles.
  coneScale: f32,
  coneOffset: f32,
  /// Its shadow maps: 0 for none, else one more than the first, plus 256 times how many.
  shadow: u32,
  /// Half of an area light's height is coneScale, coneOffset and this.
  more: f32,
  /// Bits of the things that it reaches.
  sees: u32,
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
  return lightFrom(lights[index], index, position);
}

fn lightFrom(source: LightSource, index: u32, position: vec3f) -> Light {
  if source.kind > 0.5 { return Light(-source.direction, source.color, index); }
  let way = source.position - position;
  let squared = max(dot(way, way), 1e-8);
  let direction = way * inverseSqrt(squared);
  let ratio = squared * source.inverseRange * source.inverseRange;
  let cone = saturate(-dot(direction, source.direction) * source.coneScale + source.coneOffset);
  let attenuation = saturate(1 - ratio * ratio) / squared * cone * cone;
  return Light(direction, source.color * attenuation, index);
}
