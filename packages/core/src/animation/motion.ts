import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import { multiplyRotations, normalizeRotation, slerp } from '../math/quaternions.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { Animation, AnimationSampler, AnimationTarget } from './animation.js';
import { bindAnimation, type BindOptions, type BoundAnimation, type BoundChannel, type Fit } from './bind.js';
import { OwnCopies } from './own-copies.js';
import { Playback, type PlayOptions } from './playback.js';
import { type Placing, placingOf } from './placings.js';
import { type DirectChannel, DirectChannels } from './direct-channels.js';
import { clock, sampleAnimation } from './sample.js';
import { blend, grown, grownBytes, mix, readSlot, type Slot, writeSlot } from './slots.js';

export interface MotionOptions {
  /** Animations to be played by name. Default: those of the model that was placed as the node. */
  animations?: readonly Animation<AnimationTarget>[];
}

/** Nodes whose subtrees are moved, or which of the whole are and which are not. */
export type AnimationMask =
  | SceneNode
  | readonly SceneNode[]
  | { include?: SceneNode | readonly SceneNode[]; exclude?: SceneNode | readonly SceneNode[] };

export interface StartOptions extends PlayOptions, BindOptions {
  /** What is moved: these nodes with all below them. Left out: everything that the animation names. */
  mask?: AnimationMask;
}

/** A channel of something that plays. */
interface Part {
  slot: number;
  /** Of channels whose values may go straight into the node's columns. */
  node: SceneNode | undefined;
  path: Slot['path'];
  sampler: AnimationSampler;
  fit: Fit | undefined;
  hint: number;
  /** Of additive animations: the value that the animation differs from. */
  reference: Float64Array | undefined;
}

/** Motions by the node that they were made of, for tools that look into a running scene. */
const made = new WeakMap<SceneNode, Motion[]>();

/** Those of a node. */
export const motionsOf = (node: SceneNode): readonly Motion[] => made.get(node) ?? [];

/**
 * What moves the nodes below one node: animations that play, share weights, cover or add to one another.
 *
 *     const motion = new Motion(gull);
 *     motion.play('glide');
 *     motion.crossFade('flap', { fade: 0.3 });
 *     lens.run(({ delta }) => { motion.update(delta); lens.draw(scene, camera); });
 *
 * The pose starts as the one in which the nodes stood when an animation first named them. Layer after layer then covers it, by
 * as much as the layer's weights add up to (at most 1); within a layer animations share by weight, rotations by the
 * normalised sum of quaternions. Additive animations come last in their layer. What no animation moves any more goes back to
 * where it stood. A motion is one placing's own: materials, lights and cameras that its animations animate become copies.
 */
export class Motion {
  /** What plays, lower layers first; may be read, not written to. */
  readonly playbacks: Playback[] = [];
  readonly animations: readonly Animation[];
  private readonly placing: Placing | undefined;
  private readonly copies: OwnCopies;
  private readonly slots: Slot[] = [];
  private readonly slotOf = new Map<object, Map<string, number>>();
  private readonly parts = new Map<Playback, Part[]>();
  /** Of the animation that is alone: what goes straight into columns, and the rest. */
  private directly: { playback: Playback; channels: DirectChannels; others: Part[] } | undefined;
  private readonly bindings = new Map<Animation, BoundAnimation>();
  /** By value: where it stood, the result, and the sum of what a layer's animations give. */
  private rest = new Float64Array(0);
  private result = new Float64Array(0);
  private sum = new Float64Array(0);
  /** By slot: what the weights in `sum` add up to; whether animations move it, and whether they did. */
  private total = new Float64Array(0);
  private isMoved = new Uint8Array(0);
  private wasMoved = new Uint8Array(0);
  private values = 0;
  private mustCompose = false;
  /** What alone moved everything the last time. */
  private alone: Playback | undefined;
  private sample = new Float64Array(16);
  private readonly turned = new Float64Array(4);

  constructor(
    readonly node: SceneNode,
    options: MotionOptions = {},
  ) {
    this.placing = placingOf(node);
    this.animations = options.animations ?? this.placing?.animations ?? [];
    this.copies = new OwnCopies(node);
    made.set(node, [...motionsOf(node), this]);
  }

  /** Names of the animations that can be played by name. */
  get names(): string[] {
    return this.animations.map(({ name }, i) => name ?? `animation ${i}`);
  }

