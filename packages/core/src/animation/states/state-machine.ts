import { LensError } from '../../errors/lens-error.js';
import { nearHint } from '../../errors/near-names.js';
import type { SceneNode } from '../../scene/scene-node.js';
import type { Motion } from '../motion.js';
import type { Playback } from '../playback.js';
import type { Condition, ParameterDefinition, StatesDefinition } from './definition.js';
import { checkStates, type FlatLayer, type FlatTransition, type LeafState, startsFrom } from './flatten.js';

/** How a layer stands. */
export interface LayerView {
  name: string;
  /** Path of the state that it is in, or goes over to. */
  state: string;
  /** Rounds of the state's animation that were played: 1.5 is the middle of the second. */
  progress: number;
  /** The state that it comes from, and how much of the way is done, 0 to 1; undefined outside transitions. */
  transition: { from: string; share: number } | undefined;
  /** Why transitions from here did or did not pass the last time. */
  reasons: TransitionReason[];
}

export interface TransitionReason {
  to: string;
  passed: boolean;
  /** What held it back, such as `speed is 0.2, not above 1`; what let it pass. */
  why: string;
}

/** A state that is heard, at its animations' shares of its weight. */
interface Sounding {
  state: string;
  playbacks: Playback[];
  /** By playback, 0 to 1. */
  shares: number[];
  weight: number;
  /** A second. */
  rate: number;
}

/** What became of a transition: words are made of it when somebody asks. */
interface Look {
  transition: FlatTransition;
  /** Number of the condition that held it back, or one of the two below. */
  held: number;
  /** Value of that condition's parameter, or rounds played. */
  value: number | boolean;
}

const PASSED = -1;
const TOO_EARLY = -2;

interface Layer {
  flat: FlatLayer;
  nodes: SceneNode[] | undefined;
  sounding: Sounding[];
  current: Sounding;
  from: string;
  fade: number;
  faded: number;
  isInterruptible: boolean;
  /** What the last look at the transitions found; the first `looked` count. */
  looks: Look[];
  looked: number;
}

/** By the motion that they run, for tools that look into a running scene. */
const running = new WeakMap<Motion, StateMachine>();

/** What runs a motion; undefined where nothing does. */
export const machineOf = (motion: Motion): StateMachine | undefined => running.get(motion);

/**
 * Runs a state machine on a motion: `set` and `trigger` give it its parameters, `update` lets it pass transitions and moves
 * the nodes.
 *
 *     const machine = new StateMachine(motion, definition);
 *     machine.set('climb', 0.4);
 *     machine.trigger('startled');
 *     machine.update(delta);
 */
export class StateMachine {
  /** What is no fault of the definition, but is seldom meant. */
  readonly warnings: readonly string[];
  private readonly definitions: Record<string, ParameterDefinition>;
  private readonly values = new Map<string, number | boolean>();
  private readonly layers: Layer[];

  /** @throws LensError `states/...` for what is wrong with the definition, with near names; see `checkStates` */
  constructor(
    readonly motion: Motion,
    definition: StatesDefinition,
  ) {
    const { layers, warnings } = checkStates(definition, motion.names);
    this.warnings = warnings;
    this.definitions = definition.parameters ?? {};
    for (const [name, { type, default: usual }] of Object.entries(this.definitions))
      this.values.set(name, usual ?? (type === 'number' ? 0 : false));
    this.layers = layers.map((flat, i) => {
      const nodes = flat.definition.mask?.map((name) => this.nodeOf(name));
      const layer = {
        flat,
        nodes,
        sounding: [],
        from: '',
        fade: 0,
        faded: 0,
        isInterruptible: false,
        looks: [],
        looked: 0,
      } as unknown as Layer;
      layer.current = this.begin(layer, i, flat.start, 1);
      return layer;
    });
    running.set(motion, this);
  }

  /** What its parameters are. */
  get parameters(): Readonly<Record<string, ParameterDefinition>> {
    return this.definitions;
  }

  /** Sets a number or a boolean. @throws LensError `states/parameter` */
  set(name: string, value: number | boolean): this {
    const { type } = this.parameter(name);
    const fits =
      type === 'number' ? Number.isFinite(value) : type === 'boolean' && typeof value === 'boolean';
    if (!fits)
      throw new LensError('states/parameter', `"${name}" is a ${type} and cannot be ${String(value)}`, {
        hint: type === 'trigger' ? `Call trigger("${name}").` : '',
      });
    this.values.set(name, value);
    return this;
  }

