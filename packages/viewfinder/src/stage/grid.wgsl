// The grid on the ground, over a finished picture: hidden by what stood before it there.

struct Grid {
  clipFromWorld: mat4x4f,
  /** Its middle on the ground, metres along x and z. */
  middle: vec2f,
  /** Metres from line to line. */
  step: f32,
  /** Steps from the middle to its edge. */
  half: f32,
  /** Pixels of the picture. */
  size: vec2f,
}

@group(0) @binding(0) var<uniform> grid: Grid;
@group(0) @binding(1) var pictureDepth: texture_depth_2d;

struct Corner {
  @builtin(position) position: vec4f,
  /** In steps from the middle, which lies on a line of the coarse ones. */
  @location(0) place: vec2f,
}

@vertex fn gridVertex(@builtin(vertex_index) i: u32) -> Corner {
  let place = (vec2f(vec2u(i & 1, i >> 1)) * 2 - 1) * grid.half;
  let ground = grid.middle + place * grid.step;
  return Corner(grid.clipFromWorld * vec4f(ground.x, 0, ground.y, 1), place);
}

/** How much of a pixel the nearest line covers; where lines lie closer than pixels, what they cover on the whole. */
fn covered(place: vec2f, pixel: vec2f) -> f32 {
  let nearest = saturate(1 - abs(place - round(place)) / pixel);
  let share = mix(nearest, min(pixel, vec2f(1)), saturate(pixel * 2 - 0.5));
  return max(share.x, share.y);
}

/** As screens have it: what a linear color of 0.82, 0.72 and 0.55 is. */
const SAND = vec3f(0.915, 0.868, 0.767);

@fragment fn gridFragment(in: Corner) -> @location(0) vec4f {
  let pixel = max(fwidth(in.place), vec2f(1e-6));
  let fine = covered(in.place, pixel) * FINE;
  let coarse = covered(in.place / 10, pixel / 10) * COARSE;
  let away = max(abs(in.place.x), abs(in.place.y)) / grid.half;
  // A picture of fewer pixels has depths of fewer. What lies on the ground itself hides no line: they are nearer by a
  // five hundredth, since depths of large triangles differ by their corners.
  let at = vec2i(in.position.xy / grid.size * vec2f(textureDimensions(pictureDepth)));
  let isSeen = in.position.z * 1.002 >= textureLoad(pictureDepth, at, 0);
  let alpha = select(0, max(fine, coarse) * (1 - smoothstep(0.8, 1, away)), isSeen);
  return vec4f(SAND * alpha, alpha);
}

const FINE = 0.3;
const COARSE = 0.5;
