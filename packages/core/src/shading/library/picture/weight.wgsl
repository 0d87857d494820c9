// By how much a colour is multiplied that goes over what is there.

/// Whether colours are multiplied by their alpha already.
override isPremultiplied = false;

fn weightOf(alpha: f32) -> f32 {
  return select(alpha, 1, isPremultiplied);
}
