// Terms of light that several shaders share.

/// How much of the light is mirrored at a glancing angle; `facing` is the cosine to the camera.
fn fresnel(facing: f32, edge: f32) -> f32 {
  return pow(1 - facing, edge);
}

/// Light in steps, as in a print.
fn steps(light: f32, count: f32) -> f32 {
  return floor(light * count) / count;
}
