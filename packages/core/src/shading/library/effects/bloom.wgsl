// What the passes of bloom are told.

struct Bloom {
  /// Share of the light that is spread.
  amount: f32,
  /// Share of each level that comes from the wider ones.
  spread: f32,
  /// Light below it is not spread.
  threshold: f32,
}
