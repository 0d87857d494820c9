// Which instances of a draw list are drawn: those that nothing hides, command by command.
import { choosing, isHidden } from './hidden.wgsl';
import { largestScale } from './scale.wgsl';
import { SLOT_BITS } from 'umber/transforms.wgsl';

struct Command {
  /// Around its geometry, in its own space.
  sphere: vec4f,
  /// Position of its first instance, and how many it has.
  first: u32,
  count: u32,
  /// Number of its draw.
  draw: u32,
}

struct Transform {
  row0: vec4f,
  row1: vec4f,
  row2: vec4f,
}

@group(1) @binding(0) var<storage, read> commands: array<Command>;
/// By workgroup: its command, and the first of its instances, counted within that.
@group(1) @binding(1) var<storage, read> groups: array<vec2u>;
@group(1) @binding(2) var<storage, read> instances: array<u32>;
@group(1) @binding(3) var<storage, read> transforms: array<Transform>;
/// By position: 1 for what was seen in the last frame. What moved to another position is at worst drawn late.
@group(1) @binding(4) var<storage, read_write> seen: array<u32>;
/// Those that are drawn, of each command from its first position on; of the second stage behind all of the first.
@group(1) @binding(5) var<storage, read_write> chosen: array<u32>;
/// Five words a draw: the second says how many instances.
@group(1) @binding(6) var<storage, read_write> draws: array<atomic<u32>>;

/// Workgroups of a row of them.
const ROW = 32768;

@compute @workgroup_size(64) fn chooseInstances(
  @builtin(workgroup_id) group: vec3u,
  @builtin(local_invocation_index) local: u32,
) {
  let work = groups[group.x + group.y * ROW];
  let command = commands[work.x];
  let number = work.y + local;
  if number >= command.count { return; }
  let at = command.first + number;
  let instance = instances[at];
  let wasSeen = seen[at] == 1;
  if choosing.stage == 1 {
    if wasSeen { take(command, 0, instance); }
    return;
  }
  let m = transforms[instance & SLOT_BITS];
  let c = vec4f(command.sphere.xyz, 1);
  let center = vec3f(dot(m.row0, c), dot(m.row1, c), dot(m.row2, c));
  let isSeen = !isHidden(center, command.sphere.w * largestScale(m.row0, m.row1, m.row2));
  seen[at] = select(0u, 1u, isSeen);
  if isSeen && !wasSeen { take(command, 1, instance); }
}

fn take(command: Command, second: u32, instance: u32) {
  let draw = command.draw * 2 + second;
  let place = atomicAdd(&draws[draw * 5 + 1], 1);
  chosen[second * (arrayLength(&chosen) / 2) + command.first + place] = instance;
}
