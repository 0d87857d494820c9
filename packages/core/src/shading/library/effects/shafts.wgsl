// Of light shafts, for both of their passes.

struct Shafts {
  /// Linear, with how much of it there is.
  color: vec3f,
  /// Share of the way to the light that is looked at.
  reach: f32,
  /// Where the light is, 0..1 from the upper left of the picture.
  light: vec2f,
  /// Depth of the light as it is stored; 0: behind everything.
  depth: f32,
  /// How much of the whole picture's height this one has: 1, but where it is a part of a larger one.
  share: f32,
}
