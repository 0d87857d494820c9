// A place on a surface, and what the surface is made of there.

/// A place on a surface as the camera sees it. Directions have length 1.
struct Fragment {
  /// In the world.
  position: vec3f,
  /// In the world, on the side that is seen.
  normal: vec3f,
  /// In the world, from the surface to the camera.
  toCamera: vec3f,
  /// In camera space, where the camera is at the origin and looks along -Z.
  viewPosition: vec3f,
  viewNormal: vec3f,
  texcoord0: vec2f,
  texcoord1: vec2f,
  /// The vertices' colour, white without one.
  color: vec4f,
  /// Along the first texture coordinate, in the world; w is its handedness. Zero where unknown.
  tangent: vec4f,
  isFront: bool,
#if objectSpace
  /// In the geometry's own space, before any displacement.
  objectPosition: vec3f,
  objectNormal: vec3f,
#endif
#if objectMatrix
  /// The node's world transform.
  objectToWorld: mat4x3f,
#endif
#if screenSpace
  /// Pixels from the picture's upper left corner.
  screenPosition: vec2f,
  screenSize: vec2f,
  /// Depth as it is stored: 1 near, 0 far.
  depth: f32,
#endif
}

/// What a surface is made of at a place (glTF's metallic-roughness model).
struct Surface {
  baseColor: vec3f,
  alpha: f32,
  /// In the world, of length 1.
  normal: vec3f,
  metallic: f32,
  roughness: f32,
  /// How much of the light from all around arrives: 1 all, 0 none.
  occlusion: f32,
  /// Light of its own, as radiance.
  emissive: vec3f,
#if layers
  /// Lacquer on top: how much, how rough, and its own normal.
  clearcoat: f32,
  clearcoatRoughness: f32,
  clearcoatNormal: vec3f,
  /// Fibres that glow at grazing angles.
  sheenColor: vec3f,
  sheenRoughness: f32,
  /// How what is no metal mirrors.
  specular: f32,
  specularColor: vec3f,
  ior: f32,
  /// Light that goes through: its share, metres of the body below, and what that leaves after `attenuationDistance`.
  transmission: f32,
  thickness: f32,
  attenuationColor: vec3f,
  attenuationDistance: f32,
  dispersion: f32,
  /// A film: how much, its index of refraction, and its thickness in nanometres.
  iridescence: f32,
  iridescenceIor: f32,
  iridescenceThickness: f32,
  /// Brushed along a direction of length 1.
  anisotropy: f32,
  anisotropyDirection: vec3f,
  /// Light that shines through from behind.
  diffuseTransmission: f32,
  diffuseTransmissionColor: vec3f,
#endif
}