  /**
   * Finds the nodes that an animation moves, in this model's own or another's file, and tells what was found.
   *
   * @throws LensError `animation/no-animation`
   */
  bind(clip: string | Animation, options: BindOptions = {}): BoundAnimation {
    const animation = typeof clip === 'string' ? this.named(clip) : clip;
    const bound = bindAnimation(this.node, animation, this.placing, options);
    this.bindings.set(animation, bound);
    return bound;
  }

  /**
   * Plays an animation from the next `update` on, beside what plays already.
   *
   * @throws LensError `animation/no-animation` for a name that there is not, `animation/no-match` when the animation moves nothing
   *   here, `animation/number` for numbers that are not finite
   */
  play(clip: string | Animation | BoundAnimation, options: StartOptions = {}): Playback {
    const bound = this.boundOf(clip, options);
    if (bound.channels.length === 0 && bound.report.missing.length > 0) {
      const missing = bound.report.missing.map(
        ({ target, nearest: near }) => `"${target}"${near ? ` (nearest: "${near}")` : ''}`,
      );
      throw new LensError(
        'animation/no-match',
        `nothing below "${this.node.name}" is what "${bound.animation.name ?? 'the clip'}" moves`,
        { hint: `It moves ${missing.slice(0, 6).join(', ')}.` },
      );
    }
    const playback = new Playback(bound, options);
    const isMeant = masked(options);
    const parts = bound.channels.flatMap((channel): Part[] => {
      if (channel.node && !isMeant(channel.node)) return [];
      const slot = this.slotFor(channel);
      return slot === undefined ? [] : [this.partOf(channel, slot, playback)];
    });
    this.parts.set(playback, parts);
    let at = this.playbacks.length;
    while (at > 0 && this.playbacks[at - 1]!.layer > playback.layer) at--; // at > 0
    this.playbacks.splice(at, 0, playback);
    this.mustCompose = true;
    return playback;
  }

  /** Plays an animation, and lets what else plays in its layer fade away in the same time. */
  crossFade(clip: string | Animation | BoundAnimation, options: StartOptions = {}): Playback {
    const { layer = 0, fade = 0 } = options;
    for (const other of [...this.playbacks])
      if (other.layer === layer && !other.isAdditive) other.stop({ fade });
    return this.play(clip, options);
  }

  /** Ends all that plays, at once or in some seconds. */
  stop(options: { fade?: number } = {}): void {
    for (const playback of this.playbacks) playback.stop(options);
    this.mustCompose = true;
  }

  /**
   * Goes on by some seconds and moves the nodes. Costs nothing when all that plays is paused or over, and allocates
   * nothing as long as nothing comes or goes.
   */
  update(delta: number): void {
    if (!(delta >= 0 && delta < Infinity))
      throw new LensError('animation/number', `delta is ${delta}`, {
        hint: 'Give the seconds since the last update, 0 or more.',
      });
    const { playbacks } = this;
    let hasGone = false;
    for (let i = 0; i < playbacks.length; i++) {
      const playback = playbacks[i]!; // i < length, here and below
      playback.advance(delta);
      if (playback.isStale) this.mustCompose = true;
      if (!playback.isLiving) hasGone = true;
    }
    if (hasGone) this.dropEnded();
    if (!this.mustCompose) return;
    this.mustCompose = false;
    this.compose();
  }

  private named(name: string): Animation {
    const found = this.animations[this.names.indexOf(name)];
    if (found) return found;
    throw new LensError('animation/no-clip', `"${this.node.name}" has no clip "${name}"`, {
      hint: nearHint(name, this.names),
    });
  }

  private boundOf(clip: string | Animation | BoundAnimation, options: BindOptions): BoundAnimation {
    if (typeof clip !== 'string' && 'report' in clip) return clip;
    const animation = typeof clip === 'string' ? this.named(clip) : clip;
    const isPlain = options.sources === undefined && options.fit === undefined;
    return (isPlain ? this.bindings.get(animation) : undefined) ?? this.bind(animation, options);
  }

  private dropEnded(): void {
    for (let i = this.playbacks.length - 1; i >= 0; i--) {
      const playback = this.playbacks[i]!; // i in range
      if (playback.isLiving) continue;
      this.playbacks.splice(i, 1);
      this.parts.delete(playback);
      this.mustCompose = true;
    }
  }

