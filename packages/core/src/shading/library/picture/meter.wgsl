// Exposure that follows the picture: how many stops it should have had, slowly.

struct Meter {
  /// Logarithm of the mean that is wanted, of base 2.
  wanted: f32,
  /// Stops.
  least: f32,
  most: f32,
  /// Share of the way that is gone in this frame.
  rate: f32,
}

// Where the picture is looked at.
const ACROSS = 24;
const DOWN = 16;

@group(0) @binding(0) var<uniform> meter: Meter;
@group(0) @binding(1) var picture: texture_2d<f32>;
@group(0) @binding(2) var before: texture_2d<f32>;

@vertex fn meterVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn meterFragment() -> @location(0) vec4f {
  let size = vec2f(textureDimensions(picture));
  var sum = 0.0;
  var count = 0.0;
  for (var y = 0; y < DOWN; y++) {
    for (var x = 0; x < ACROSS; x++) {
      let at = (vec2f(f32(x), f32(y)) + 0.5) / vec2f(f32(ACROSS), f32(DOWN)) * size;
      let seen = textureLoad(picture, vec2i(at), 0);
      // What is not covered is not the scene's.
      if seen.a < 0.5 { continue; }
      sum += log2(max(dot(seen.rgb / seen.a, vec3f(0.2126, 0.7152, 0.0722)), 1e-3));
      count += 1;
    }
  }
  let stops = textureLoad(before, vec2i(), 0).r;
  let off = select(0.0, meter.wanted - sum / max(count, 1), count > 0);
  return vec4f(clamp(stops + off * meter.rate, meter.least, meter.most), 0, 0, 1);
}
