// Copies of a swarm: their records lie in one buffer, and an instance names several of them.
import { frame } from './frame.wgsl';
import { pixelNoise } from './pixel-noise.wgsl';

override isSwarm = false;

/// Of each shape four steps: vertices of a copy by level; least pixels by level; pixels below which copies are left out, the
/// least share of them, how much wider the others become, radius of the geometry; then as whole numbers: steps from one
/// record to the next, to the colour or 0, floats to the settings, steps from here to the first record. A record begins with
/// the rows of a matrix.
@group(0) @binding(24) var<storage, read> swarms: array<vec4u>;

// The third word of an instance: the number of its first copy, above it how many more there are, and the level.
const COPY_BITS = 0xffffffu;
const REPEAT_SHIFT = 24u;
const REPEAT_BITS = 63u;
const LEVEL_SHIFT = 30u;
/// The fourth: how many copies of its tile stand before it, and above it how many are shown of the tile.
const RANK_BITS = 0xffffu;
const SHOWN_SHIFT = 16u;

/// Sizes between a level's least pixels and this many times as much belong to two levels.
const BAND = 1.25;

struct Copy {
  objectToWorld: mat4x3f,
  tint: vec4f,
  /// Shares of the pixels: up to where this level covers them, and from where on.
  shares: vec2f,
  /// The copy's record.
  number: u32,
  /// Of the vertex in the copy.
  vertex: u32,
  /// Where its settings lie, in floats.
  settings: u32,
  isShown: bool,
}

fn swarmStep(at: u32) -> vec4f { return bitcast<vec4f>(swarms[at]); }

fn swarmRow(m: mat4x3f, row: vec4f) -> vec3f { return m[0] * row.x + m[1] * row.y + m[2] * row.z; }

fn levelShare(pixels: f32, least: f32) -> f32 {
  return select(saturate((pixels / least - 1) / (BAND - 1)), 1, least == 0);
}

/// The copy that a vertex of an instance belongs to.
fn copyOf(code: vec4u, index: u32, node: mat4x3f) -> Copy {
  let head = code.y;
  let level = code.z >> LEVEL_SHIFT;
  let vertices = u32(swarmStep(head)[level]);
  let place = swarms[head + 3];
  let k = index / vertices;
  var c: Copy;
  c.vertex = index - k * vertices;
  c.number = (code.z & COPY_BITS) + k;
  let isThere = k <= ((code.z >> REPEAT_SHIFT) & REPEAT_BITS);
  let record = head + place.w + select(0, c.number * place.x, isThere);
  let own = transpose(mat3x4f(swarmStep(record), swarmStep(record + 1), swarmStep(record + 2)));
  var m = mat4x3f(
    swarmRow(node, vec4f(own[0], 0)),
    swarmRow(node, vec4f(own[1], 0)),
    swarmRow(node, vec4f(own[2], 0)),
    swarmRow(node, vec4f(own[3], 0)) + node[3],
  );
  c.tint = vec4f(1);
  if place.y > 0 { c.tint = swarmStep(record + place.y); }
  c.settings = record * 4 + place.z;
  let thin = swarmStep(head + 2);
  let scale = max(length(m[0]), max(length(m[1]), length(m[2])));
  let distance = select(max(length(m[3] - frame.cameraPosition), 1e-6), 1, frame.isParallel > 0.5);
  let pixels = thin.w * scale * frame.size.y / (length(frame.up) * distance);
  let least = swarmStep(head + 1);
  c.shares = vec2f(levelShare(pixels, least[level]), 0);
  if level > 0 { c.shares.y = levelShare(pixels, least[level - 1]); }
  var grown = 1.0;
  if thin.x > 0 {
    let ratio = pixels / thin.x;
    let share = clamp(BAND * ratio * ratio, thin.y, BAND);
    let rank = (f32((code.w & RANK_BITS) + k) + 0.5) / f32(code.w >> SHOWN_SHIFT);
    grown = saturate((share - rank) / (0.2 * share));
    let wider = grown * pow(1 / min(1, share), thin.z);
    m = mat4x3f(m[0] * wider, m[1] * grown, m[2] * wider, m[3]);
  }
  c.objectToWorld = m;
  c.isShown = isThere && grown > 0 && scale > 0 && c.shares.x > 0 && c.shares.y < 1;
  return c;
}

fn swarmFloat(at: u32) -> f32 { return bitcast<f32>(swarms[at >> 2][at & 3]); }

/// Whether a pixel belongs to another level: interleaved gradient noise, another pattern for each copy.
fn isOfOtherLevel(at: vec2f, shares: vec2f, number: f32) -> bool {
  if shares.x >= 1 && shares.y <= 0 { return false; }
  let p = fract(pixelNoise(at) + number * 0.6180339);
  return p >= shares.x || p < shares.y;
}