  /** Where a channel's values go; undefined where there is nothing like it here. */
  private slotFor({ channel, node }: BoundChannel): number | undefined {
    const { path, sampler, property } = channel;
    const place = path === 'property' && property ? this.copies.placeOf(property, node) : undefined;
    const owner = place?.owner ?? node;
    if (!owner) return undefined;
    const key = place ? String(place.key) : path;
    let own = this.slotOf.get(owner);
    if (!own) this.slotOf.set(owner, (own = new Map<string, number>()));
    const known = own.get(key);
    if (known !== undefined) return known;
    const width =
      path === 'weights' ? (node?.scene.guests.weightsOf(node)?.weights.length ?? 0) : sampler.components;
    if (width === 0) return undefined;
    const kind = path === 'rotation' ? 'rotation' : 'numbers';
    const slot: Slot = { node, path, place, kind, at: this.values, width };
    const number = this.slots.push(slot) - 1;
    own.set(key, number);
    this.values += width;
    this.rest = grown(this.rest, this.values);
    this.result = grown(this.result, this.values);
    this.sum = grown(this.sum, this.values);
    this.sample = grown(this.sample, width);
    this.total = grown(this.total, this.slots.length);
    this.isMoved = grownBytes(this.isMoved, this.slots.length);
    this.wasMoved = grownBytes(this.wasMoved, this.slots.length);
    readSlot(slot, this.rest);
    return number;
  }

  private partOf({ channel, fit }: BoundChannel, slot: number, playback: Playback): Part {
    const { sampler } = channel;
    const { node, path } = this.slots[slot]!; // just found
    const isDirect = !fit && path !== 'weights' && path !== 'property';
    const part: Part = {
      slot,
      node: isDirect ? node : undefined,
      path,
      sampler,
      fit,
      hint: 0,
      reference: undefined,
    };
    if (!playback.isAdditive) return part;
    part.reference = new Float64Array(sampler.components);
    this.take(part, playback.reference, part.reference, 0);
    return part;
  }

  /** A channel's value at a time, as it is for this model. */
  private take(part: Part, time: number, out: Float64Array, o: number): void {
    const { sampler, fit } = part;
    const { kind } = this.slots[part.slot]!; // a slot of ours
    part.hint = sampleAnimation(sampler, time, out, o, kind, part.hint);
    if (!fit) return;
    if (fit.turn) multiplyRotations(out, o, fit.turn, 0, out, o);
    if (!fit.ratio) return;
    for (let k = 0; k < 3; k++)
      out[o + k] = (fit.at?.[k] ?? 0) + (out[o + k]! - (fit.from?.[k] ?? 0)) * fit.ratio[k]!; // three
  }

  private compose(): void {
    const { playbacks, result, rest, isMoved, wasMoved } = this;
    const [first] = playbacks;
    const isAlone = playbacks.length === 1 && first!.weight >= 1 && !first!.isAdditive; // there is one
    if (isAlone && first === this.alone) {
      this.moveAlone(first);
      return;
    }
    this.alone = isAlone ? first : undefined;
    isMoved.fill(0);
    result.set(rest);
    for (let first = 0; first < playbacks.length;) {
      const { layer } = playbacks[first]!; // first < length
      let end = first;
      let shared = 0;
      for (; end < playbacks.length && playbacks[end]!.layer === layer; end++)
        if (!playbacks[end]!.isAdditive && playbacks[end]!.weight > 0) shared++;
      this.composeLayer(first, end, shared);
      first = end;
    }
    const { slots } = this;
    for (let s = 0; s < slots.length; s++) {
      if (isMoved[s] !== 0 || wasMoved[s] !== 0) writeSlot(slots[s]!, result); // s < length
      wasMoved[s] = isMoved[s]!;
    }
  }

  /** One animation that covers everything, as it did before: its values go where they belong at once. */
  private moveAlone(playback: Playback): void {
    const { slots, result } = this;
    let alone = this.directly;
    if (alone?.playback !== playback) {
      const parts = this.parts.get(playback)!; // entered by play
      const direct = parts.filter((part): part is Part & DirectChannel => part.node !== undefined);
      const others = parts.filter(({ node }) => node === undefined);
      this.directly = alone = { playback, channels: new DirectChannels(direct), others };
    }
    playback.isStale = false;
    clock[0] = playback.time;
    alone.channels.write(this.node.scene.columns);
    for (let i = 0; i < alone.others.length; i++) {
      const part = alone.others[i]!; // i < length
      const slot = slots[part.slot]!; // a slot of ours
      this.take(part, playback.time, result, slot.at);
      writeSlot(slot, result);
    }
  }

