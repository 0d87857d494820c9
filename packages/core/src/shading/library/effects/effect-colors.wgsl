// Effects that change each pixel by itself, one after the other in one pass (Filter Effects Module Level 1). Each works on
// colours without their alpha multiplied in, and leaves what is 0 to 1.
import { decodeSrgb, encodeSrgb } from './color.wgsl';
import { screenCorner } from './screen.wgsl';

/// Whether an operation computes in linear light, and whether one is a function.
override hasLinear = false;
override hasFunctions = false;
/// How many operations there are: known when it is built, so that those that are not there cost nothing.
override count = 1u;

const MOST_OPERATIONS = 8;

struct ColorOperation {
  /// What it is: 0 a matrix, 1 functions; and 1 where it computes in linear light.
  head: vec4f,
  /// Of red, green, blue, alpha: factors of the four; or a function and its three numbers.
  rows: array<vec4f, 4>,
  /// What a matrix adds.
  bias: vec4f,
}

struct ColorOperations {
  operations: array<ColorOperation, MOST_OPERATIONS>,
  tables: array<vec4f, 64>,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> colors: ColorOperations;

fn tableValue(i: u32) -> f32 { return colors.tables[i >> 2][i & 3]; }

/// A function of a channel: identity, table, discrete, linear, gamma.
fn transferred(c: f32, function: vec4f) -> f32 {
  switch u32(function.x) {
    case 1: {
      let first = u32(function.y);
      let steps = u32(function.z) - 1;
      let at = min(u32(c * f32(steps)), steps);
      let start = tableValue(first + at);
      if at == steps { return start; }
      return mix(start, tableValue(first + at + 1), c * f32(steps) - f32(at));
    }
    case 2: {
      let count = u32(function.z);
      return tableValue(u32(function.y) + min(u32(c * f32(count)), count - 1));
    }
    case 3: { return function.y * c + function.z; }
    case 4: { return function.y * pow(c, function.z) + function.w; }
    default: { return c; }
  }
}

fn operated(given: vec4f, k: u32) -> vec4f {
  let head = colors.operations[k].head;
  var c = given;
  if hasLinear && head.y > 0.5 { c = vec4f(decodeSrgb(c.rgb), c.a); }
  let red = colors.operations[k].rows[0];
  let green = colors.operations[k].rows[1];
  let blue = colors.operations[k].rows[2];
  let alpha = colors.operations[k].rows[3];
  if !hasFunctions || head.x < 0.5 { c = vec4f(dot(red, c), dot(green, c), dot(blue, c), dot(alpha, c)) + colors.operations[k].bias; }
  else { c = vec4f(transferred(c.r, red), transferred(c.g, green), transferred(c.b, blue), transferred(c.a, alpha)); }
  c = saturate(c);
  if hasLinear && head.y > 0.5 { c = vec4f(encodeSrgb(c.rgb), c.a); }
  return c;
}

@vertex fn colorsVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn colorsFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let given = textureLoad(picture, vec2i(at.xy), 0);
  var c = vec4f(select(vec3f(), given.rgb / max(given.a, 1e-6), given.a > 0), given.a);
  c = operated(c, 0);
  if count > 1 { c = operated(c, 1); }
  if count > 2 { c = operated(c, 2); }
  if count > 3 { c = operated(c, 3); }
  if count > 4 { c = operated(c, 4); }
  if count > 5 { c = operated(c, 5); }
  if count > 6 { c = operated(c, 6); }
  if count > 7 { c = operated(c, 7); }
  return vec4f(c.rgb * c.a, c.a);
}