  /** Lets a trigger wait for a transition that takes it. @throws LensError `states/parameter` */
  trigger(name: string): this {
    if (this.parameter(name).type !== 'trigger')
      throw new LensError('states/parameter', `"${name}" is no trigger`, { hint: 'Call set.' });
    this.values.set(name, true);
    return this;
  }

  /** Value of a parameter; of a trigger whether it waits. */
  get(name: string): number | boolean {
    this.parameter(name);
    return this.values.get(name)!; // every parameter has one
  }

  /** Passes what transitions may pass, and moves the nodes by some seconds. */
  update(delta: number): void {
    for (let i = 0; i < this.layers.length; i++) {
      const layer = this.layers[i]!; // i < length
      this.pass(layer, i);
      this.fade(layer, delta);
      for (const sounding of layer.sounding) this.balance(layer, sounding);
    }
    this.motion.update(delta);
  }

  /** How the layers stand. */
  inspect(): LayerView[] {
    return this.layers.map(({ flat, current, from, fade, faded, looks, looked }) => ({
      name: flat.definition.name,
      state: current.state,
      progress: progressOf(current),
      transition: faded < fade ? { from, share: faded / fade } : undefined,
      reasons: looks.slice(0, looked).map((look) => this.reasonOf(look)),
    }));
  }

  private parameter(name: string): ParameterDefinition {
    const found = this.definitions[name];
    if (found) return found;
    throw new LensError('states/parameter', `there is no parameter "${name}"`, {
      hint: nearHint(name, Object.keys(this.definitions)),
    });
  }

  private nodeOf(name: string): SceneNode {
    const { node } = this.motion;
    const found = node.name === name ? node : node.find(name);
    if (found) return found;
    const names = [...node.descendants()].map((one) => one.name);
    throw new LensError('states/node', `there is no node "${name}" below "${node.name}"`, {
      hint: nearHint(name, names),
    });
  }

  private begin(layer: Layer, number: number, state: string, weight: number): Sounding {
    const { flat, nodes } = layer;
    const definition = flat.states.get(state)!; // states of the layer alone are begun
    const { playbackRate = 1, iterations = Infinity, direction = 'normal' } = definition;
    const playbacks = clipsOf(definition).map((clip) =>
      this.motion.play(clip, {
        iterations,
        direction,
        playbackRate,
        weight: 0,
        layer: number,
        additive: flat.definition.additive ?? false,
        ...(nodes ? { mask: nodes } : {}),
      }),
    );
    const sounding: Sounding = { state, playbacks, shares: playbacks.map(() => 1), weight, rate: 0 };
    layer.sounding.push(sounding);
    return sounding;
  }

  /** The first transition that may pass does. */
  private pass(layer: Layer, number: number): void {
    layer.looked = 0;
    if (layer.faded < layer.fade && !layer.isInterruptible) return;
    const { state } = layer.current;
    for (const transition of layer.flat.transitions) {
      if (!startsFrom(transition, state)) continue;
      const look = (layer.looks[layer.looked++] ??= { transition, held: PASSED, value: 0 });
      this.lookAt(look, transition, layer.current);
      if (look.held !== PASSED) continue;
      for (const { parameter } of transition.when ?? [])
        if (this.definitions[parameter]?.type === 'trigger') this.values.set(parameter, false);
      const { fade = 0.2, interruptible = false } = transition;
      layer.from = state;
      layer.fade = fade;
      layer.faded = 0;
      layer.isInterruptible = interruptible;
      for (const other of layer.sounding) other.rate = fade > 0 ? -other.weight / fade : -Infinity;
      layer.current = this.begin(layer, number, transition.target, fade > 0 ? 0 : 1);
      layer.current.rate = fade > 0 ? 1 / fade : 0;
      return;
    }
  }

  /** Whether a transition may pass, and if not, what is in its way. */
  private lookAt(look: Look, transition: FlatTransition, current: Sounding): void {
    const { when = NONE, after = 0 } = transition;
    look.transition = transition;
    look.held = TOO_EARLY;
    look.value = progressOf(current);
    if (look.value < after) return;
    for (let i = 0; i < when.length; i++) {
      const condition = when[i]!; // i < length
      look.held = i;
      look.value = this.values.get(condition.parameter)!; // checked when the machine was made
      if (!this.holds(condition, look.value)) return;
    }
    look.held = PASSED;
  }

  private holds({ parameter, is, above, below }: Condition, value: number | boolean): boolean {
    if (this.definitions[parameter]?.type === 'trigger') return value === true;
    if (is !== undefined && value !== is) return false;
    return (
      !(above !== undefined && !(Number(value) > above)) && !(below !== undefined && !(Number(value) < below))
    );
  }