  /** @param shared how many animations of the layer share it */
  private composeLayer(first: number, end: number, shared: number): void {
    const { playbacks, sum, total, slots, result } = this;
    if (shared > 1) {
      sum.fill(0);
      total.fill(0);
    }
    for (let i = first; i < end; i++) {
      const playback = playbacks[i]!; // i < end, here and below
      playback.isStale = false;
      if (playback.isAdditive || playback.weight <= 0) continue;
      if (shared === 1) this.cover(playback);
      else this.share(playback);
    }
    if (shared > 1) {
      for (let s = 0; s < slots.length; s++) {
        const weight = total[s]!; // s < length
        if (weight > 0) mix(slots[s]!, result, sum, 1 / weight, Math.min(1, weight));
      }
    }
    for (let i = first; i < end; i++)
      if (playbacks[i]!.isAdditive && playbacks[i]!.weight > 0) this.add(playbacks[i]!);
  }

  /** The layer's only animation goes straight into the result. */
  private cover(playback: Playback): void {
    const parts = this.parts.get(playback)!; // entered by play
    const { time, weight } = playback;
    const { slots, result, sample, isMoved } = this;
    for (let i = 0; i < parts.length; i++) {
      const part = parts[i]!; // i < length
      const slot = slots[part.slot]!; // a slot of ours, here and below
      isMoved[part.slot] = 1;
      if (weight >= 1) {
        this.take(part, time, result, slot.at);
        continue;
      }
      this.take(part, time, sample, 0);
      blend(slot, result, sample, weight);
    }
  }

  private share(playback: Playback): void {
    const parts = this.parts.get(playback)!; // entered by play
    const { time, weight } = playback;
    const { slots, sum, total, sample, isMoved } = this;
    for (let i = 0; i < parts.length; i++) {
      const part = parts[i]!; // i < length
      const { at, width, kind } = slots[part.slot]!; // a slot of ours
      isMoved[part.slot] = 1;
      this.take(part, time, sample, 0);
      // The same turn is two quaternions: the one on the side of the others counts.
      let side = 1;
      if (kind === 'rotation') {
        let cosine = 0;
        for (let k = 0; k < 4; k++) cosine += sum[at + k]! * sample[k]!; // four
        if (cosine < 0) side = -1;
      }
      for (let k = 0; k < width; k++) sum[at + k]! += sample[k]! * weight * side; // width
      total[part.slot]! += weight;
    }
  }

  private add(playback: Playback): void {
    const parts = this.parts.get(playback)!; // entered by play
    const { time, weight } = playback;
    const { slots, result, sample, turned, isMoved } = this;
    for (let i = 0; i < parts.length; i++) {
      const part = parts[i]!; // i < length
      const { at, width, kind, path } = slots[part.slot]!; // a slot of ours
      const reference = part.reference!; // additive animations have one
      isMoved[part.slot] = 1;
      this.take(part, time, sample, 0);
      if (kind === 'rotation') {
        // From the reference to the value in the node's own axes, by as much as the weight says.
        for (let k = 0; k < 3; k++) turned[k] = -reference[k]!; // four
        turned[3] = reference[3]!;
        multiplyRotations(sample, 0, turned, 0, sample, 0);
        slerp(sample, 0, NO_TURN, 0, sample, 0, weight);
        multiplyRotations(result, at, result, at, sample, 0);
        normalizeRotation(result, at);
      } else if (path === 'scale') {
        for (let k = 0; k < width; k++) {
          const ratio = reference[k] === 0 ? 1 : sample[k]! / reference[k]!; // width
          result[at + k]! *= 1 + (ratio - 1) * weight;
        }
      } else {
        for (let k = 0; k < width; k++) result[at + k]! += (sample[k]! - reference[k]!) * weight; // width
      }
    }
  }
}

const NO_TURN = [0, 0, 0, 1];

/** Whether a node is one of those that are meant. */
function masked({ mask }: StartOptions): (node: SceneNode) => boolean {
  if (!mask) return () => true;
  const { include, exclude } = isMaskOfNodes(mask) ? { include: mask, exclude: undefined } : mask;
  const within = (tops: SceneNode | readonly SceneNode[]): ((node: SceneNode) => boolean) => {
    const all = new Set<SceneNode>();
    for (const top of Array.isArray(tops) ? (tops as readonly SceneNode[]) : [tops as SceneNode])
      for (const node of [top, ...top.descendants()]) all.add(node);
    return (node) => all.has(node);
  };
  const isIn = include ? within(include) : undefined;
  const isOut = exclude ? within(exclude) : undefined;
  return (node) => (isIn?.(node) ?? true) && !isOut?.(node);
}

const isMaskOfNodes = (mask: AnimationMask): mask is SceneNode | readonly SceneNode[] =>
  Array.isArray(mask) || 'row' in mask;
