import { nearest } from '../errors/near-names.js';
import { multiplyRotations } from '../math/quaternions.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { Animation, AnimationChannel, AnimationTarget } from './animation.js';
import type { Placing } from './placings.js';

export interface BindOptions {
  /** All nodes of the file that the animation is from, for their paths. Left out: what its channels name, with their children. */
  sources?: readonly AnimationTarget[];
  /**
   * Keeps the model's own proportions where its rest pose differs from that of the animation's model: rotations are turned
   * by the difference, ways are scaled by the ratio of the bones' lengths. Default false: values are taken as they are.
   */
  fit?: boolean;
}

/** How an animation's targets were found. */
export interface BindReport {
  matched: { target: string; node: SceneNode; by: 'placing' | 'path' | 'name' }[];
  /** What was not found, or found more than once, with the node whose name is nearest. */
  missing: { target: string; reason: 'not there' | 'several'; nearest?: string }[];
}

/** An animation whose channels know their nodes. */
export interface BoundAnimation {
  animation: Animation;
  channels: BoundChannel[];
  report: BindReport;
}

export interface BoundChannel {
  channel: AnimationChannel;
  /** Of channels that move a node, or show and hide it. */
  node: SceneNode | undefined;
  /** What makes the animation's values those of this model. */
  fit: Fit | undefined;
}

/** `turn` comes before the animation's rotation; translations are `at + (value - from) * ratio`, scales `value * ratio`. */
export interface Fit {
  turn?: readonly number[];
  from?: readonly number[];
  at?: readonly number[];
  ratio?: readonly number[];
}

/** The nodes below `root` that an animation moves: by the placing where it is of the same file, else by path, else by name. */
export function bindAnimation(
  root: SceneNode,
  animation: Animation,
  placing: Placing | undefined,
  options: BindOptions = {},
): BoundAnimation {
  const report: BindReport = { matched: [], missing: [] };
  const names = new Map<string, SceneNode[]>();
  for (const node of [root, ...root.descendants()]) {
    const list = names.get(node.name);
    if (list) list.push(node);
    else names.set(node.name, [node]);
  }
  const targets = animation.channels.flatMap(
    ({ target, property }) => target ?? ownerNode(property?.owner) ?? [],
  );
  const pathOf = pathsOf(options.sources ?? placing?.sources ?? targets);
  const found = new Map<AnimationTarget, SceneNode | undefined>();
  const find = (target: AnimationTarget): SceneNode | undefined => {
    if (found.has(target)) return found.get(target);
    const path = pathOf.get(target) ?? [target.name ?? ''];
    const answer = search(root, target, path, names, placing);
    if ('node' in answer) report.matched.push({ target: path.join('/'), ...answer });
    else report.missing.push({ target: path.join('/'), ...answer });
    const node = 'node' in answer ? answer.node : undefined;
    found.set(target, node);
    return node;
  };
  const channels: BoundChannel[] = [];
  for (const channel of animation.channels) {
    const target = channel.target ?? ownerNode(channel.property?.owner);
    const node = target && find(target);
    if (target && !node) continue;
    const isTransform = channel.path !== 'property' && channel.path !== 'weights';
    const fit = options.fit && target && node && isTransform ? fitOf(channel.path, target, node) : undefined;
    channels.push({ channel, node, fit });
  }
  return { animation, channels, report };
}

/** Owners that stand for nodes have children; materials, lights and cameras have none. */
function ownerNode(owner: object | undefined): AnimationTarget | undefined {
  return owner && 'children' in owner ? (owner as AnimationTarget) : undefined;
}

type Answer =
  | { node: SceneNode; by: 'placing' | 'path' | 'name' }
  | { reason: 'not there' | 'several'; nearest?: string };

function search(
  root: SceneNode,
  target: AnimationTarget,
  path: readonly string[],
  names: ReadonlyMap<string, SceneNode[]>,
  placing: Placing | undefined,
): Answer {
  const placed = placing?.nodeOf.get(target);
  if (placed?.isAlive) return { node: placed, by: 'placing' };
  const name = path.at(-1) ?? '';
  const candidates = names.get(name) ?? [];
  // The whole path first, then less and less of its beginning, as long as it says more than the name.
  for (let skip = 0; skip < path.length - 1; skip++) {
    const wanted = path.slice(skip);
    const fits = candidates.filter((node) => endsWith(node, root, wanted));
    if (fits.length === 1) return { node: fits[0]!, by: 'path' };
    if (fits.length > 1) return { reason: 'several' };
  }
  if (name !== '' && candidates.length === 1) return { node: candidates[0]!, by: 'name' };
  if (candidates.length > 1) return { reason: 'several' };
  const near = nearest(name, names.keys());
  return { reason: 'not there', ...(near ? { nearest: near } : {}) };
}

/** Whether a node's own path within the subtree ends with these names. */
function endsWith(node: SceneNode, root: SceneNode, names: readonly string[]): boolean {
  let at: SceneNode | undefined = node;
  for (let i = names.length - 1; i >= 0; i--) {
    if (at?.name !== names[i]) return false;
    if (i > 0) at = at === root ? undefined : at.parent;
  }
  return true;
}

/** Names from the top down, by node. */
function pathsOf(sources: readonly AnimationTarget[]): Map<AnimationTarget, string[]> {
  const parentOf = new Map<AnimationTarget, AnimationTarget>();
  for (const node of sources) for (const child of node.children) parentOf.set(child, node);
  const paths = new Map<AnimationTarget, string[]>();
  for (const node of new Set([...sources, ...parentOf.keys()])) {
    const path: string[] = [];
    for (let at: AnimationTarget | undefined = node; at && path.length < 1000; at = parentOf.get(at))
      path.unshift(at.name ?? '');
    paths.set(node, path);
  }
  return paths;
}

/** From the rest pose of the animation's model to that of ours. */
function fitOf(path: string, from: AnimationTarget, to: SceneNode): Fit {
  if (path === 'rotation') {
    const [x, y, z, w] = (from.rotation ?? [0, 0, 0, 1]) as [number, number, number, number];
    // With the animation at rest it gives our own rest.
    const turn = [0, 0, 0, 1];
    multiplyRotations(turn, 0, to.readRotation([0, 0, 0, 1]), 0, [-x, -y, -z, w], 0);
    return { turn };
  }
  if (path === 'scale') {
    const own = to.readScale([1, 1, 1]);
    const rest = from.scale ?? [1, 1, 1];
    return { ratio: own.map((v, k) => (rest[k] === 0 ? 1 : v / rest[k]!)) };
  }
  const own = to.readTranslation([0, 0, 0]);
  const rest = from.translation ?? [0, 0, 0];
  const length = Math.hypot(...rest);
  // Bones that have no length in the animation say nothing of how much larger ours are.
  const ratio = length > 1e-9 ? Math.hypot(...own) / length : 1;
  return { at: own, from: rest, ratio: [ratio, ratio, ratio] };
}
