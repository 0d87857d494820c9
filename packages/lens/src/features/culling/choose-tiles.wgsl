// Which tiles of a swarm are drawn, at which levels, and how many of their copies: the same as `SwarmView` chooses in
// script, tile by tile.
import { choosing, isHidden, isInView } from './hidden.wgsl';
import { LEVEL_SHIFT, REPEAT_SHIFT, SHOWN_SHIFT } from 'umber/swarm.wgsl';

struct Shape {
  /// The node's transform.
  row0: vec4f,
  row1: vec4f,
  row2: vec4f,
  /// Pixels that an unscaled copy is high at distance 1.
  size: f32,
  /// The most and the least by which the node stretches.
  wide: f32,
  narrow: f32,
  /// What any instance says of the node.
  instance: u32,
  /// Pixels below which copies are left out, or 0; and the least share of them.
  thinPixels: f32,
  thinLeast: f32,
  /// Its tiles.
  firstTile: u32,
  tiles: u32,
  /// Where its header lies.
  head: u32,
  /// Where it is noted which tiles were seen.
  firstSeen: u32,
  levels: u32,
  /// Share of the copies that are shown, in parts of 65,536.
  share: u32,
  /// By level: least pixels, copies an instance, number of the draw (or all bits for none), and where its words begin.
  pixels: vec4f,
  repeats: vec4u,
  draws: vec4u,
  starts: vec4u,
}

struct GpuTile {
  center: vec3f,
  /// Of spheres around where copies stand, and around all that they reach.
  stands: f32,
  reaches: f32,
  least: f32,
  most: f32,
  first: u32,
  copies: u32,
}

@group(1) @binding(0) var<uniform> shape: Shape;
@group(1) @binding(1) var<storage, read> tiles: array<GpuTile>;
@group(1) @binding(2) var<storage, read_write> seen: array<u32>;
/// Four words an instance; of the second stage behind all of the first.
@group(1) @binding(3) var<storage, read_write> words: array<vec4u>;
@group(1) @binding(4) var<storage, read_write> draws: array<atomic<u32>>;

const BAND = 1.25;
/// Number of the draw of a level that has none.
const NO_DRAW = 0xffffffffu;

@compute @workgroup_size(64) fn chooseTiles(@builtin(global_invocation_id) id: vec3u) {
  if id.x >= shape.tiles { return; }
  let tile = tiles[shape.firstTile + id.x];
  let note = shape.firstSeen + id.x;
  let c = vec4f(tile.center, 1);
  let center = vec3f(dot(shape.row0, c), dot(shape.row1, c), dot(shape.row2, c));
  let reaches = tile.reaches * shape.wide;
  let isThere = isInView(center, reaches);
  if choosing.stage == 0 {
    if isThere { take(tile, id.x, center, 0); }
    return;
  }
  let wasSeen = seen[note] == 1;
  if choosing.stage == 1 {
    if isThere && wasSeen { take(tile, id.x, center, 0); }
    return;
  }
  let isSeen = isThere && !isHidden(center, reaches);
  seen[note] = select(0u, 1u, isSeen);
  if isSeen && !wasSeen { take(tile, id.x, center, 1); }
}

/// Share of the copies that are drawn at a size.
fn shareOf(pixels: f32) -> f32 {
  let ratio = pixels / shape.thinPixels;
  return clamp(BAND * ratio * ratio, shape.thinLeast, BAND);
}

fn take(tile: GpuTile, number: u32, center: vec3f, second: u32) {
  let distance = length(center - choosing.camera);
  let stands = tile.stands * shape.wide;
  let isParallel = choosing.isParallel > 0.5;
  let near = select(max(distance - stands, 1e-6), 1, isParallel);
  let far = select(distance + stands, 1, isParallel);
  // A hundredth of slack, for what the vertex stage rounds otherwise.
  let largest = 1.01 * shape.size * tile.most * shape.wide / near;
  let smallest = 0.99 * shape.size * tile.least * shape.narrow / far;
  // As `Swarm.shownOf` has it.
  let shown = (tile.copies * shape.share + ((number * 40503) & 0xffff)) >> 16;
  if shown == 0 { return; }
  var copies = shown;
  if shape.thinPixels > 0 { copies = u32(ceil(f32(copies) * min(1, shareOf(largest)))); }
  for (var level = 0u; level < shape.levels; level++) {
    if largest < shape.pixels[level] { continue; }
    // From here on the level before covers all.
    if level > 0 && smallest > shape.pixels[max(level, 1) - 1] * BAND { break; }
    let draw = shape.draws[level];
    if draw == NO_DRAW { continue; }
    let repeats = shape.repeats[level];
    let count = (copies + repeats - 1) / repeats;
    let place = atomicAdd(&draws[(draw * 2 + second) * 5 + 1], count);
    let start = second * (arrayLength(&words) / 2) + shape.starts[level] + place;
    for (var i = 0u; i < count; i++) {
      let done = i * repeats;
      let here = min(copies - done, repeats);
      words[start + i] = vec4u(
        shape.instance,
        shape.head,
        (tile.first + done) | ((here - 1) << REPEAT_SHIFT) | (level << LEVEL_SHIFT),
        done | (shown << SHOWN_SHIFT),
      );
    }
  }
}