  private reasonOf({ transition, held, value }: Look): TransitionReason {
    const { target, when = NONE, after } = transition;
    const tell = (why: string): TransitionReason => ({ to: target, passed: held === PASSED, why });
    if (held === PASSED) return tell(when.length > 0 ? 'all conditions hold' : 'it has no conditions');
    if (held === TOO_EARLY) return tell(`${Number(value).toFixed(2)} rounds are played, not ${after}`);
    const { parameter, is, above, below } = when[held]!; // one of them
    if (this.definitions[parameter]?.type === 'trigger') return tell(`"${parameter}" was not triggered`);
    if (is !== undefined && value !== is) return tell(`${parameter} is ${value}, not ${is}`);
    const isLow = above !== undefined && !(Number(value) > above);
    return tell(`${parameter} is ${value}, not ${isLow ? `above ${above}` : `below ${below}`}`);
  }

  private fade(layer: Layer, delta: number): void {
    layer.faded = Math.min(layer.fade, layer.faded + delta);
    for (let i = layer.sounding.length - 1; i >= 0; i--) {
      const sounding = layer.sounding[i]!; // i in range
      sounding.weight = Math.min(
        1,
        Math.max(0, sounding.weight + (sounding.rate === 0 ? 0 : sounding.rate * delta)),
      );
      if (sounding.rate === -Infinity) sounding.weight = 0;
      if (sounding === layer.current || sounding.weight > 0) continue;
      for (const playback of sounding.playbacks) playback.stop();
      layer.sounding.splice(i, 1);
    }
  }

  /** Gives a state's animations their shares, and lengths that agree. */
  private balance(layer: Layer, { state, playbacks, shares, weight }: Sounding): void {
    const { flat } = layer;
    const definition = flat.states.get(state)!; // states of the layer alone are begun
    if ('by' in definition) {
      this.writeShares(definition, shares);
      let duration = 0;
      for (let i = 0; i < playbacks.length; i++) duration += shares[i]! * durationOf(playbacks[i]!); // i < length, here and below
      const { playbackRate = 1 } = definition;
      for (let i = 0; i < playbacks.length; i++)
        playbacks[i]!.playbackRate =
          duration > 0 ? (playbackRate * durationOf(playbacks[i]!)) / duration : playbackRate;
    }
    const whole = weight * (flat.definition.weight ?? 1);
    for (let i = 0; i < playbacks.length; i++) playbacks[i]!.weight = whole * shares[i]!;
  }

  private writeShares(definition: LeafState, shares: number[]): void {
    if (!('by' in definition)) return;
    const { by, animations } = definition;
    if (typeof by === 'string') {
      const x = this.values.get(by) as number; // a number, by the check
      const places = animations.map(({ at }) => at as number);
      lineShares(places, x, shares);
      return;
    }
    const [x, y] = [this.values.get(by[0]) as number, this.values.get(by[1]) as number];
    let sum = 0;
    animations.forEach(({ at }, i) => {
      const [px, py] = at as [number, number];
      // A millionth keeps an animation that is met exactly from dividing by nothing.
      shares[i] = 1 / ((px - x) ** 2 + (py - y) ** 2 + 1e-6);
      sum += shares[i]!;
    });
    for (let i = 0; i < shares.length; i++) shares[i]! /= sum;
  }
}

const NONE: readonly Condition[] = [];

/** The two places beside a number share by distance; beyond the outermost this has all. */
function lineShares(places: readonly number[], x: number, shares: number[]): void {
  shares.fill(0);
  let [below, above] = [-1, -1];
  places.forEach((place, i) => {
    if (place <= x && (below < 0 || place > places[below]!)) below = i; // a place, here and below
    if (place >= x && (above < 0 || place < places[above]!)) above = i;
  });
  if (below < 0 || above < 0 || below === above) {
    shares[Math.max(below, above)] = 1;
    return;
  }
  const width = places[above]! - places[below]!;
  const share = width > 0 ? (x - places[below]!) / width : 0;
  shares[below]! += 1 - share;
  shares[above]! += share;
}

function clipsOf(definition: LeafState): string[] {
  return 'animation' in definition
    ? [definition.animation]
    : definition.animations.map(({ animation }) => animation);
}

const durationOf = (playback: Playback): number => playback.bound.animation.duration;

function progressOf({ playbacks }: Sounding): number {
  const [first] = playbacks;
  return first ? first.played : 0;
}
