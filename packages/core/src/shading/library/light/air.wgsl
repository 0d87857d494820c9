// What lies around a scene and between its things: light from all directions, fog, and how light is shown. Only
// pipelines of scenes that have some of it are built with this module.

struct Air {
  /// Irradiance over pi as spherical harmonics of the orders 0 to 2; see irradianceOf in core/light.
  irradiance: array<vec4f, 9>,
  /// Cosine and sine of the environment's turn about +Y.
  turn: vec2f,
  /// Factor on its radiance; 0 where there is none.
  intensity: f32,
  /// Level of the cube that a surface of roughness 1 sees.
  roughest: f32,
  fogColor: vec3f,
  /// 0 none, 1 linear, 2 exponential, 3 squared.
  fogKind: u32,
  /// Linear: near and far. Else the density, twice.
  fogReach: vec2f,
  /// Height at which the fog has its density, and one over the metres in which it falls to 1/e; 0 for no change.
  fogHeight: vec2f,
  /// 1 when the fog has the colour of the environment.
  fogOfSky: f32,
  /// How much of the fog lies before the backdrop.
  fogOverBackdrop: f32,
  /// Which curve; see tone.wgsl.
  tone: u32,
  /// Which quantity is shown instead of light; see inspect.wgsl.
  show: u32,
  /// Factors on red, green and blue that take a tint of the light away.
  whiteBalance: vec3f,
  /// 1 where radiance is stored, and not what is shown.
  isRadiance: f32,
  probes: array<Probe, 4>,
  probeCount: u32,
  /// Bits of the things on which ambient occlusion is, and of those that reflect.
  occlusionSees: u32,
  /// Of ambient occlusion: metres that it reaches, and how much of it there is.
  occlusion: vec2f,
  /// Of reflections: how much of them there is, the roughness at which they end, metres that a ray goes, and metres behind what is seen
  /// that count as filled.
  reflections: vec4f,
  reflectionsSees: u32,
}

/// See probes.wgsl.
struct Probe {
  least: vec3f,
  intensity: f32,
  most: vec3f,
  unused: f32,
  position: vec3f,
  more: f32,
  irradiance: array<vec4f, 9>,
}

@group(0) @binding(5) var<uniform> air: Air;
@group(0) @binding(8) var environmentCube: texture_cube<f32>;
@group(0) @binding(9) var environmentSampler: sampler;

/// A direction of the world in the environment's own space.
fn inEnvironment(way: vec3f) -> vec3f {
  return vec3f(way.x * air.turn.x - way.z * air.turn.y, way.y, way.x * air.turn.y + way.z * air.turn.x);
}

/// Irradiance over pi on a surface that faces this way.
fn irradianceFrom(way: vec3f) -> vec3f {
  let n = inEnvironment(way);
  let sum = air.irradiance[0].rgb * 0.282095
    + (air.irradiance[1].rgb * n.y + air.irradiance[2].rgb * n.z + air.irradiance[3].rgb * n.x) * 0.488603
    + (air.irradiance[4].rgb * n.x * n.y + air.irradiance[5].rgb * n.y * n.z + air.irradiance[7].rgb * n.x * n.z) * 1.092548
    + air.irradiance[6].rgb * 0.315392 * (3 * n.z * n.z - 1)
    + air.irradiance[8].rgb * 0.546274 * (n.x * n.x - n.y * n.y);
  return max(sum, vec3f()) * air.intensity;
}

/// Radiance from a direction as a mirror of this perceptual roughness sees it.
fn radianceFrom(way: vec3f, roughness: f32) -> vec3f {
  return textureSampleLevel(environmentCube, environmentSampler, inEnvironment(way), roughness * air.roughest).rgb
    * air.intensity;
}
