// Frames put together: each shows other places within its pixels, and what moves is looked up where it was (Karis, "High Quality
// Temporal Supersampling", SIGGRAPH 2014). What was there before counts as far as it lies among the colours around the pixel (Salvi, "An
// Excursion in Temporal Supersampling", GDC 2016).
import { screenCorner } from './screen.wgsl';
import { EffectMotion } from './velocity.wgsl';

/// Whether there are more pixels than were drawn.
override isUpscaling = false;

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> motion: EffectMotion;
/// Of age.
@group(0) @binding(2) var ages: texture_2d<f32>;
@group(0) @binding(5) var before: texture_2d<f32>;

fn beforeAt(at: vec2i) -> vec4f {
  return textureLoad(before, clamp(at, vec2i(), vec2i(textureDimensions(before)) - 1), 0);
}

/// Between pixels, by Catmull and Rom: repeated, straight means would blur.
fn beforeBetween(place: vec2f) -> vec4f {
  let low = floor(place - 0.5);
  let t = place - 0.5 - low;
  let w0 = t * (-0.5 + t * (1 - 0.5 * t));
  let w1 = 1 + t * t * (-2.5 + 1.5 * t);
  let w2 = t * (0.5 + t * (2 - 1.5 * t));
  let w3 = t * t * (-0.5 + 0.5 * t);
  let xs = vec4f(w0.x, w1.x, w2.x, w3.x);
  let ys = vec4f(w0.y, w1.y, w2.y, w3.y);
  let at = vec2i(low) - 1;
  var sum = vec4f();
  for (var y = 0; y < 4; y++) {
    for (var x = 0; x < 4; x++) {
      sum += beforeAt(at + vec2i(x, y)) * (xs[x] * ys[y]);
    }
  }
  return max(sum, vec4f());
}

/// Brightness, orange against blue, green against purple (YCoCg).
fn toBrightness(c: vec4f) -> vec4f {
  return vec4f(c.g * 0.5 + (c.r + c.b) * 0.25, (c.r - c.b) * 0.5, c.g * 0.5 - (c.r + c.b) * 0.25, c.a);
}

fn fromBrightness(c: vec4f) -> vec4f {
  return vec4f(c.x + c.y - c.z, c.x + c.z, c.x - c.y - c.z, c.a);
}

@vertex fn temporalVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn temporalFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let last = vec2i(textureDimensions(picture)) - 1;
  let age = textureLoad(ages, pixel, 0);
  let moved = age.zw;
  // Where the pixel lies among those that were drawn, and how large it is there.
  let step = vec2f(textureDimensions(picture)) / vec2f(textureDimensions(before));
  let place = at.xy * step;
  var middle = vec2i(place);
  if isUpscaling { middle = vec2i(floor(place + motion.shift)); }
  var own = vec4f();
  var all = vec4f();
  var weights = 0.0;
  var weight = 0.0;
  var sum = vec4f();
  var squares = vec4f();
  for (var y = -1; y <= 1; y++) {
    for (var x = -1; x <= 1; x++) {
      let there = clamp(middle + vec2i(x, y), vec2i(), last);
      let c = textureLoad(picture, there, 0);
      let seen = toBrightness(c);
      sum += seen;
      squares += seen * seen;
      if isUpscaling {
        // A sample shows the place that the shift has brought there.
        let apart = (vec2f(there) + 0.5 - motion.shift - place) / step;
        let near = exp(-4 * dot(apart, apart));
        all += c * near;
        weights += near;
        if near > weight {
          weight = near;
          own = c;
        }
      } else if x == 0 && y == 0 { own = c; }
    }
  }
  if age.x < 1.5 { return select(own, all / max(weights, 1e-6), isUpscaling); }
  let isStill = dot(moved, moved) < 4e-4;
  var known = beforeAt(pixel);
  var share = 1 / age.x;
  // What was drawn far from the pixel tells little of it.
  if isUpscaling { share = min(1, share * weight * motion.gain); }
  if !isStill {
    known = beforeBetween(at.xy - moved);
    share = max(share, select(motion.amount, min(1, motion.amount * weight * motion.gain), isUpscaling));
  }
  let mean = sum / 9;
  let spread = sqrt(max(squares / 9 - mean * mean, vec4f())) * select(1.25, 2.5, isStill) + 0.002;
  // Towards the mean, until it is among them.
  let given = toBrightness(known);
  let apart = abs(given - mean) / spread;
  let most = max(max(apart.x, apart.y), max(apart.z, apart.w));
  let kept = select(mean + (given - mean) / most, given, most <= 1);
  // What was far from all that is there now was another thing.
  share = max(share, motion.amount * saturate(most - 1));
  return mix(max(fromBrightness(kept), vec4f()), own, share);
}
