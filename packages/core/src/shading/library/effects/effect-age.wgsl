// How many frames a pixel has been put together of: the first of what was hidden before counts alone.
import { screenCorner } from './screen.wgsl';
import { EffectMotion, metresOf, movedBy } from './velocity.wgsl';

@group(0) @binding(1) var<uniform> motion: EffectMotion;
@group(0) @binding(4) var depths: texture_depth_2d;
@group(0) @binding(5) var before: texture_2d<f32>;
@group(0) @binding(7) var velocities: texture_2d<f32>;

/// Of what stands still, and of what moves: more would show what was elsewhere.
const MOST = 64.0;
const MOST_MOVING = 10.0;

@vertex fn ageVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

/// Frames; metres to the nearest around the pixel, up to the greatest half float; pixels that it has come, to the right and down.
@fragment fn ageFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  // The picture may be drawn with fewer pixels than it is put together to.
  let drawn = vec2f(textureDimensions(depths));
  let size = vec2f(textureDimensions(before));
  let pixel = vec2i(floor(at.xy * drawn / size));
  let last = vec2i(drawn) - 1;
  var nearest = pixel;
  var depth = 0.0;
  // Edges move with what is nearer.
  for (var y = -1; y <= 1; y++) {
    for (var x = -1; x <= 1; x++) {
      let there = clamp(pixel + vec2i(x, y), vec2i(), last);
      let d = textureLoad(depths, there, 0);
      if d > depth {
        depth = d;
        nearest = there;
      }
    }
  }
  let found = textureLoad(velocities, nearest, 0);
  let moved = movedBy(found, (vec2f(nearest) + 0.5) / drawn, motion) * size;
  let metres = min(metresOf(depth, motion), 60000);
  let from_ = at.xy - moved;
  if motion.samples < 1.5 || any(from_ < vec2f()) || any(from_ > size) { return vec4f(1, metres, moved); }
  let known = textureLoad(before, clamp(vec2i(floor(from_)), vec2i(), vec2i(size) - 1), 0);
  var expected = 60000.0;
  if found.w > 0.5 { expected = min(metresOf(found.z, motion), 60000); }
  // What lay before it and moved has gone. Still edges come and go as the samples within their pixels do.
  let wasHidden = known.y < expected * 0.95 && dot(known.zw, known.zw) > 4e-4;
  let isStill = dot(moved, moved) < 4e-4;
  let count = select(min(known.x + 1, select(MOST_MOVING, MOST, isStill)), 1, wasHidden);
  return vec4f(count, metres, moved);
}
